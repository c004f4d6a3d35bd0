// The part in hand: the list's next one without a place, or one that was taken from the list.
export class Hand {
  constructor(root) {
    this.root = root;
    this.chips = [...root.querySelectorAll("[data-part]")];
    this.part = "";
    this.after = -1;
    // a part without a place that the page was asked for is in hand at once
    const chosen = this.chips.find((chip) => chip.matches("[aria-current]") && !chip.dataset.hasPlace);
    this.isChosen = Boolean(chosen);
    if (chosen) {
      this.take(chosen.dataset.part);
    } else {
      this.next();
    }
  }

  hasPlace(part) {
    return Boolean(this.chip(part)?.dataset.hasPlace);
  }

  chip(part) {
    return this.chips.find((chip) => chip.dataset.part === part);
  }

  chosen() {
    return this.chips.find((chip) => chip.matches("[aria-current]"))?.dataset.part;
  }

  take(part) {
    this.part = part;
    this.after = this.chips.indexOf(this.chip(part));
    this.draw();
  }

  // The next part without a place, round and round from the one in hand.
  next() {
    const count = this.chips.length;
    for (let step = 1; step <= count; step += 1) {
      const chip = this.chips[(this.after + step) % count];
      if (!chip.dataset.hasPlace && !chip.dataset.isBoard) {
        this.take(chip.dataset.part);
        return;
      }
    }
    this.part = "";
    this.draw();
  }

  skip() {
    this.next();
  }

  placed(part) {
    this.mark(part, true);
    this.next();
  }

  unplaced(part) {
    this.mark(part, false);
    this.draw();
  }

  mark(part, hasPlace) {
    const chip = this.chip(part);
    if (chip) {
      chip.dataset.hasPlace = hasPlace ? "yes" : "";
      chip.querySelector("[data-note]").textContent = hasPlace || chip.dataset.isBoard ? "" : "unplaced";
    }
  }

  // What the server knows of places.
  know(ids) {
    const known = new Set(ids.map(String));
    this.chips.forEach((chip) => {
      if (known.has(chip.dataset.part) !== Boolean(chip.dataset.hasPlace)) {
        this.mark(chip.dataset.part, known.has(chip.dataset.part));
      }
    });
    const wanted = this.chips.filter((chip) => chip.dataset.hasPlace || !chip.dataset.isBoard).length;
    const count = `${known.size} of ${wanted} part${wanted === 1 ? "" : "s"} placed`;
    this.root.querySelector("[data-placed]").textContent = count;
    if (!this.part || known.has(this.part)) {
      this.next();
    }
  }

  show(isShown) {
    this.root.querySelector("[data-hand]").hidden = !isShown;
    this.draw();
  }

  draw() {
    const chip = this.chip(this.part);
    this.root.querySelector("[data-hand-name]").textContent = chip ? chip.dataset.name : "nothing";
    this.root.querySelector("[data-hand-words]").textContent = chip ? chip.dataset.words : "every part has a place";
    this.chips.forEach((each) => each.classList.toggle("in-hand", each === chip));
  }
}
