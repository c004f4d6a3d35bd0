// A drawing that is zoomed and panned by its view box: wheel, drag, two fingers, + − 0 and arrows.
const LEAST = 0.15;

export class View {
  // `least`: how small a share of the whole can be shown; `onShow` is told after each change.
  constructor(svg, box, least = LEAST, onShow = () => {}) {
    this.svg = svg;
    this.whole = box;
    this.box = [...box];
    this.least = least;
    this.onShow = onShow;
    this.wasMoved = false;
  }

  show() {
    this.svg.setAttribute("viewBox", this.box.map((value) => value.toFixed(2)).join(" "));
    this.onShow();
  }

  fit(box = this.whole) {
    this.whole = box;
    this.box = [...box];
    this.show();
  }

  zoom(factor, at = null) {
    const [x, y, width, height] = this.box;
    const [cx, cy] = at || [x + width / 2, y + height / 2];
    const scale = Math.min(Math.max(factor * width, this.least * this.whole[2]), this.whole[2]) / width;
    this.box = [cx - (cx - x) * scale, cy - (cy - y) * scale, width * scale, height * scale];
    this.show();
  }

  pan(dx, dy) {
    this.box[0] += dx * this.box[2];
    this.box[1] += dy * this.box[3];
    this.show();
  }

  // How many pixels of the screen a unit of the drawing is.
  scale() {
    return this.svg.getScreenCTM().a;
  }

  // A place on the screen as one of the drawing.
  place(event) {
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(this.svg.getScreenCTM().inverse());
    return [point.x, point.y];
  }
}

function between([one, two]) {
  return {
    clientX: (one.x + two.x) / 2,
    clientY: (one.y + two.y) / 2,
    apart: Math.hypot(one.x - two.x, one.y - two.y) || 1,
  };
}

// Wheel, drag and two fingers on a drawing; `onPress` gets a press that was none of them.
export function handle(view, onPress = () => {}) {
  const fingers = new Map();
  let start = null;
  let pinch = null;
  view.svg.addEventListener("wheel", (event) => {
    event.preventDefault();
    view.zoom(event.deltaY > 0 ? 1.2 : 1 / 1.2, view.place(event));
  }, { passive: false });
  view.svg.addEventListener("pointerdown", (event) => {
    fingers.set(event.pointerId, { x: event.clientX, y: event.clientY });
    start = { x: event.clientX, y: event.clientY, moved: fingers.size > 1, box: [...view.box] };
    pinch = fingers.size === 2 ? between([...fingers.values()]) : null;
  });
  view.svg.addEventListener("pointermove", (event) => {
    if (!start || !event.buttons || !fingers.has(event.pointerId)) {
      return;
    }
    fingers.set(event.pointerId, { x: event.clientX, y: event.clientY });
    if (fingers.size === 2) {
      const now = between([...fingers.values()]);
      view.zoom(pinch.apart / now.apart, view.place(now));
      pinch = now;
      return;
    }
    const dx = event.clientX - start.x;
    const dy = event.clientY - start.y;
    start.moved = start.moved || Math.hypot(dx, dy) > 5;
    if (start.moved && !pinch) {
      const scale = 1 / view.scale();
      view.box = [start.box[0] - dx * scale, start.box[1] - dy * scale, start.box[2], start.box[3]];
      view.show();
    }
  });
  view.svg.addEventListener("pointerup", (event) => {
    view.wasMoved = Boolean(start?.moved);
    if (start && !start.moved) {
      onPress(view.place(event), event);
    }
    forget(event);
  });
  view.svg.addEventListener("pointercancel", forget);
  view.svg.addEventListener("pointerleave", (event) => event.pointerType !== "mouse" && forget(event));

  function forget(event) {
    fingers.delete(event.pointerId);
    if (!fingers.size) {
      start = null;
      pinch = null;
    }
  }
}
