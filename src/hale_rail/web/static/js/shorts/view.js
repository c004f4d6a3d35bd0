// A drawing that is zoomed and panned by its view box: wheel, drag, + − 0 and arrows.
const LEAST = 0.15;

export class View {
  constructor(svg, box) {
    this.svg = svg;
    this.whole = box;
    this.box = [...box];
  }

  show() {
    this.svg.setAttribute("viewBox", this.box.map((value) => value.toFixed(2)).join(" "));
  }

  fit(box = this.whole) {
    this.whole = box;
    this.box = [...box];
    this.show();
  }

  zoom(factor, at = null) {
    const [x, y, width, height] = this.box;
    const [cx, cy] = at || [x + width / 2, y + height / 2];
    const scale = Math.min(Math.max(factor * width, LEAST * this.whole[2]), this.whole[2]) / width;
    this.box = [cx - (cx - x) * scale, cy - (cy - y) * scale, width * scale, height * scale];
    this.show();
  }

  pan(dx, dy) {
    this.box[0] += dx * this.box[2];
    this.box[1] += dy * this.box[3];
    this.show();
  }

  // A place on the screen as one of the drawing.
  place(event) {
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(this.svg.getScreenCTM().inverse());
    return [point.x, point.y];
  }
}

// Wheel and drag on a drawing; `onPress` gets a press that was not a drag.
export function handle(view, onPress = () => {}) {
  let start = null;
  view.svg.addEventListener("wheel", (event) => {
    event.preventDefault();
    view.zoom(event.deltaY > 0 ? 1.2 : 1 / 1.2, view.place(event));
  }, { passive: false });
  view.svg.addEventListener("pointerdown", (event) => {
    start = { x: event.clientX, y: event.clientY, moved: false, box: [...view.box] };
  });
  view.svg.addEventListener("pointermove", (event) => {
    if (!start || !event.buttons) {
      return;
    }
    const dx = event.clientX - start.x;
    const dy = event.clientY - start.y;
    start.moved = start.moved || Math.hypot(dx, dy) > 5;
    if (start.moved) {
      const scale = start.box[2] / view.svg.clientWidth;
      view.box = [start.box[0] - dx * scale, start.box[1] - dy * scale, start.box[2], start.box[3]];
      view.show();
    }
  });
  view.svg.addEventListener("pointerup", (event) => {
    if (start && !start.moved) {
      onPress(view.place(event), event);
    }
    start = null;
  });
}
