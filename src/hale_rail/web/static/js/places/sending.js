// Sends presses to the server one after another; what it refuses is told, and goes back into the hand.
export class Sender {
  // `onAnswer` gets the answer to the last press of several; `onRefused` a press that was not taken, and why.
  constructor(root, onAnswer, onRefused) {
    this.token = root.querySelector("[name=csrf_token]").value;
    this.fixed = { by: root.closest("[data-where]").dataset.by, load: root.dataset.load, board: root.dataset.board,
      side: root.dataset.side, photo: root.dataset.photo };
    this.onAnswer = onAnswer;
    this.onRefused = onRefused;
    this.waiting = [];
    this.isSending = false;
  }

  send(address, fields, press = {}) {
    this.waiting.push({ address, fields, press });
    this.next();
  }

  async next() {
    const job = this.waiting[0];
    if (this.isSending || !job) {
      return;
    }
    this.isSending = true;
    const [isTaken, answer] = await this.post(job);
    this.waiting.shift();
    this.isSending = false;
    if (!isTaken) {
      this.onRefused(job.press, answer.problem);
    }
    if (isTaken && !this.waiting.length) {
      this.onAnswer(answer, job.press);
    }
    this.next();
  }

  async post({ address, fields }) {
    const body = new URLSearchParams({ ...this.fixed, ...fields });
    try {
      const reply = await fetch(address, {
        method: "POST",
        body,
        headers: { "X-CSRFToken": this.token },
        keepalive: true,
      });
      return [reply.ok, await reply.json().catch(() => ({ problem: "That is no longer there: reload the page." }))];
    } catch {
      return [false, { problem: "The server cannot be reached: nothing was saved." }];
    }
  }
}
