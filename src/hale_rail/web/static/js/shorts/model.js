// What is drawn: pads, segments, parts; every change can be undone. No page, no drawing here.
const KEPT = 200;

export function empty() {
  return {
    name: "",
    width_mm: 100,
    height_mm: 80,
    rail: { pads: [], segments: [] },
    ground: "ideal",
    parts: [],
  };
}

export class Model {
  constructor(board) {
    this.board = board;
    this.past = [];
    this.future = [];
  }

  // Change the board by a function; what it was before can be had back.
  change(edit) {
    this.past.push(JSON.stringify(this.board));
    this.past = this.past.slice(-KEPT);
    this.future = [];
    edit(this.board);
  }

  undo() {
    return this.swap(this.past, this.future);
  }

  redo() {
    return this.swap(this.future, this.past);
  }

  swap(from, to) {
    if (!from.length) {
      return false;
    }
    to.push(JSON.stringify(this.board));
    this.board = JSON.parse(from.pop());
    return true;
  }

  net(name) {
    const found = this.board[name];
    return typeof found === "object" ? found : { pads: [], segments: [] };
  }

  pads() {
    return [...this.net("rail").pads, ...this.net("ground").pads];
  }

  pad(id) {
    return this.pads().find((pad) => pad.id === id);
  }

  netOf(id) {
    return this.net("ground").pads.some((pad) => pad.id === id) ? "ground" : "rail";
  }

  freeId(start) {
    const taken = new Set([...this.pads(), ...this.board.parts].map((one) => one.id));
    let number = 1;
    while (taken.has(`${start}${number}`)) {
      number += 1;
    }
    return `${start}${number}`;
  }

  addPad(net, x, y) {
    const id = this.freeId(net === "ground" ? "g" : "p");
    this.change((board) => board[net].pads.push({ id, x: round(x), y: round(y) }));
    return id;
  }

  movePad(id, dx, dy) {
    this.change(() => {
      const pad = this.pad(id);
      pad.x = round(pad.x + dx);
      pad.y = round(pad.y + dy);
    });
  }

  addSegment(a, b, width) {
    const net = this.netOf(a);
    if (a === b || net !== this.netOf(b)) {
      return null;
    }
    const segment = { a, b, width_mm: width };
    this.change((board) => board[net].segments.push(segment));
    return segment;
  }

  addPart(railPad, id, ref, family) {
    const part = { id, ref, family, rail_pad: railPad, ground_pad: this.nearestGround(railPad) };
    this.change((board) => board.parts.push(part));
    return part;
  }

  nearestGround(railPad) {
    const from = this.pad(railPad);
    const far = (pad) => Math.hypot(pad.x - from.x, pad.y - from.y);
    const near = [...this.net("ground").pads].sort((one, other) => far(one) - far(other));
    return near.length ? near[0].id : "GND";
  }

  // Take away a pad with all that stands on it, a part, or a segment.
  remove(chosen) {
    this.change((board) => {
      for (const name of ["rail", "ground"].filter((key) => typeof board[key] === "object")) {
        const net = board[name];
        net.pads = net.pads.filter((pad) => pad.id !== chosen.pad);
        net.segments = net.segments.filter((one) => !isSegment(one, chosen) && ![one.a, one.b].includes(chosen.pad));
      }
      board.parts = board.parts.filter((part) => part.id !== chosen.part && !standsOn(part, chosen.pad));
    });
  }

  setGround(kind) {
    this.change((board) => {
      const net = typeof board.ground === "object" ? board.ground : { pads: [], segments: [] };
      delete net.sheet_um;
      board.ground = kind === "ideal" ? "ideal" : net;
      if (kind === "sheet") {
        board.ground.sheet_um = 35;
      }
      if (kind === "ideal") {
        board.parts.forEach((part) => {
          part.ground_pad = "GND";
        });
      }
    });
  }

  // Ids of pads that do not hang on their net's largest island.
  loose() {
    return new Set([...looseIn(this.net("rail")), ...(this.net("ground").sheet_um ? [] : looseIn(this.net("ground")))]);
  }
}

function standsOn(part, pad) {
  return Boolean(pad) && (part.rail_pad === pad || part.ground_pad === pad);
}

function isSegment(one, chosen) {
  return Boolean(chosen.segment) && one.a === chosen.segment.a && one.b === chosen.segment.b;
}

function looseIn(net) {
  const near = new Map(net.pads.map((pad) => [pad.id, []]));
  for (const { a, b } of net.segments) {
    near.get(a)?.push(b);
    near.get(b)?.push(a);
  }
  const left = new Set(near.keys());
  const islands = [];
  while (left.size) {
    const edge = [left.values().next().value];
    const island = [];
    left.delete(edge[0]);
    while (edge.length) {
      const here = edge.pop();
      island.push(here);
      near.get(here).filter((pad) => left.delete(pad)).forEach((pad) => edge.push(pad));
    }
    islands.push(island);
  }
  islands.sort((one, other) => other.length - one.length);
  return islands.slice(1).flat();
}

export function round(value) {
  return Math.round(value * 10) / 10;
}
