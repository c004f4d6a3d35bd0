// The map editor: its state and its picture; fields, shortcuts and tools are in modules of their own.
import { board as blank, draw } from "./draw.js";
import { fieldActions } from "./fields.js";
import { Keeper } from "./keeping.js";
import { Model, empty } from "./model.js";
import { shortcutActions } from "./shortcuts.js";
import { toolActions } from "./tools.js";
import { View, handle } from "../view.js";

const HINTS = {
  pad: "Press where a pad is; arrows move the cross, Enter places. Del takes the chosen one away.",
  part: "Choose a pad, then name the part that stands on it.",
  segment: "From pad to pad; then type the width in mm, or milliohms with m.",
  measure: "Two points of known distance, then type the millimetres.",
};
const USUAL_WIDTH = 1;

function counted(count, name) {
  return `${count} ${name}${count === 1 ? "" : "s"}`;
}

class Editor {
  constructor(root, model) {
    this.root = root;
    this.model = model;
    this.stage = root.querySelector("[data-stage]");
    this.mode = "pad";
    this.net = "rail";
    this.chosen = {};
    this.from = "";
    this.width = USUAL_WIDTH;
    this.typed = "";
    this.told = null;
    this.cross = [model.board.width_mm / 2, model.board.height_mm / 2];
    this.measured = [];
    this.keeper = new Keeper(root, (words, isBad) => this.say(words, isBad));
    this.svg = blank(this.stage, model.board.width_mm, model.board.height_mm);
    this.view = new View(this.svg, this.whole());
    handle(this.view, (at) => this.press(at));
    this.listen();
    this.show();
  }

  whole() {
    return [-4, -4, this.model.board.width_mm + 8, this.model.board.height_mm + 8];
  }

  listen() {
    this.stage.addEventListener("keydown", (event) => this.key(event));
    this.root.addEventListener("click", (event) => {
      const button = event.target.closest("[data-mode], [data-tool]");
      if (button) {
        this.use(button.dataset.mode, button.dataset.tool);
      }
    });
    this.root.addEventListener("change", (event) => this.field(event.target));
  }

  say(words, isBad = false) {
    const state = this.root.querySelector("[data-state]");
    state.textContent = words;
    state.classList.toggle("problem", isBad);
  }

  // What this browser still holds: taken up at once, or offered where another tab drew meanwhile.
  restore(draft) {
    if (!draft) {
      return;
    }
    this.mine = draft.board;
    this.root.querySelector("[data-tool=mine]").hidden = !draft.isBehind;
    if (draft.isBehind) {
      this.tell("Another tab changed this map. What was drawn here is still kept: press “mine” to have it.", true);
    } else {
      this.takeMine();
    }
  }

  takeMine() {
    this.root.querySelector("[data-tool=mine]").hidden = true;
    this.model.change(() => {
      this.model.board = this.mine;
    });
    this.done();
  }

  // Say something of what was just done, until the next thing is.
  tell(words, isBad = false) {
    this.told = { words, isBad };
    this.show();
  }

  // After a change: keep it, draw it.
  done() {
    this.keeper.keep(this.model.board);
    this.show();
  }

  show() {
    const loose = this.model.loose();
    draw(this.svg, this.model, {
      chosen: this.chosen,
      from: this.from,
      loose,
      cross: this.mode === "pad" || this.mode === "measure" ? this.cross : null,
      measured: this.measured,
      picture: this.root.dataset.picture,
    });
    this.root.querySelectorAll("[data-mode]").forEach((button) => {
      button.setAttribute("aria-pressed", String(button.dataset.mode === this.mode));
    });
    const hint = this.root.querySelector("[data-hint]");
    const usual = this.movesPad() ? "Arrows move this pad; Enter lets it go, Del takes it away." : HINTS[this.mode];
    hint.textContent = this.told?.words || (this.typed ? `typed: ${this.typed}` : usual);
    hint.classList.toggle("problem", Boolean(this.told?.isBad));
    const drawn = [counted(this.model.pads().length, "pad"), counted(this.model.board.parts.length, "part")];
    this.root.querySelector("[data-count]").textContent = drawn.join(", ");
    this.root.querySelector("[data-loose]").textContent = loose.size
      ? `${loose.size} ${loose.size === 1 ? "pad hangs" : "pads hang"} on nothing`
      : "";
    this.showFields();
    const ground = this.model.board.ground;
    const kind = typeof ground === "object" ? (ground.sheet_um ? "sheet" : "net") : "ideal";
    this.root.querySelector("[data-field=ground]").value = kind;
    this.root.querySelector("[data-field=net]").value = this.net;
    const drawing = this.root.querySelector("[data-field=drawing]");
    if (drawing) {
      drawing.value = this.model.board.drawing || "";
    }
  }

}

Object.assign(Editor.prototype, fieldActions, shortcutActions, toolActions);

// Begin on every editor of the page that has none yet.
export async function editors() {
  for (const root of document.querySelectorAll("[data-editor]:not([data-begun])")) {
    root.dataset.begun = "yes";
    const address = root.dataset.editor;
    const drawn = address ? await (await fetch(address)).json() : empty();
    const editor = new Editor(root, new Model(drawn));
    editor.restore(editor.keeper.draft());
  }
}
