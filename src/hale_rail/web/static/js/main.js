// The pages work without script; it saves the hand a way to the mouse. One concern a module.
import { editors } from "./shorts/editor.js";
import { boards, listenToBoards } from "./shorts/trace.js";
import { places } from "./places/where.js";
import { tick } from "./clocks.js";
import { keepDrafts, restore } from "./drafts.js";
import { remember, settle } from "./focus.js";
import { listenToFeet, showFoot } from "./foot_switch.js";
import { listen } from "./keys.js";
import { labs, listenToLabs } from "./ripple/lab.js";
import { listenToOthers } from "./live.js";
import { install } from "./presses.js";
import { rove } from "./roving.js";

function draw() {
  rove();
  boards();
  editors();
  labs();
  places();
  showFoot();
}

function lay() {
  settle();
  draw();
}

install();
listenToFeet();
listen();
listenToBoards();
listenToLabs();
listenToOthers(() => {
  draw();
  tick();
});
keepDrafts();
setInterval(tick, 200);
// What comes beside the work, or into a fold that was opened, leaves the hand where it is.
const isBeside = (event) => event.detail.target.matches("#echo, #cases, #preview, #stages, #asked-now, .fold-body");
document.addEventListener("htmx:beforeRequest", (event) => {
  if (!isBeside(event)) {
    remember();
  }
});
document.addEventListener("htmx:afterSettle", (event) => {
  if (!isBeside(event)) {
    lay();
  } else if (event.detail.target.id === "stages") {
    draw(); // a drawing may have come with it
  }
});
restore();
lay();
