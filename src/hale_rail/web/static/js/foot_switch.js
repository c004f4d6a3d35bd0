// A foot switch: the keys that it sends are taught here, each to a press of the page.
import { byId, find, findAll } from "./find.js";

const FOOT = "hale-rail-foot";
const TARGETS = {
  capture: "[data-capture]",
  next: "[data-walk=next]",
  back: "[data-walk=previous]",
  strike: "[data-undo]",
};
let teaching = "";

function taught() {
  try {
    return JSON.parse(localStorage.getItem(FOOT)) || {};
  } catch {
    return {};
  }
}

export function showFoot() {
  const keys = taught();
  findAll("[data-foot-key]").forEach((cell) => {
    cell.textContent = keys[cell.dataset.footKey] || "none";
  });
}

function tell(text) {
  const said = find("[data-foot-says]");
  if (said) {
    said.textContent = text;
  }
}

function keep(action, key) {
  const keys = taught();
  Object.keys(keys).forEach((other) => {
    if (keys[other] === key) {
      delete keys[other];
    }
  });
  if (key) {
    keys[action] = key;
  } else {
    delete keys[action];
  }
  localStorage.setItem(FOOT, JSON.stringify(keys));
  showFoot();
}

function learn(event) {
  event.preventDefault();
  event.stopPropagation();
  if (["Shift", "Control", "Alt", "Meta"].includes(event.key)) {
    return;
  }
  tell(event.key === "Escape" ? "Nothing taught." : `${event.key} is taught.`);
  if (event.key !== "Escape") {
    keep(teaching, event.key);
  }
  teaching = "";
}

function onKey(event) {
  if (teaching) {
    learn(event);
    return;
  }
  const action = Object.entries(taught()).find(([, key]) => key === event.key);
  const target = action && find(TARGETS[action[0]]);
  if (target && !event.repeat && !byId("keys").classList.contains("show")) {
    event.preventDefault();
    event.stopPropagation();
    target.click();
  }
}

function onClick(event) {
  const teach = event.target.closest("[data-foot-teach]");
  const forget = event.target.closest("[data-foot-forget]");
  if (teach) {
    teaching = teach.dataset.footTeach;
    tell("Press the switch now; Esc for none.");
  } else if (forget) {
    keep(forget.dataset.footForget, "");
  }
}

export function listenToFeet() {
  document.addEventListener("keydown", onKey, true);
  document.addEventListener("click", onClick);
}
