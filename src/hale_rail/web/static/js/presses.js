// What buttons of the page itself do; everything that changes a case is a form.
import { startCountdown } from "./clocks.js";
import { byId } from "./find.js";
import { switchVoice } from "./voice.js";
import { switchTone } from "./tone.js";

const root = document.documentElement;

function announce(text) {
  const echo = byId("echo");
  if (echo) {
    echo.textContent = text;
  }
}

export const presses = {
  theme() {
    const next = root.dataset.bsTheme === "dark" ? "light" : "dark";
    root.dataset.bsTheme = next;
    localStorage.setItem("hale-rail-theme", next);
  },
  keys() {
    window.bootstrap.Modal.getOrCreateInstance(byId("keys")).show();
  },
  print() {
    window.print();
  },
  tone() {
    announce(switchTone() ? "Tone on" : "Tone off");
  },
  voice() {
    announce(switchVoice() ? "Voice on" : "Voice off");
  },
  countdown: startCountdown,
  // a tablet's camera at once; the photo is sent as soon as it was taken
  camera(button) {
    const field = button.closest("form").querySelector("[data-camera]");
    field.setAttribute("capture", "environment");
    field.addEventListener("change", () => field.files.length && field.form.requestSubmit(), { once: true });
    field.click();
  },
  // a letter that says the reading is the reading
  letter(button) {
    const field = button.closest("form").querySelector("[data-tray-input]");
    field.value = button.value;
    field.form.requestSubmit();
  },
  // a sign of a phone's keypad goes where the cursor is
  sign(button) {
    const field = button.closest("form").querySelector("[data-tray-input]");
    field.setRangeText(button.textContent.trim(), field.selectionStart, field.selectionEnd, "end");
    field.dispatchEvent(new Event("input", { bubbles: true }));
    field.focus();
  },
};

// A page that was asked for to be printed is, once it is there whole.
function printIfAsked() {
  if (location.hash === "#print") {
    window.addEventListener("load", () => window.print(), { once: true });
  }
}

export function install() {
  printIfAsked();
  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-do]");
    if (button) {
      presses[button.dataset.do](button);
    }
  });
}
