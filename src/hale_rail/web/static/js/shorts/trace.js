// The board of a trace: zoomed by wheel, drag and keys.
import { View, handle } from "../view.js";

let shown = null;

export function boards() {
  const svg = document.querySelector("[data-board] svg");
  if (svg && svg !== shown?.svg) {
    shown = new View(svg, svg.dataset.box.split(" ").map(Number));
    handle(shown);
  }
  if (!svg) {
    shown = null;
  }
}

const STEPS = {
  in: () => shown.zoom(1 / 1.4),
  out: () => shown.zoom(1.4),
  fit: () => shown.fit(),
};
const KEYS = {
  "+": STEPS.in,
  "-": STEPS.out,
  0: STEPS.fit,
  ArrowLeft: () => shown.pan(-0.1, 0),
  ArrowRight: () => shown.pan(0.1, 0),
  ArrowUp: () => shown.pan(0, -0.1),
  ArrowDown: () => shown.pan(0, 0.1),
};

// A plain key outside fields; true when the board took it.
export function boardKey(key) {
  if (!shown || !KEYS[key]) {
    return false;
  }
  KEYS[key]();
  return true;
}

export function listenToBoards() {
  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-zoom]");
    if (button && shown) {
      STEPS[button.dataset.zoom]();
    }
  });
}
