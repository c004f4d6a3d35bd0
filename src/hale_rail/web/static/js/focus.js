// After each page or part of one: the cursor in the tray, and the tone of what was just read.
import { tick } from "./clocks.js";
import { byId, find, findAll, modalIsOpen, trayInput } from "./find.js";
import { say } from "./voice.js";
import { sound } from "./tone.js";

const BUTTONS = "[data-presses] button";
let lastReading = null;
let pressed = null;

// A button that its own press takes away: the one that follows it in the list is next.
export function remember() {
  const place = findAll(BUTTONS).indexOf(document.activeElement);
  pressed = place < 0 ? null : { id: document.activeElement.id, place };
}

function goOn() {
  const buttons = findAll(BUTTONS);
  const own = pressed.id && byId(pressed.id);
  const next = own || buttons[Math.min(pressed.place, buttons.length - 1)];
  pressed = null;
  if (next) {
    next.focus();
  }
  return Boolean(next);
}

// The list in the middle stands at what the tray asks for.
function follow() {
  const line = find(".middle [aria-current=true]:not(a)");
  if (line) {
    line.scrollIntoView({ block: "nearest" });
  }
}

// What a form refused says why in view, and its field has the cursor; a standing problem moves nothing.
function showRefused() {
  const told = find("main .invalid-feedback, main form .problem[role=alert]");
  if (!told) {
    return;
  }
  const field = find("main [aria-invalid=true]:not([data-tray-input])");
  if (field && field.type !== "hidden") {
    field.focus({ preventScroll: true });
  }
  const { top, bottom } = told.getBoundingClientRect();
  if (top < 0 || bottom > window.innerHeight) {
    told.scrollIntoView({ block: "center" });
  }
}

export function settle() {
  const input = trayInput();
  if (pressed && goOn()) {
    tick();
  } else if (input && !modalIsOpen() && !find("[data-keep-focus]")) {
    input.focus({ preventScroll: true });
    if (input.getAttribute("aria-invalid") === "true") {
      input.select();
    }
  }
  follow();
  showRefused();
  const result = find("[data-tone]");
  if (result && result.dataset.reading !== lastReading) {
    lastReading = result.dataset.reading;
    sound(result.dataset.tone);
    say();
  } else if (find(".tray .echo-problem")) {
    say();
  }
  tick();
}
