// The pages work without script; it saves the hand a way to the mouse. One concern a module.
import { editors } from "./board/editor.js";
import { boards, listenToBoards } from "./board/trace.js";
import { tick } from "./clocks.js";
import { keepDrafts, restore } from "./drafts.js";
import { remember, settle } from "./focus.js";
import { listenToFeet, showFoot } from "./hands.js";
import { listen } from "./keys.js";
import { labs, listenToLabs } from "./lab/lab.js";
import { listenToOthers } from "./live.js";
import { install } from "./presses.js";
import { rove } from "./roving.js";

function draw() {
  rove();
  boards();
  editors();
  labs();
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
document.addEventListener("htmx:beforeRequest", remember);
document.addEventListener("htmx:afterSettle", (event) => {
  const partial = ["echo", "cases", "preview"];
  if (!partial.includes(event.detail.target.id)) {
    lay();
  }
});
restore();
lay();
