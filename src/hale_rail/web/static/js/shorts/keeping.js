// Sends what was drawn to the server; what it has not taken yet is kept here and survives a reload.
const WAIT_MS = 350;

export class Keeper {
  constructor(root, say) {
    this.address = root.dataset.save;
    this.rail = root.dataset.rail;
    this.version = Number(root.dataset.version);
    this.token = root.querySelector("[name=csrf_token]").value;
    this.key = `board:${this.address}:${this.rail}`;
    this.say = say;
    this.timer = 0;
    this.isSending = false;
    this.waiting = null;
  }

  // What was drawn and not taken yet, or null; `isBehind`: another tab changed the map since.
  draft() {
    try {
      const kept = JSON.parse(localStorage.getItem(this.key));
      return kept && { board: kept.board, isBehind: kept.version !== this.version };
    } catch {
      return null;
    }
  }

  keep(board) {
    localStorage.setItem(this.key, JSON.stringify({ version: this.version, board }));
    this.say("not kept yet");
    this.waiting = board;
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.send(), WAIT_MS);
  }

  async send() {
    if (this.isSending || !this.waiting) {
      return;
    }
    this.isSending = true;
    const board = this.waiting;
    this.waiting = null;
    const body = new URLSearchParams({ body: JSON.stringify(board), by: this.rail, version: this.version });
    try {
      const headers = { "X-CSRFToken": this.token };
      const reply = await fetch(this.address, { method: "POST", body, headers });
      const found = await reply.json();
      if (reply.ok) {
        this.version = found.version;
        this.kept();
      } else {
        this.say(found.problem, true);
      }
    } catch {
      this.say("The server cannot be reached; what was drawn is kept in this browser.", true);
    }
    this.isSending = false;
    if (this.waiting) {
      this.send();
    }
  }

  kept() {
    if (this.waiting) {
      localStorage.setItem(this.key, JSON.stringify({ version: this.version, board: this.waiting }));
    } else {
      localStorage.removeItem(this.key);
      this.say("kept");
    }
  }
}
