// After each page or part of one: the cursor in the tray, and the tone of what was just read.
import { tick } from "./clocks.js";
import { find, modalIsOpen, trayInput } from "./find.js";
import { sound } from "./tone.js";

let lastReading = null;

export function settle() {
  const input = trayInput();
  if (input && !modalIsOpen() && !find("[data-keep-focus]")) {
    input.focus({ preventScroll: true });
    if (input.getAttribute("aria-invalid") === "true") {
      input.select();
    }
  }
  const result = find("[data-tone]");
  if (result && result.dataset.reading !== lastReading) {
    lastReading = result.dataset.reading;
    sound(result.dataset.tone);
  }
  tick();
}
