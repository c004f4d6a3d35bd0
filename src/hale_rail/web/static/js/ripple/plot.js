// Draws columns of least and greatest volts on a canvas: the record, a band over it, one before under it.
const ROOM = 0.08;

function style(name) {
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim();
}

// A step of 1, 2 or 5 times a power of ten that divides a span into about so many.
export function niceStep(span, count) {
  const power = 10 ** Math.floor(Math.log10(span / count));
  return power * [1, 2, 5, 10].find((step) => step * power >= span / count);
}

// A number with its unit, as the bench writes it.
export function shown(value, unit, digits = 3) {
  if (!value) {
    return `0 ${unit}`;
  }
  const powers = ["n", "µ", "m", "", "k", "M"];
  const place = Math.min(5, Math.max(0, Math.floor(Math.log10(Math.abs(value) * 1.0000001) / 3) + 3));
  const figure = Number((value / 1000 ** (place - 3)).toPrecision(digits));
  return `${String(figure).replace("-", "−")} ${powers[place]}${unit}`;
}

export class Plot {
  constructor(canvas) {
    this.canvas = canvas;
    this.pen = canvas.getContext("2d");
  }

  // The canvas in the pixels of the screen.
  fit() {
    const box = this.canvas.getBoundingClientRect();
    const ratio = window.devicePixelRatio || 1;
    this.wide = Math.max(50, Math.round(box.width));
    this.tall = Math.max(50, Math.round(box.height));
    this.canvas.width = this.wide * ratio;
    this.canvas.height = this.tall * ratio;
    this.pen.setTransform(ratio, 0, 0, ratio, 0, 0);
  }

  range(traces) {
    const all = traces.filter(Boolean);
    const low = Math.min(...all.map((trace) => least(trace[0])));
    const high = Math.max(...all.map((trace) => greatest(trace[1])));
    const room = (high - low) * ROOM || 1e-3;
    this.low = low - room;
    this.high = high + room;
  }

  x(time) {
    return (this.wide * (time - this.from)) / (this.to - this.from);
  }

  y(volt) {
    return (this.tall * (this.high - volt)) / (this.high - this.low);
  }

  time(x) {
    return this.from + ((this.to - this.from) * x) / this.wide;
  }

  // Everything anew: `now` and `before` as the server sends them, the band's name or "", cursors by letter.
  draw(now, before, band, cursors, chosen) {
    this.fit();
    this.from = now.from_s;
    this.to = now.to_s;
    this.range([now.traces.raw, before?.traces.raw, now.traces[band]]);
    this.pen.clearRect(0, 0, this.wide, this.tall);
    this.grid();
    if (before) {
      this.area(before.traces.raw, before, style("--cold"), 1);
    }
    this.area(now.traces.raw, now, style(band ? "--track" : "--ink"), band ? 0.75 : 1);
    if (now.traces[band]) {
      this.area(now.traces[band], now, style("--accent"), 1, 2.2);
    }
    for (const [letter, time] of Object.entries(cursors)) {
      this.cursor(letter, time, letter === chosen);
    }
  }

  area(trace, window, color, alpha, width = 1.2) {
    const [low, high] = trace;
    const step = (window.to_s - window.from_s) / Math.max(low.length - 1, 1);
    this.pen.globalAlpha = alpha;
    this.pen.strokeStyle = color;
    this.pen.fillStyle = color;
    this.pen.lineWidth = width;
    this.pen.beginPath();
    high.forEach((volt, index) => this.pen.lineTo(this.x(window.from_s + index * step), this.y(volt)));
    for (let index = low.length - 1; index >= 0; index -= 1) {
      this.pen.lineTo(this.x(window.from_s + index * step), this.y(low[index]));
    }
    this.pen.closePath();
    this.pen.fill();
    this.pen.stroke();
    this.pen.globalAlpha = 1;
  }

  grid() {
    this.pen.font = `500 13px ${style("--label")}`;
    this.pen.strokeStyle = style("--rule");
    this.pen.fillStyle = style("--muted");
    this.pen.lineWidth = 1;
    const volts = niceStep(this.high - this.low, 5);
    for (let n = Math.ceil(this.low / volts); n * volts <= this.high; n += 1) {
      const y = this.y(n * volts);
      this.line(0, y, this.wide, y);
      this.pen.fillText(shown(n * volts, "V"), 4, y < 16 ? y + 14 : y - 3);
    }
    const times = niceStep(this.to - this.from, 8);
    const digits = Math.max(3, Math.ceil(Math.log10(Math.abs(this.to) / times)) + 1);
    for (let n = Math.ceil(this.from / times) + 1; n * times < this.to; n += 1) {
      this.line(this.x(n * times), 0, this.x(n * times), this.tall);
      this.pen.fillText(shown(n * times, "s", digits), this.x(n * times) + 3, this.tall - 5);
    }
  }

  line(x0, y0, x1, y1) {
    this.pen.beginPath();
    this.pen.moveTo(x0, y0);
    this.pen.lineTo(x1, y1);
    this.pen.stroke();
  }

  cursor(letter, time, isChosen) {
    const x = this.x(time);
    this.pen.strokeStyle = style("--failed");
    this.pen.fillStyle = style("--failed");
    this.pen.lineWidth = isChosen ? 2.5 : 1.2;
    this.pen.setLineDash(isChosen ? [] : [6, 4]);
    this.line(x, 0, x, this.tall);
    this.pen.setLineDash([]);
    this.pen.font = `700 18px ${style("--label")}`;
    this.pen.fillText(letter, x + 4, 17);
  }
}

function least(values) {
  return values.reduce((best, value) => (value < best ? value : best), Infinity);
}

function greatest(values) {
  return values.reduce((best, value) => (value > best ? value : best), -Infinity);
}
