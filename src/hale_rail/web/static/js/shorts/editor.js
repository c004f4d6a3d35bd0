// The map editor: four modes by key, everything by mouse and by keyboard.
import { board as blank, draw } from "./draw.js";
import { Keeper } from "./keeping.js";
import { Model, empty, round } from "./model.js";
import { View, handle } from "./view.js";

const MODES = { p: "pad", c: "part", s: "segment", m: "measure" };
const HINTS = {
  pad: "Press where a pad is; arrows move the cross, Enter places. Del takes the chosen one away.",
  part: "Choose a pad, then name the part that stands on it.",
  segment: "From pad to pad; then type the width in mm, or milliohms with m.",
  measure: "Two points of known distance, then type the millimetres.",
};
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const NEAR_MM = 3;
const USUAL_WIDTH = 1;

class Editor {
  constructor(root, model) {
    this.root = root;
    this.model = model;
    this.stage = root.querySelector("[data-stage]");
    this.mode = "pad";
    this.net = "rail";
    this.chosen = {};
    this.from = "";
    this.width = USUAL_WIDTH;
    this.typed = "";
    this.told = null;
    this.cross = [model.board.width_mm / 2, model.board.height_mm / 2];
    this.measured = [];
    this.keeper = new Keeper(root, (words, isBad) => this.say(words, isBad));
    this.svg = blank(this.stage, model.board.width_mm, model.board.height_mm);
    this.view = new View(this.svg, this.whole());
    handle(this.view, (at) => this.press(at));
    this.listen();
    this.show();
  }

  whole() {
    return [-4, -4, this.model.board.width_mm + 8, this.model.board.height_mm + 8];
  }

  listen() {
    this.stage.addEventListener("keydown", (event) => this.key(event));
    this.root.addEventListener("click", (event) => {
      const button = event.target.closest("[data-mode], [data-tool]");
      if (button) {
        this.use(button.dataset.mode, button.dataset.tool);
      }
    });
    this.root.addEventListener("change", (event) => this.field(event.target));
  }

  say(words, isBad = false) {
    const state = this.root.querySelector("[data-state]");
    state.textContent = words;
    state.classList.toggle("problem", isBad);
  }

  // What this browser still holds: taken up at once, or offered where another tab drew meanwhile.
  restore(draft) {
    if (!draft) {
      return;
    }
    this.mine = draft.board;
    this.root.querySelector("[data-tool=mine]").hidden = !draft.isBehind;
    if (draft.isBehind) {
      this.tell("Another tab changed this map. What was drawn here is still kept: press “mine” to have it.", true);
    } else {
      this.takeMine();
    }
  }

  takeMine() {
    this.root.querySelector("[data-tool=mine]").hidden = true;
    this.model.change(() => {
      this.model.board = this.mine;
    });
    this.done();
  }

  // Say something of what was just done, until the next thing is.
  tell(words, isBad = false) {
    this.told = { words, isBad };
    this.show();
  }

  // After a change: keep it, draw it.
  done() {
    this.keeper.keep(this.model.board);
    this.show();
  }

  show() {
    const loose = this.model.loose();
    draw(this.svg, this.model, {
      chosen: this.chosen,
      from: this.from,
      loose,
      cross: this.mode === "pad" || this.mode === "measure" ? this.cross : null,
      measured: this.measured,
      picture: this.root.dataset.picture,
    });
    this.root.querySelectorAll("[data-mode]").forEach((button) => {
      button.setAttribute("aria-pressed", String(button.dataset.mode === this.mode));
    });
    const hint = this.root.querySelector("[data-hint]");
    hint.textContent = this.told?.words || (this.typed ? `typed: ${this.typed}` : HINTS[this.mode]);
    hint.classList.toggle("problem", Boolean(this.told?.isBad));
    this.root.querySelector("[data-loose]").textContent = loose.size
      ? `${loose.size} ${loose.size === 1 ? "pad hangs" : "pads hang"} on nothing`
      : "";
    this.showFields();
    const ground = this.model.board.ground;
    const kind = typeof ground === "object" ? (ground.sheet_um ? "sheet" : "net") : "ideal";
    this.root.querySelector("[data-field=ground]").value = kind;
    this.root.querySelector("[data-field=net]").value = this.net;
    const drawing = this.root.querySelector("[data-field=drawing]");
    if (drawing) {
      drawing.value = this.model.board.drawing || "";
    }
  }

  showFields() {
    const place = this.root.querySelector("[data-fields]");
    const key = JSON.stringify([this.mode, this.chosen, this.model.board.picture || 0]);
    if (place.dataset.of === key) {
      return;
    }
    place.dataset.of = key;
    place.replaceChildren(...this.fields());
  }

  // Fields of what is chosen, and the board's own.
  fields() {
    const { board } = this.model;
    const part = board.parts.find((one) => one.id === this.chosen.part);
    const found = [];
    if (this.mode === "part" && this.chosen.pad) {
      found.push(input("new-part", "Part on this pad", "", { list: "sheet-parts" }));
    } else if (part) {
      found.push(input("part-ref", "Designator", part.ref), input("part-family", "Family", part.family));
      found.push(input("part-prior", "Weight", part.prior ?? ""));
      if (typeof board.ground === "object") {
        found.push(input("part-ground", "Ground pad", part.ground_pad));
      }
    } else {
      found.push(input("width_mm", "Board mm", board.width_mm), input("height_mm", "by", board.height_mm));
      if (board.picture) {
        found.push(input("opacity", "Photo", board.picture.opacity, { type: "range", min: 0, max: 1, step: 0.1 }));
      }
    }
    return found;
  }

  field(element) {
    this.told = null;
    const name = element.dataset.field;
    const { board } = this.model;
    const part = board.parts.find((one) => one.id === this.chosen.part);
    const setters = {
      net: () => this.useNet(element.value),
      ground: () => this.useGround(element.value),
      drawing: () => this.model.change((drawn) => Object.assign(drawn, { drawing: element.value })),
      "new-part": () => this.place(element.value.trim()),
      "part-ref": () => this.model.change(() => Object.assign(part, { ref: element.value.trim() || part.id })),
      "part-family": () => this.model.change(() => Object.assign(part, { family: element.value.trim() })),
      "part-prior": () => this.weigh(part, element.value),
      "part-ground": () => this.model.change(() => Object.assign(part, { ground_pad: element.value.trim() })),
      opacity: () => this.model.change((drawn) => Object.assign(drawn.picture, { opacity: Number(element.value) })),
      width_mm: () => this.size("width_mm", element.value),
      height_mm: () => this.size("height_mm", element.value),
    };
    if (setters[name]) {
      setters[name]();
      this.done();
      if (name === "new-part") {
        this.stage.focus();
      }
    }
  }

  size(name, text) {
    const value = Number(text.replace(",", "."));
    if (value > 0 && value < 2000) {
      this.model.change((drawn) => Object.assign(drawn, { [name]: value }));
      this.view.fit(this.whole());
    } else {
      this.tell("The board’s size is millimetres above 0.", true);
    }
  }

  // A relative weight in place of the family's; none typed: the family's again.
  weigh(part, text) {
    const value = Number(text.replace(",", "."));
    this.model.change(() => {
      delete part.prior;
      if (text.trim() && value >= 0) {
        part.prior = value;
      }
    });
  }

  useNet(net) {
    if (net === "ground" && typeof this.model.board.ground !== "object") {
      this.model.setGround("net");
    }
    this.net = net;
  }

  useGround(kind) {
    this.model.setGround(kind);
    this.net = kind === "ideal" ? "rail" : this.net;
  }

  use(mode, tool) {
    this.told = null;
    const tools = {
      undo: () => this.model.undo() && this.done(),
      redo: () => this.model.redo() && this.done(),
      mine: () => this.takeMine(),
      in: () => this.view.zoom(1 / 1.4),
      out: () => this.view.zoom(1.4),
      fit: () => this.view.fit(this.whole()),
    };
    if (mode) {
      this.turn(mode);
    } else if (tools[tool]) {
      tools[tool]();
    }
    this.stage.focus();
  }

  turn(mode) {
    this.mode = mode;
    this.from = "";
    this.typed = "";
    this.measured = [];
    this.show();
  }

  // A press on the drawing, at a place in mm.
  press([x, y]) {
    this.told = null;
    this.stage.focus();
    const near = this.nearest(x, y);
    if (this.mode === "measure") {
      this.measure([x, y]);
    } else if (near) {
      this.choose(near.id);
    } else if (this.mode === "pad") {
      this.addPad(x, y);
    } else {
      this.chosen = this.segmentAt(x, y) || {};
      this.show();
    }
  }

  nearest(x, y) {
    const far = (pad) => Math.hypot(pad.x - x, pad.y - y);
    return this.model.pads().filter((pad) => far(pad) < NEAR_MM).sort((a, b) => far(a) - far(b))[0];
  }

  segmentAt(x, y) {
    for (const net of ["rail", "ground"]) {
      for (const one of this.model.net(net).segments) {
        if (away([x, y], this.model.pad(one.a), this.model.pad(one.b)) < NEAR_MM / 2) {
          return { segment: { a: one.a, b: one.b } };
        }
      }
    }
    return null;
  }

  addPad(x, y) {
    const near = this.nearest(x, y);
    const pad = near ? near.id : this.model.addPad(this.net, x, y);
    this.chosen = { pad };
    this.cross = [x, y];
    this.done();
  }

  // A pad was pressed, or Enter was: what that means in the mode.
  choose(id) {
    if (this.mode === "segment" && this.from && this.from !== id) {
      const segment = this.model.addSegment(this.from, id, this.width);
      if (!segment) {
        this.tell("A segment joins two pads of one net.", true);
        return;
      }
      this.chosen = { segment: { a: segment.a, b: segment.b } };
      this.from = id;
      this.typed = "";
      this.done();
      return;
    }
    this.chosen = { pad: id };
    this.from = this.mode === "segment" ? id : "";
    this.show();
    if (this.mode === "part") {
      this.root.querySelector("[data-field=new-part]")?.focus();
    }
  }

  place(name) {
    if (!name || !this.chosen.pad || this.model.netOf(this.chosen.pad) !== "rail") {
      this.tell("A part stands on a pad of the rail.", true);
      return;
    }
    const known = [...document.querySelectorAll("#sheet-parts option")].find((one) => one.value === name);
    const isTaken = this.model.board.parts.some((part) => part.id === name);
    const id = isTaken ? this.model.freeId(`${name}#`) : name;
    this.model.addPart(this.chosen.pad, id, known ? known.dataset.ref : name, known ? known.dataset.family : "");
    this.chosen = { part: id };
  }

  measure(at) {
    this.measured = [...this.measured.slice(-1), at];
    this.typed = "";
    if (this.measured.length === 2 && !this.model.board.picture) {
      const [[x0, y0], [x1, y1]] = this.measured;
      this.tell(`${Math.hypot(x1 - x0, y1 - y0).toFixed(1)} mm`);
    }
    this.show();
  }

  key(event) {
    this.told = null;
    if (event.ctrlKey || event.metaKey) {
      this.ctrl(event);
      return;
    }
    const arrow = ARROWS[event.key];
    const taken = arrow
      ? this.arrow(arrow, event.shiftKey ? 10 : 1)
      : this.plain(event.key, event.shiftKey);
    if (taken) {
      event.preventDefault();
      event.stopPropagation();
    }
  }

  ctrl(event) {
    const tool = { z: event.shiftKey ? "redo" : "undo", y: "redo" }[event.key.toLowerCase()];
    if (tool) {
      event.preventDefault();
      this.use("", tool);
    }
  }

  arrow([dx, dy], step) {
    if (this.mode === "pad" && this.chosen.pad) {
      this.model.movePad(this.chosen.pad, dx * step, dy * step);
      this.done();
    } else if (this.mode === "pad" || this.mode === "measure") {
      this.cross = [round(this.cross[0] + dx * step), round(this.cross[1] + dy * step)];
      this.show();
    } else {
      this.view.pan(dx * 0.1, dy * 0.1);
    }
    return true;
  }

  plain(key, isBack) {
    const keys = {
      Tab: () => this.walk(isBack ? -1 : 1),
      Enter: () => this.enter(),
      Escape: () => this.leave(),
      Delete: () => this.remove(),
      Backspace: () => this.back(),
      "+": () => this.use("", "in"),
      "-": () => this.use("", "out"),
    };
    if (MODES[key] && !this.typed) {
      this.turn(MODES[key]);
    } else if (keys[key]) {
      return keys[key]() !== false;
    } else if (/^[0-9.,m]$/.test(key) && (this.typed || key !== "0" || this.chosen.segment)) {
      this.typed += key;
      this.show();
    } else if (key === "0") {
      this.use("", "fit");
    } else {
      return false;
    }
    return true;
  }

  // Tab walks the pads; behind the last it leaves the drawing.
  walk(step) {
    const ids = this.model.pads().map((pad) => pad.id);
    const part = this.model.board.parts.find((one) => one.id === this.chosen.part);
    const next = ids.indexOf(this.chosen.pad || part?.rail_pad || this.from) + step;
    if (!ids.length || next >= ids.length || next < 0) {
      this.chosen = {};
      this.show();
      return false;
    }
    this.chosen = { pad: ids[next] };
    this.show();
    return true;
  }

  enter() {
    if (this.typed) {
      this.take();
    } else if (this.mode === "measure") {
      this.measure([...this.cross]);
    } else if (this.mode === "pad" && !this.chosen.pad) {
      this.addPad(...this.cross);
    } else if (this.mode === "pad") {
      this.chosen = {};
      this.show();
    } else if (this.chosen.pad) {
      this.choose(this.chosen.pad);
    }
  }

  leave() {
    const isBusy = this.typed || this.from || this.chosen.pad || this.chosen.part || this.chosen.segment;
    this.typed = "";
    this.from = "";
    this.chosen = {};
    this.measured = [];
    this.show();
    if (!isBusy) {
      this.stage.blur();
    }
  }

  back() {
    if (this.typed) {
      this.typed = this.typed.slice(0, -1);
      this.show();
    } else {
      this.remove();
    }
  }

  remove() {
    if (this.chosen.pad || this.chosen.part || this.chosen.segment) {
      this.model.remove(this.chosen);
      this.chosen = {};
      this.from = "";
      this.done();
    }
  }

  // What was typed: a width or milliohms of the chosen segment, or the distance of two points.
  take() {
    const isOhm = this.typed.includes("m");
    const value = Number(this.typed.replace(",", ".").replace(/m.*/, ""));
    this.typed = "";
    if (!(value > 0)) {
      this.tell("Type a number above 0.", true);
    } else if (this.mode === "measure") {
      this.scale(value);
    } else {
      this.setSegment(value, isOhm);
    }
    this.show();
  }

  setSegment(value, isOhm) {
    const { segment } = this.chosen;
    if (!segment) {
      this.width = isOhm ? this.width : value;
      this.tell(`The next segments are ${this.width} mm wide.`);
      return;
    }
    this.model.change(() => {
      const one = this.model.net(this.model.netOf(segment.a)).segments
        .find((other) => other.a === segment.a && other.b === segment.b);
      if (isOhm) {
        one.milliohm = value;
      } else {
        delete one.milliohm;
        one.width_mm = value;
        this.width = value;
      }
    });
    this.done();
  }

  scale(millimetres) {
    const { picture } = this.model.board;
    if (this.measured.length < 2 || !picture) {
      this.tell(picture ? "Press two points first." : "There is not a photo to be scaled.", true);
      return;
    }
    const [[x0, y0], [x1, y1]] = this.measured;
    const factor = millimetres / Math.hypot(x1 - x0, y1 - y0);
    this.model.change((board) => {
      const shown = board.picture;
      shown.mm_per_pixel *= factor;
      shown.x_mm = x0 - (x0 - shown.x_mm) * factor;
      shown.y_mm = y0 - (y0 - shown.y_mm) * factor;
    });
    this.measured = [];
    this.done();
  }
}

function input(name, label, value, more = {}) {
  const element = document.createElement("input");
  element.className = more.type === "range" ? "form-range" : "form-control form-control-sm";
  element.dataset.field = name;
  element.value = value;
  Object.entries(more).forEach(([key, own]) => element.setAttribute(key, own));
  element.value = value;
  const shown = document.createElement("label");
  shown.append(label, element);
  return shown;
}

function away([x, y], a, b) {
  const [dx, dy] = [b.x - a.x, b.y - a.y];
  const share = Math.min(Math.max(((x - a.x) * dx + (y - a.y) * dy) / (dx * dx + dy * dy || 1), 0), 1);
  return Math.hypot(x - a.x - share * dx, y - a.y - share * dy);
}

// Begin on every editor of the page that has none yet.
export async function editors() {
  for (const root of document.querySelectorAll("[data-editor]:not([data-begun])")) {
    root.dataset.begun = "yes";
    const address = root.dataset.editor;
    const drawn = address ? await (await fetch(address)).json() : empty();
    const editor = new Editor(root, new Model(drawn));
    editor.restore(editor.keeper.draft());
  }
}
