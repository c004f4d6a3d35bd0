// The editor by keyboard alone: modes, arrows, Tab along the pads, figures typed.
import { round } from "./model.js";

const MODES = { p: "pad", c: "part", s: "segment", m: "measure" };
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

export const shortcutActions = {
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
  },

  ctrl(event) {
    const tool = { z: event.shiftKey ? "redo" : "undo", y: "redo" }[event.key.toLowerCase()];
    if (tool) {
      event.preventDefault();
      this.use("", tool);
    }
  },

  // Arrows move a pad that was chosen; behind one just placed they move the cross to the next place.
  movesPad() {
    return this.mode === "pad" && Boolean(this.chosen.pad) && !this.chosen.isPlaced;
  },

  arrow([dx, dy], step) {
    if (this.movesPad()) {
      this.model.movePad(this.chosen.pad, dx * step, dy * step);
      this.done();
    } else if (this.mode === "pad" || this.mode === "measure") {
      this.cross = [round(this.cross[0] + dx * step), round(this.cross[1] + dy * step)];
      this.show();
    } else {
      this.view.pan(dx * 0.1, dy * 0.1);
    }
    return true;
  },

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
  },

  // Tab walks the pads; behind the last it leaves the drawing.
  walk(step) {
    const ids = this.model.pads().map((pad) => pad.id);
    const part = this.model.board.parts.find((one) => one.id === this.chosen.part);
    const here = this.chosen.isPlaced ? "" : this.chosen.pad || part?.rail_pad || this.from;
    const next = ids.indexOf(here) + step;
    if (!ids.length || next >= ids.length || next < 0) {
      this.chosen = {};
      this.show();
      return false;
    }
    this.chosen = { pad: ids[next] };
    this.show();
    return true;
  },

  enter() {
    if (this.typed) {
      this.take();
    } else if (this.mode === "measure") {
      this.measure([...this.cross]);
    } else if (this.mode === "pad" && !this.movesPad()) {
      this.addPad(...this.cross);
    } else if (this.mode === "pad") {
      this.chosen = {};
      this.show();
    } else if (this.chosen.pad) {
      this.choose(this.chosen.pad);
    }
  },

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
  },

  back() {
    if (this.typed) {
      this.typed = this.typed.slice(0, -1);
      this.show();
    } else {
      this.remove();
    }
  },
};
