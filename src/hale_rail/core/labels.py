"""Where the words of a drawing go so that none lies over another: they give way, or get a leader.

Greedy: the most important first, each at the first of its places that is free.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

#: a letter's width as a share of its size, taken wide so that no word is longer than its box
LETTER = 0.56
#: how high a line of words is, as a share of its size: above and below its base line
_ABOVE, _BELOW = 0.78, 0.24
#: steps in which a word moves away from its place, and how many of them it tries
_STEP, _STEPS = 1.25, 5


class Box(Struct, frozen=True):
    """What is taken of a drawing."""

    left: float
    top: float
    right: float
    bottom: float

    def meets(self, other: Box) -> bool:
        """True where two lie over one another."""
        return (
            self.left < other.right
            and other.left < self.right
            and self.top < other.bottom
            and other.top < self.bottom
        )


class Label(Struct, frozen=True):
    """A word to be placed: at the middle of its base line, so large, with what it belongs to."""

    text: str
    x: float
    y: float
    size: float

    @property
    def width(self) -> float:
        """How wide it is, at most."""
        return LETTER * self.size * len(self.text)

    def box_at(self, x: float, y: float) -> Box:
        """What it takes with the middle of its base line there."""
        half = self.width / 2
        return Box(x - half, y - _ABOVE * self.size, x + half, y + _BELOW * self.size)


class PlacedLabel(Struct, frozen=True):
    """A label with its place, and whether it moved so far that a line leads to what it names."""

    label: Label
    x: float
    y: float
    has_leader: bool


def circle_box(x: float, y: float, radius: float) -> Box:
    """The box of a circle."""
    return Box(x - radius, y - radius, x + radius, y + radius)


def place(labels: Sequence[Label], taken: Sequence[Box], bounds: Box) -> list[PlacedLabel]:
    """A place for each label, the most important first; what is `taken` is kept free.

    One that finds no free place within `bounds` stays where it was.
    """
    full = list(taken)
    placed: list[PlacedLabel] = []
    for label in labels:
        x, y, steps = _free(label, full, bounds)
        full.append(label.box_at(x, y))
        placed.append(PlacedLabel(label, x, y, steps > 1))
    return placed


def _free(label: Label, full: Sequence[Box], bounds: Box) -> tuple[float, float, int]:
    """The first free place of a label, and how many steps away it is."""
    for steps in range(_STEPS + 1):
        for x, y in _ring(label, steps):
            box = label.box_at(x, y)
            is_inside = (
                bounds.left <= box.left
                and box.right <= bounds.right
                and bounds.top <= box.top
                and box.bottom <= bounds.bottom
            )
            if is_inside and not any(box.meets(other) for other in full):
                return x, y, steps
    return label.x, label.y, 0


def _ring(label: Label, steps: int) -> list[tuple[float, float]]:
    """The places so many steps away: above, below, then to the sides and the corners."""
    if not steps:
        return [(label.x, label.y)]
    down = steps * _STEP * label.size
    across = label.width / 2 + steps * label.size
    ways = ((0, -1), (0, 1), (1, 0), (-1, 0), (1, -1), (-1, -1), (1, 1), (-1, 1))
    return [(label.x + sx * across, label.y + sy * down) for sx, sy in ways]
