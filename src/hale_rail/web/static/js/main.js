// The pages work without script; it saves the hand a way to the mouse. One concern a module.
import { tick } from "./clocks.js";
import { settle } from "./focus.js";
import { listen } from "./keys.js";
import { install } from "./presses.js";

install();
listen();
setInterval(tick, 200);
document.addEventListener("htmx:afterSettle", (event) => {
  const partial = ["echo", "cases", "preview"];
  if (!partial.includes(event.detail.target.id)) {
    settle();
  }
});
settle();
