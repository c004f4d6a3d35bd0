// The fine picture of a board: its tiles are fetched where the small one no longer suffices.
const SVG = "http://www.w3.org/2000/svg";
const ENOUGH = 1.15;

export class Tiles {
  constructor(svg) {
    this.group = svg.querySelector("[data-tiles]");
    this.shown = new Set();
    if (this.group) {
      const figures = (name) => this.group.dataset[name].split(" ").map(Number);
      [this.columns, this.rows, this.width, this.height, this.side] = figures("grid");
      [this.left, this.top, this.wide, , this.scale] = figures("at");
      this.fine = Number(this.group.dataset.fine);
    }
  }

  // Show what lies in a window of the board, where a pixel of the screen is smaller than one of the small picture.
  show([x, y, width, height], pixelsPerMm, isFlipped) {
    if (!this.group || pixelsPerMm * this.fine < ENOUGH * this.scale || this.fine <= 1) {
      return;
    }
    const from = isFlipped ? 2 * this.left + this.wide - x - width : x;
    const column = (mm) => Math.floor(((mm - this.left) * this.scale) / this.side);
    const row = (mm) => Math.floor(((mm - this.top) * this.scale) / this.side);
    for (let down = Math.max(row(y), 0); down <= Math.min(row(y + height), this.rows - 1); down += 1) {
      for (let across = Math.max(column(from), 0); across <= Math.min(column(from + width), this.columns - 1);
        across += 1) {
        this.add(across, down);
      }
    }
  }

  add(column, row) {
    const name = `${column}-${row}.jpg`;
    if (this.shown.has(name)) {
      return;
    }
    this.shown.add(name);
    const pixels = (nth, whole) => Math.min(this.side, whole - nth * this.side);
    const image = document.createElementNS(SVG, "image");
    const place = {
      href: this.group.dataset.tiles + name,
      x: this.left + (column * this.side) / this.scale,
      y: this.top + (row * this.side) / this.scale,
      width: pixels(column, this.width) / this.scale,
      height: pixels(row, this.height) / this.scale,
      preserveAspectRatio: "none",
    };
    Object.entries(place).forEach(([key, value]) => image.setAttribute(key, value));
    this.group.append(image);
  }
}
