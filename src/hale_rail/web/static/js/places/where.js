// A board's photo: parts are opened, placed and marked by mouse, finger or keys.
import { Hand } from "./hand.js";
import { layPoints } from "./laying.js";
import { Photo, last, spotAt } from "./photo.js";
import { Sender } from "./sending.js";

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const MODES = { v: "open", p: "place", r: "row", i: "ring", a: "arrow", w: "word" };
const HINTS = {
  open: "",
  place: "Press where the part in hand stands.",
  row: "Name the row, press its first part, then its last.",
  ring: "Press the ring’s middle, then its rim.",
  arrow: "Press the arrow’s tail, then its head.",
  word: "Type the word, then press where it stands.",
};
const ASKS = { row: "Row, such as C20 to C27", ring: "Word beside it", arrow: "Word beside it", word: "Word" };
const KEPT = "hale-rail-where";
let here = null;

class Where {
  constructor(root) {
    this.root = root;
    this.stage = root.querySelector("[data-stage]");
    this.photo = new Photo(this.stage, (at, event) => this.press(at, event));
    this.hand = new Hand(root);
    this.sender = new Sender(this.stage, (...told) => this.answered(...told), (...why) => this.refused(...why));
    this.done = [];
    this.ends = [];
    this.listen();
    if (last.by === root.dataset.by && last.box) {
      this.photo.view.box = [...last.box];
      this.photo.view.show();
    }
    last.by = root.dataset.by;
    const wasPlacing = sessionStorage.getItem(KEPT) === "place" && this.hand.part;
    this.turn(this.hand.isChosen || wasPlacing ? "place" : "open");
  }

  listen() {
    this.stage.addEventListener("keydown", (event) => this.key(event));
    // with the row or the word typed, Enter leads to the photo
    this.root.querySelector("[data-words-input]").addEventListener("keydown", (event) => {
      if (event.key === "Enter") {
        event.preventDefault();
        this.stage.focus({ preventScroll: true });
      }
    });
    // a ring leads to its part only where a press opens, and not at the end of a drag
    this.stage.addEventListener("click", (event) => {
      if (this.mode !== "open" || this.photo.view.wasMoved) {
        event.preventDefault();
        event.stopPropagation();
      }
    }, true);
    this.root.addEventListener("click", (event) => {
      const button = event.target.closest("[data-mode], [data-tool]");
      const part = event.target.closest("[data-part]");
      if (button) {
        this.use(button.dataset.mode, button.dataset.tool);
      } else if (part && this.mode === "place") {
        event.preventDefault();
        event.stopPropagation();
        this.hand.take(part.dataset.part);
        this.stage.focus({ preventScroll: true });
      }
    }, true);
  }

  use(mode, tool) {
    if (mode) {
      this.turn(mode);
    } else if (tool === "next") {
      this.hand.skip();
    } else if (tool === "move") {
      this.move();
    } else if (tool === "back") {
      this.back();
    } else {
      this.photo.tool(tool);
    }
    const asks = mode && ASKS[mode];
    (asks ? this.root.querySelector("[data-words-input]") : this.stage).focus({ preventScroll: true });
  }

  // The part that is chosen goes into the hand, to be placed anew.
  move() {
    const chosen = this.hand.chosen();
    if (chosen) {
      this.turn("place");
      this.hand.take(chosen);
    }
  }

  turn(mode) {
    const isThere = this.root.querySelector(`[data-mode=${mode}]`);
    this.mode = isThere ? mode : "open";
    sessionStorage.setItem(KEPT, this.mode);
    this.ends = [];
    this.photo.picked = [];
    this.photo.drawCross();
    this.stage.classList.toggle("opens", this.mode === "open");
    this.stage.toggleAttribute("data-at-work", this.mode !== "open");
    this.root.querySelectorAll("[data-mode]").forEach((button) => {
      button.setAttribute("aria-pressed", String(button.dataset.mode === this.mode));
    });
    this.root.querySelector("[data-words]").hidden = !ASKS[this.mode];
    this.root.querySelector("[data-words-label]").textContent = ASKS[this.mode] || "";
    this.hand.show(this.mode === "place");
    this.say(HINTS[this.mode]);
  }

  say(words, isBad = false) {
    const said = this.root.querySelector("[data-said]");
    said.textContent = words;
    said.classList.toggle("problem", isBad);
  }

  key(event) {
    const isFree = !event.ctrlKey && !event.metaKey && !event.altKey;
    if (isFree && this.keyed(this.named(event), event.shiftKey)) {
      event.preventDefault();
      event.stopPropagation();
    }
  }

  named({ key }) {
    return key.length === 1 ? key.toLowerCase() : key;
  }

  keyed(key, isFar) {
    const keys = {
      Enter: () => {
        this.stage.focus({ preventScroll: true });
        this.press(this.photo.cross);
      },
      n: () => this.hand.skip(),
      m: () => this.move(),
      f: () => this.root.querySelector("[data-find]")?.focus(),
      Backspace: () => this.back(),
      Escape: () => (this.mode === "open" ? this.stage.blur() : this.turn("open")),
      "+": () => this.photo.tool("in"),
      "-": () => this.photo.tool("out"),
      0: () => this.photo.tool("fit"),
    };
    if (ARROWS[key]) {
      this.stage.focus({ preventScroll: true });
      this.photo.move(ARROWS[key], isFar);
    } else if (MODES[key] && this.root.querySelector(`[data-mode=${MODES[key]}]`)) {
      this.use(MODES[key]);
    } else if (keys[key]) {
      keys[key]();
    } else {
      return false;
    }
    return true;
  }

  // A press on the photo, or Enter at the cross.
  press(at, event = null) {
    if (this.mode === "open") {
      const spot = event?.target.closest("[data-spot]");
      if (!spot) {
        this.open(this.photo.nearest(at));
      }
    } else if (this.mode === "place") {
      this.place(at);
    } else {
      this.end(at);
    }
  }

  open(spot) {
    if (spot) {
      spot.dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true }));
    }
  }

  place(at) {
    const part = this.hand.part;
    if (!part) {
      this.say("Every part has a place. Press one in the list to move it.");
      return;
    }
    const spot = this.stage.querySelector(`[data-spot="${part}"]`);
    const before = spot && spotAt(spot);
    // one that stood on another board cannot be taken back to it from here
    if (before || !this.hand.hasPlace(part)) {
      this.done.push({ part, before });
    }
    this.put(part, at);
    this.hand.placed(part);
    this.say("");
  }

  put(part, at) {
    const [x, y] = this.photo.onBoard(at);
    this.photo.picked = [];
    this.sketch(at);
    this.sender.send(this.stage.dataset.place, { part, x: x.toFixed(2), y: y.toFixed(2) }, { part });
  }

  // A dot at once, until the server has drawn the ring.
  sketch(at) {
    this.stage.querySelector("[data-layer]").append(this.photo.sign(at, "M-4 0a4 4 0 1 0 8 0a4 4 0 1 0-8 0z"));
    this.photo.scaled();
  }

  // The second press of a row or a mark sends it; a word needs one.
  end(at) {
    this.ends.push(this.photo.onBoard(at));
    this.photo.picked.push(at);
    if (this.ends.length < 2 && this.mode !== "word") {
      return;
    }
    const [[x1, y1], [x2, y2]] = [this.ends[0], this.ends[1] || this.ends[0]];
    const input = this.root.querySelector("[data-words-input]");
    const fields = { x1, y1, x2, y2, refs: input.value, words: input.value, shape: this.mode };
    const address = this.mode === "row" ? this.stage.dataset.row : this.stage.dataset.mark;
    this.sender.send(address, fields, { isRow: this.mode === "row" });
    this.ends = [];
    this.photo.picked = [];
  }

  back() {
    const last = this.done.pop();
    if (!last) {
      this.say("Nothing has been placed since this page was opened.");
      return;
    }
    this.hand.take(last.part);
    if (last.before) {
      this.put(last.part, last.before);
    } else {
      this.hand.unplaced(last.part);
      this.sender.send(this.stage.dataset.back, { part: last.part }, {});
    }
  }

  answered({ layer, placed, said, newest }, { isRow }) {
    if (!this.root.isConnected) {
      return;
    }
    // what this bench did itself is no news to it
    this.root.closest("[data-newest]").dataset.newest = newest;
    const holder = document.createElement("template");
    holder.innerHTML = `<svg>${layer}</svg>`;
    this.stage.querySelector("[data-layer]").replaceWith(holder.content.querySelector("[data-layer]"));
    if (isRow) {
      this.rowPlaced(placed);
    }
    this.hand.know(placed);
    this.photo.drawCross();
    if (said) {
      this.root.querySelector("[data-words-input]").value = "";
    }
    this.say(said);
  }

  // Parts that came by a row can be taken back one by one, the last first.
  rowPlaced(placed) {
    placed.map(String).filter((part) => !this.hand.hasPlace(part)).forEach((part) => {
      this.done.push({ part, before: null });
    });
  }

  refused({ part }, problem) {
    const press = this.done.findLast((one) => one.part === part);
    this.done = this.done.filter((one) => one !== press);
    if (press && !press.before) {
      this.hand.unplaced(part);
    }
    if (part) {
      this.hand.take(part);
    }
    this.stage.querySelectorAll("[data-layer] > g:not([class])").forEach((sketch) => sketch.remove());
    this.say(problem, true);
  }
}

// A plain key outside fields; true when the photo of the page took it. Links and buttons keep their Enter.
export function whereKey(event) {
  const isOnPage = here?.root.isConnected && !(event.key === "Enter" && event.target.closest("a, button, summary"));
  return Boolean(isOnPage) && here.keyed(here.named(event), event.shiftKey);
}

// Begin on the photo of the page, where it has one that is not begun yet.
export function places() {
  const root = document.querySelector("[data-where]:not([data-begun])");
  const stage = root?.querySelector("[data-stage]");
  if (!stage) {
    return;
  }
  root.dataset.begun = "yes";
  if ("laying" in stage.dataset) {
    layPoints(root, (onPress) => new Photo(stage, onPress));
  } else {
    here = new Where(root);
  }
}
