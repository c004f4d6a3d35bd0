// Laying a photo over its board: each press fills in the next point.
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

class Points {
  constructor(root, photoOf) {
    this.root = root;
    this.rows = [...root.querySelectorAll("[data-point]")];
    this.photo = photoOf((at) => this.set(at));
    this.stage = root.querySelector("[data-stage]");
    this.here = this.rows.find((row) => !this.at(row)) || this.rows[0];
    root.addEventListener("click", (event) => this.click(event));
    root.addEventListener("input", () => this.draw());
    this.stage.addEventListener("keydown", (event) => this.key(event));
    this.draw();
  }

  fields(row) {
    return [...row.querySelectorAll("[data-pixel]")];
  }

  at(row) {
    const [x, y] = this.fields(row).map((field) => field.value.trim());
    return x && y ? [Number(x.replace(",", ".")), Number(y.replace(",", "."))] : null;
  }

  click(event) {
    const take = event.target.closest("[data-take]");
    const tool = event.target.closest("[data-tool]");
    if (take) {
      this.here = take.closest("[data-point]");
      this.stage.focus({ preventScroll: true });
      this.draw();
    } else if (tool) {
      this.photo.tool(tool.dataset.tool);
    }
  }

  key(event) {
    const keys = {
      Enter: () => this.set(this.photo.cross),
      "+": () => this.photo.tool("in"),
      "-": () => this.photo.tool("out"),
      0: () => this.photo.tool("fit"),
    };
    if (event.ctrlKey || event.metaKey || event.altKey || !(ARROWS[event.key] || keys[event.key])) {
      return;
    }
    event.preventDefault();
    event.stopPropagation();
    if (ARROWS[event.key]) {
      this.photo.move(ARROWS[event.key], event.shiftKey);
    } else {
      keys[event.key]();
    }
  }

  // The next point is the following one of the same form.
  set(at) {
    const fields = this.fields(this.here);
    fields.forEach((field, nth) => {
      field.value = at[nth].toFixed(1);
    });
    const rows = this.rows.filter((row) => row.closest("form") === this.here.closest("form"));
    this.here = rows[rows.indexOf(this.here) + 1] || this.here;
    this.draw();
  }

  draw() {
    const form = this.here.closest("form");
    const rows = this.rows.filter((row) => row.closest("form") === form);
    this.rows.forEach((row) => row.classList.toggle("here", row === this.here));
    this.photo.picked = rows.map((row) => this.at(row)).filter(Boolean);
    this.photo.drawCross();
    const name = this.here.querySelector("[data-take]").textContent.trim();
    this.root.querySelector("[data-said]").textContent = `Press point ${name.replace(/\s+/g, " ")}.`;
  }
}

export function layPoints(root, photoOf) {
  new Points(root, photoOf);
}
