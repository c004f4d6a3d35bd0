// A photo on the page: zoomed and panned, with a cross that the arrows move, and its fine picture where it is enlarged.
import { View, handle } from "../view.js";
import { Tiles } from "./tiles.js";

const SVG = "http://www.w3.org/2000/svg";
const LEAST = 0.04;
const NEAR_PX = 30;
// The window of the photo that was shown last, so that a page laid anew does not lose it.
export const last = { by: "", box: null };

export class Photo {
  constructor(stage, onPress) {
    this.stage = stage;
    this.svg = stage.querySelector("svg");
    this.isFlipped = Boolean(stage.dataset.flipped);
    this.whole = this.svg.dataset.box.split(" ").map(Number);
    this.unit = Number(this.svg.dataset.unit);
    this.tiles = new Tiles(this.svg);
    this.view = new View(this.svg, this.whole, LEAST, () => this.shown());
    this.cross = [this.whole[0] + this.whole[2] / 2, this.whole[1] + this.whole[3] / 2];
    this.picked = [];
    handle(this.view, (at, event) => {
      this.stage.focus({ preventScroll: true });
      this.cross = at;
      onPress(at, event);
      this.drawCross();
    });
    this.scaled();
  }

  shown() {
    last.box = this.view.box;
    this.scaled();
  }

  // What lies over the photo keeps its size on the screen; words are left away where they would lie over one another.
  scaled() {
    const scale = this.view.scale() || 1 / this.unit;
    this.svg.querySelectorAll(".body").forEach((each) => each.setAttribute("transform", `scale(${1 / scale})`));
    this.svg.classList.toggle("tight", 1 / scale > 1.15 * this.unit);
    this.tiles.show(this.view.box, scale, this.isFlipped);
  }

  tool(name) {
    const tools = {
      in: () => this.view.zoom(1 / 1.5),
      out: () => this.view.zoom(1.5),
      fit: () => this.view.fit(),
    };
    tools[name]?.();
    return Boolean(tools[name]);
  }

  // An arrow moves the cross by a two-hundredth of what is shown, with Shift ten times as far.
  move([dx, dy], isFar) {
    const [left, top, width, height] = this.view.box;
    const step = (width / 200) * (isFar ? 10 : 1);
    const within = (at, from, size) => Math.min(Math.max(at, from), from + size);
    const [x, y] = [
      within(this.cross[0] + dx * step, this.whole[0], this.whole[2]),
      within(this.cross[1] + dy * step, this.whole[1], this.whole[3]),
    ];
    this.cross = [x, y];
    if (x < left || x > left + width || y < top || y > top + height) {
      this.view.pan(dx * 0.5, dy * 0.5);
    }
    this.drawCross();
  }

  drawCross() {
    const group = this.svg.querySelector(".cross");
    group.replaceChildren(
      ...this.picked.map((at, nth) => this.sign(at, "M-7 0h14M0-7v14", String(nth + 1))),
      this.sign(this.cross, "M-16 0h11M5 0h11M0-16v11M0 5v11"),
    );
    this.scaled();
  }

  sign([x, y], d, word = "") {
    const place = document.createElementNS(SVG, "g");
    place.setAttribute("transform", `translate(${x} ${y})`);
    const body = document.createElementNS(SVG, "g");
    body.setAttribute("class", "body");
    for (const name of ["under", "over"]) {
      const path = document.createElementNS(SVG, "path");
      path.setAttribute("class", name);
      path.setAttribute("d", d);
      body.append(path);
    }
    const text = document.createElementNS(SVG, "text");
    text.setAttribute("class", "halo tag");
    text.setAttribute("x", 14);
    text.setAttribute("y", -8);
    text.textContent = word;
    body.append(text);
    place.append(body);
    return place;
  }

  // A place as it is drawn, as one of the board: mirrored where the side is drawn as it is seen.
  onBoard([x, y]) {
    return [this.isFlipped ? 2 * this.whole[0] + this.whole[2] - x : x, y];
  }

  nearest([x, y]) {
    const scale = this.view.scale();
    let best = null;
    let least = NEAR_PX / scale;
    this.svg.querySelectorAll("[data-spot]").forEach((spot) => {
      const at = spotAt(spot);
      const far = Math.hypot(at[0] - x, at[1] - y);
      if (far < least) {
        best = spot;
        least = far;
      }
    });
    return best;
  }
}

export function spotAt(spot) {
  const { e, f } = spot.querySelector(".spot").transform.baseVal.consolidate().matrix;
  return [e, f];
}
