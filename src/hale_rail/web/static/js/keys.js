// Keys: in the tray arrows walk and Alt switches; outside it plain letters lead about.
import { boardKey } from "./shorts/trace.js";
import { find, findAll, modalIsOpen } from "./find.js";
import { whereKey } from "./places/where.js";
import { labKey } from "./ripple/lab.js";
import { presses } from "./presses.js";
import { walk } from "./roving.js";

function press(selector) {
  const target = find(selector);
  if (target) {
    target.click();
  }
}

function focusOn(selector) {
  const target = find(selector);
  if (target) {
    target.focus();
  }
}

// The next of several links that switch one thing, round and round.
function turn(selector) {
  const links = findAll(selector);
  const here = links.findIndex((link) => link.getAttribute("aria-current"));
  if (links.length > 1) {
    links[(here + 1) % links.length].click();
  }
}

// One part, now: its field where the page has it, else its page.
function ask() {
  const field = find("[data-ask]");
  if (field) {
    field.focus();
  } else {
    location.assign("/ask");
  }
}

const ALT_KEYS = {
  l: () => turn("[data-condition]"),
  q: () => turn("[data-procedure]"),
  z: () => press("[data-undo]"),
  g: () => press("[data-onward]"),
  n: () => press(".next-step, .next-first"),
  enter: () => press("#act-next"),
  a: () => press("[data-again]"),
  p: () => press("[data-plug]"),
  "/": ask,
  c: () => press("[data-capture]"),
  o: () => press("#act-look"),
  x: () => press(".where-link"),
};
const PLAIN_KEYS = {
  "?": () => presses.keys(),
  t: () => presses.tone(),
  s: () => presses.voice(),
  d: () => presses.theme(),
  b: () => press(".home"),
  "[": () => press("[data-step=back]"),
  "]": () => press("[data-step=on]"),
  g: () => press("#did-gone"),
  h: () => press("#did-still"),
  a: () => press("#another"),
  n: () => focusOn(".next-test button"),
  r: () => press(".next-test a"),
  "/": ask,
  e: () => focusOn("[data-tray-input]"),
  f: () => focusOn("[data-search]"),
  w: () => press('[data-key="w"]'),
};
const TRAY_KEYS = {
  ArrowDown: () => press("[data-walk=next]"),
  ArrowUp: () => press("[data-walk=previous]"),
  "?": () => presses.keys(),
};
// No reading begins with it.
const EMPTY_TRAY_KEYS = {
  ...TRAY_KEYS,
  "/": ask,
};

const STAGE_KEY = /^[0-9w=-]$/;

function used(event, keys) {
  const action = keys[event.altKey ? event.key.toLowerCase() : event.key];
  if (action) {
    event.preventDefault();
    action();
  }
  return Boolean(action);
}

function plain(event) {
  if (boardKey(event.key) || labKey(event.key) || whereKey(event)) {
    event.preventDefault();
  } else {
    used(event, PLAIN_KEYS);
  }
}

// Only with Alt: a number that is typed where no field is must not lead to another page, and end in its tray.
function withAlt(event) {
  if (!used(event, ALT_KEYS) && STAGE_KEY.test(event.key)) {
    event.preventDefault();
    press(`[data-key="${event.key}"]`);
  }
}

function onKey(event) {
  if (modalIsOpen() || event.ctrlKey || event.metaKey) {
    return;
  }
  const field = event.target.closest("input, textarea, select");
  if (field && event.key === "Escape") {
    field.blur();
  } else if (walk(event)) {
    // the list took it
  } else if (event.altKey) {
    withAlt(event);
  } else if (field && field.matches("[data-tray-input]")) {
    used(event, field.value ? TRAY_KEYS : EMPTY_TRAY_KEYS);
  } else if (!field && !event.target.closest("[data-stage]")) {
    plain(event);
  }
}

export function listen() {
  document.addEventListener("keydown", onKey);
}
