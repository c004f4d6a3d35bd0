// What stands beside the drawing: fields of the chosen part, the board's own, the nets.
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

export const fieldActions = {
  showFields() {
    const place = this.root.querySelector("[data-fields]");
    const key = JSON.stringify([this.mode, this.chosen, this.model.board.picture || 0]);
    if (place.dataset.of === key) {
      return;
    }
    place.dataset.of = key;
    place.replaceChildren(...this.fields());
  },

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
  },

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
  },

  size(name, text) {
    const value = Number(text.replace(",", "."));
    if (value > 0 && value < 2000) {
      this.model.change((drawn) => Object.assign(drawn, { [name]: value }));
      this.view.fit(this.whole());
    } else {
      this.tell("The board’s size is millimetres above 0.", true);
    }
  },

  // A relative weight in place of the family's; none typed: the family's again.
  weigh(part, text) {
    const value = Number(text.replace(",", "."));
    this.model.change(() => {
      delete part.prior;
      if (text.trim() && value >= 0) {
        part.prior = value;
      }
    });
  },

  useNet(net) {
    if (net === "ground" && typeof this.model.board.ground !== "object") {
      this.model.setGround("net");
    }
    this.net = net;
  },

  useGround(kind) {
    this.model.setGround(kind);
    this.net = kind === "ideal" ? "rail" : this.net;
  },
};
