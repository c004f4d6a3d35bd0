// Hands free: keys that a foot switch sends, taught here, and a voice that says what was read and what is next.
import { byId, find, findAll } from "./find.js";

const FOOT = "hale-rail-foot";
const VOICE = "hale-rail-voice";
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

export const voiceIsOn = () => localStorage.getItem(VOICE) === "on";

function speak(text) {
  const voice = window.speechSynthesis;
  if (voice && voiceIsOn() && text) {
    voice.cancel();
    voice.speak(new SpeechSynthesisUtterance(text));
  }
}

export function switchVoice() {
  localStorage.setItem(VOICE, voiceIsOn() ? "off" : "on");
  speak("Voice on");
  return voiceIsOn();
}

const words = (selector) => {
  const found = find(selector);
  return found ? found.textContent.replace(/\s+/g, " ").trim() : "";
};

// The verdict of what was just read, then the point that is next.
export function say() {
  const problem = words(".tray .echo-problem");
  const next = words(".tray .probe");
  const read = problem || words(".tray .result-verdict");
  speak([read, next && `Next: ${next}`].filter(Boolean).join(". "));
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
