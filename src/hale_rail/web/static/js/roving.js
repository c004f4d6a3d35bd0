// A long list with one tab stop an entry: arrows lead from entry to entry, and within one.
import { findAll } from "./find.js";

const ITEMS = "a, button, summary, input:not([type=hidden])";
const WAYS = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
const stops = () => findAll("[data-roving] [data-stop]");
const items = (stop) => [...stop.querySelectorAll(ITEMS)].filter((item) => item.offsetParent);

function choose(stop, item) {
  items(stop).forEach((each) => {
    each.tabIndex = each === item ? 0 : -1;
  });
}

// What is pressed first in an entry is its first button; once one was pressed, that one.
function usual(stop) {
  const all = items(stop);
  return all.find((item) => item.getAttribute("aria-pressed") === "true") || all.find((item) => item.name === "codes");
}

export function rove() {
  stops().forEach((stop) => {
    choose(stop, stop.contains(document.activeElement) ? document.activeElement : usual(stop));
  });
}

function step(list, here, by) {
  return list[Math.min(Math.max(list.indexOf(here) + by, 0), list.length - 1)];
}

// From the page itself an arrow leads to the first entry that nobody has looked at.
function enter() {
  const all = stops();
  const first = all.find((stop) => !stop.matches(".looked")) || all[0];
  const target = first && items(first).find((item) => item.tabIndex === 0);
  if (target) {
    target.focus();
  }
  return Boolean(target);
}

// True when the key led somewhere in the list.
export function walk(event) {
  const stop = event.target.closest("[data-stop]");
  const [across, down] = WAYS[event.key] || [];
  if (!stop && down && !event.altKey && event.target === document.body) {
    return enter();
  }
  if (!stop || across === undefined || (across && event.target.matches("input"))) {
    return false;
  }
  const next = down ? step(stops(), stop, down) : stop;
  const target = down ? items(next).find((item) => item.tabIndex === 0) : step(items(stop), event.target, across);
  choose(next, target);
  target.focus();
  event.preventDefault();
  return true;
}
