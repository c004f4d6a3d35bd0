// Draws what the model holds as SVG, in millimetres.
const SVG = "http://www.w3.org/2000/svg";

function make(parent, name, attributes, words = "") {
  const element = document.createElementNS(SVG, name);
  Object.entries(attributes).forEach(([key, value]) => element.setAttribute(key, value));
  element.textContent = words;
  parent.append(element);
  return element;
}

export function board(parent, width, height) {
  parent.replaceChildren();
  return make(parent, "svg", {
    class: "board drawing drawn",
    viewBox: `-4 -4 ${width + 8} ${height + 8}`,
    "aria-hidden": "true",
  });
}

export function draw(svg, model, look) {
  const { board: drawn } = model;
  svg.replaceChildren();
  make(svg, "rect", { class: "outline", width: drawn.width_mm, height: drawn.height_mm, rx: 2 });
  photo(svg, drawn.picture, look.picture);
  for (const net of ["ground", "rail"]) {
    model.net(net).segments.forEach((one) => segment(svg, model, net, one, look));
  }
  parts(svg, model, look);
  for (const net of ["ground", "rail"]) {
    model.net(net).pads.forEach((one) => pad(svg, net, one, look));
  }
  cross(svg, look);
}

function photo(svg, picture, address) {
  if (picture && address) {
    const { mm_per_pixel: scale, x_mm: x, y_mm: y, opacity } = picture;
    const group = make(svg, "g", { opacity, transform: `translate(${x} ${y}) scale(${scale})` });
    make(group, "image", { href: address });
  }
}

function segment(svg, model, net, one, look) {
  const [a, b] = [model.pad(one.a), model.pad(one.b)];
  if (!a || !b) {
    return;
  }
  const isChosen = look.chosen.segment && look.chosen.segment.a === one.a && look.chosen.segment.b === one.b;
  make(svg, "line", {
    class: `copper ${net}${isChosen ? " chosen" : ""}`,
    x1: a.x,
    y1: a.y,
    x2: b.x,
    y2: b.y,
    "stroke-width": Math.max(one.width_mm || 1, 0.4),
  });
  if (isChosen) {
    const words = one.milliohm ? `${one.milliohm} mΩ` : `${one.width_mm} mm`;
    make(svg, "text", { class: "copper-width halo", x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 - 1.5 }, words);
  }
}

function parts(svg, model, look) {
  const onPad = new Map();
  for (const part of model.board.parts) {
    const at = model.pad(part.rail_pad);
    const place = onPad.get(part.rail_pad) || 0;
    onPad.set(part.rail_pad, place + 1);
    if (at) {
      const name = `part${look.chosen.part === part.id ? " chosen" : ""}`;
      make(svg, "rect", { class: name, x: at.x - 1.5 + 3.6 * place, y: at.y - 5, width: 3, height: 3, rx: 0.5 });
      make(svg, "text", { class: "part-name halo", x: at.x + 3.6 * place, y: at.y - 5.6 }, part.ref);
    }
  }
}

function pad(svg, net, one, look) {
  const words = ["pad", net];
  if (look.loose.has(one.id)) {
    words.push("loose");
  }
  if (look.from === one.id) {
    words.push("from");
  }
  make(svg, "circle", { class: words.join(" "), cx: one.x, cy: one.y, r: 1.1 });
  if (look.chosen.pad === one.id) {
    make(svg, "circle", { class: "ring", cx: one.x, cy: one.y, r: 2.6 });
    make(svg, "text", { class: "tip-pad halo", x: one.x + 3, y: one.y + 1 }, one.id);
  }
}

function cross(svg, look) {
  if (look.cross) {
    const [x, y] = look.cross;
    make(svg, "path", { class: "cross", d: `M${x - 3} ${y}h6M${x} ${y - 3}v6` });
  }
  if (look.measured.length) {
    look.measured.forEach(([x, y]) => make(svg, "circle", { class: "measured", cx: x, cy: y, r: 1.2 }));
  }
}
