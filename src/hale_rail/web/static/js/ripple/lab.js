// The ripple lab: zoomed by wheel, drag and keys, cursors by mouse and keys, one band over the record.
import { Plot, shown } from "./plot.js";

const NEAR = 1.5;
const PAN = 0.1;
const STEP = 1 / 240;

let lab = null;

class Lab {
  constructor(box) {
    this.box = box;
    this.canvas = box.querySelector("canvas");
    this.plot = new Plot(this.canvas);
    this.length = Number(box.dataset.length);
    this.from = 0;
    this.to = this.length;
    this.band = "";
    this.cursors = {};
    this.chosen = "";
    this.asked = 0;
    this.now = null;
    this.before = null;
    this.canvas.hidden = false;
    this.listen();
    this.load();
  }

  listen() {
    this.box.addEventListener("wheel", (event) => {
      event.preventDefault();
      this.zoom(event.deltaY < 0 ? 1 / NEAR : NEAR, this.timeAt(event));
    }, { passive: false });
    this.box.addEventListener("pointerdown", (event) => this.grab(event));
    this.box.addEventListener("pointermove", (event) => this.drag(event));
    this.box.addEventListener("pointerup", (event) => this.drop(event));
    this.box.addEventListener("pointercancel", () => {
      this.held = null;
    });
    new ResizeObserver(() => this.load()).observe(this.box);
  }

  timeAt(event) {
    return this.from + ((this.to - this.from) * (event.clientX - this.box.getBoundingClientRect().left)) /
      this.box.clientWidth;
  }

  grab(event) {
    this.box.setPointerCapture(event.pointerId);
    const zooms = event.shiftKey ? this.timeAt(event) : null;
    this.held = { x: event.clientX, from: this.from, to: this.to, moved: false, zooms };
  }

  drag(event) {
    if (!this.held) {
      return;
    }
    const shift = ((this.held.x - event.clientX) / this.box.clientWidth) * (this.held.to - this.held.from);
    if (Math.abs(event.clientX - this.held.x) > 4) {
      this.held.moved = true;
    }
    if (this.held.moved && this.held.zooms === null) {
      this.show(this.held.from + shift, this.held.to + shift);
    }
  }

  // A press without a drag puts a cursor: the chosen one, else a, then b; a drag with Shift zooms to its stretch.
  drop(event) {
    if (this.held?.moved && this.held.zooms !== null) {
      const ends = [this.held.zooms, this.timeAt(event)];
      this.show(Math.min(...ends), Math.max(...ends));
    } else if (this.held && !this.held.moved) {
      const letter = this.chosen || ("a" in this.cursors ? "b" : "a");
      this.cursors[letter] = this.timeAt(event);
      this.paint();
    }
    this.held = null;
  }

  show(from, to) {
    const span = Math.min(Math.max(to - from, this.now ? 8 * this.now.dt_s : 1e-9), this.length);
    this.from = Math.min(Math.max(from, 0), this.length - span);
    this.to = this.from + span;
    this.load();
  }

  zoom(factor, at) {
    const middle = at ?? this.cursors[this.chosen] ?? (this.from + this.to) / 2;
    this.show(middle - (middle - this.from) * factor, middle + (this.to - middle) * factor);
  }

  async fetch(address) {
    const px = Math.min(2400, Math.round(this.box.clientWidth * (window.devicePixelRatio || 1)));
    const found = await fetch(`${address}?from=${this.from}&to=${this.to}&px=${px}&bands=${this.band}`);
    return found.ok ? found.json() : null;
  }

  // What the window shows; an answer that was overtaken by a later question is let go.
  async load() {
    this.asked += 1;
    const mine = this.asked;
    const [now, before] = await Promise.all([
      this.fetch(this.box.dataset.now),
      this.box.dataset.before ? this.fetch(this.box.dataset.before) : null,
    ]);
    if (now && mine === this.asked && this.box.isConnected) {
      this.now = now;
      this.before = before;
      this.paint();
      this.box.dataset.drawn = `${now.from_s} ${now.to_s}`;
    }
  }

  paint() {
    if (this.now && this.box.isConnected) {
      this.plot.draw(this.now, this.before, this.band, this.cursors, this.chosen);
      this.read();
    }
  }

  voltAt(time) {
    const [low, high] = this.now.traces.raw;
    const place = Math.round(((time - this.now.from_s) / (this.now.to_s - this.now.from_s)) * (low.length - 1));
    return place >= 0 && place < low.length ? (low[place] + high[place]) / 2 : NaN;
  }

  read() {
    const words = Object.entries(this.cursors).map(
      ([letter, time]) => `${letter} ${shown(time, "s", 5)} ${volts(this.voltAt(time))}`,
    );
    if ("a" in this.cursors && "b" in this.cursors) {
      const span = Math.abs(this.cursors.b - this.cursors.a);
      words.push(`Δt ${shown(span, "s", 4)}${span ? ` (${shown(1 / span, "Hz", 4)})` : ""}`);
      words.push(`ΔV ${volts(this.voltAt(this.cursors.b) - this.voltAt(this.cursors.a))}`);
    }
    const window = `${shown(this.to - this.from, "s")} across`;
    document.querySelector("[data-lab-read]").textContent = [...words, window].join(" · ");
  }

  cursor(letter) {
    this.chosen = this.chosen === letter ? "" : letter;
    this.cursors[letter] ??= (this.from + this.to) / 2;
    this.paint();
  }

  move(way) {
    if (!this.chosen) {
      this.show(this.from + way * PAN * (this.to - this.from), this.to + way * PAN * (this.to - this.from));
      return;
    }
    const time = this.cursors[this.chosen] + way * STEP * (this.to - this.from);
    this.cursors[this.chosen] = Math.min(Math.max(time, 0), this.length);
    this.paint();
  }

  choose(band) {
    this.band = this.band === band ? "" : band;
    document.querySelectorAll("[data-band]").forEach((key) => {
      key.setAttribute("aria-pressed", String(key.dataset.band === this.band));
    });
    this.load();
  }

  key(key) {
    const acts = {
      "+": () => this.zoom(1 / NEAR),
      "=": () => this.zoom(1 / NEAR),
      "-": () => this.zoom(NEAR),
      0: () => this.show(0, this.length),
      a: () => this.cursor("a"),
      b: () => this.cursor("b"),
      ArrowLeft: () => this.move(-1),
      ArrowRight: () => this.move(1),
      Escape: () => this.cursor(this.chosen || "a"),
    };
    const band = document.querySelector(`[data-band-key="${CSS.escape(key)}"]`);
    const act = band ? () => this.choose(band.dataset.band) : acts[key];
    if (act && (key !== "Escape" || this.chosen)) {
      act();
      return true;
    }
    return false;
  }
}

function volts(value) {
  return Number.isNaN(value) ? "–" : shown(value, "V", 3);
}

export function labs() {
  const box = document.querySelector("[data-lab]");
  if (box && box !== lab?.box) {
    lab = new Lab(box);
  }
  if (!box) {
    lab = null;
  }
}

// A plain key outside fields; true when the lab took it.
export function labKey(key) {
  return Boolean(lab) && lab.key(key);
}

export function listenToLabs() {
  document.addEventListener("click", (event) => {
    const key = event.target.closest("[data-band], [data-lab-do]");
    if (key && lab) {
      if (key.dataset.band) {
        lab.choose(key.dataset.band);
      } else {
        lab.key(key.dataset.labDo);
      }
    }
  });
}
