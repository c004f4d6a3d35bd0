// What a press means in each mode: pads, segments, parts, distances and the photo's scale.
const NEAR_MM = 3;

function away([x, y], a, b) {
  const [dx, dy] = [b.x - a.x, b.y - a.y];
  const share = Math.min(Math.max(((x - a.x) * dx + (y - a.y) * dy) / (dx * dx + dy * dy || 1), 0), 1);
  return Math.hypot(x - a.x - share * dx, y - a.y - share * dy);
}

export const toolActions = {
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
  },

  turn(mode) {
    this.mode = mode;
    this.from = "";
    this.typed = "";
    this.measured = [];
    this.show();
  },

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
  },

  nearest(x, y) {
    const far = (pad) => Math.hypot(pad.x - x, pad.y - y);
    return this.model.pads().filter((pad) => far(pad) < NEAR_MM).sort((a, b) => far(a) - far(b))[0];
  },

  segmentAt(x, y) {
    for (const net of ["rail", "ground"]) {
      for (const one of this.model.net(net).segments) {
        if (away([x, y], this.model.pad(one.a), this.model.pad(one.b)) < NEAR_MM / 2) {
          return { segment: { a: one.a, b: one.b } };
        }
      }
    }
    return null;
  },

  addPad(x, y) {
    const near = this.nearest(x, y);
    const pad = near ? near.id : this.model.addPad(this.net, x, y);
    this.chosen = { pad, isPlaced: true };
    this.cross = [x, y];
    this.done();
  },

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
  },

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
  },

  measure(at) {
    this.measured = [...this.measured.slice(-1), at];
    this.typed = "";
    if (this.measured.length === 2 && !this.model.board.picture) {
      const [[x0, y0], [x1, y1]] = this.measured;
      this.tell(`${Math.hypot(x1 - x0, y1 - y0).toFixed(1)} mm`);
    }
    this.show();
  },

  remove() {
    if (this.chosen.pad || this.chosen.part || this.chosen.segment) {
      this.model.remove(this.chosen);
      this.chosen = {};
      this.from = "";
      this.done();
    }
  },

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
  },

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
  },

  scale(millimetres) {
    const { picture } = this.model.board;
    if (this.measured.length < 2 || !picture) {
      this.tell(picture ? "Press two points first." : "There is no photo to scale.", true);
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
  },
};
