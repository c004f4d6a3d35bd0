"""Charts as plain shapes, drawn the same on a page and in a PDF.

Coordinates are in points of the chart, y downwards. A shape's `kind` says what it means; how that
looks is the drawing's.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from msgspec import Struct, field

Point = tuple[float, float]
_LEFT, _RIGHT, _TOP, _BOTTOM = 62.0, 12.0, 12.0, 22.0
_COLUMNS = 500


class Shape(Struct, frozen=True):
    """A line (or a filled outline) through points."""

    kind: str
    points: tuple[Point, ...]
    is_filled: bool = False


class Word(Struct, frozen=True):
    """A text at a place; `anchor` is start, middle or end."""

    kind: str
    at: Point
    text: str
    anchor: str = "start"


class Chart(Struct, frozen=True):
    """A drawing of a width and height, what it shows in words, its shapes in order, its texts."""

    wide: float
    tall: float
    label: str
    shapes: tuple[Shape, ...] = ()
    words: tuple[Word, ...] = ()


class Plot(Struct):
    """A plot under way: axes over x and y ranges, and what was drawn so far."""

    wide: float
    tall: float
    x_range: tuple[float, float]
    y_range: tuple[float, float]
    shapes: list[Shape] = field(default_factory=list)
    words: list[Word] = field(default_factory=list)

    def x(self, value: float) -> float:
        """Where a value lies across."""
        low, high = self.x_range
        return _LEFT + (self.wide - _LEFT - _RIGHT) * (value - low) / (high - low)

    def y(self, value: float) -> float:
        """Where a value lies, downwards."""
        low, high = self.y_range
        return self.tall - _BOTTOM - (self.tall - _TOP - _BOTTOM) * (value - low) / (high - low)

    def line(self, kind: str, points: Sequence[Point]) -> None:
        """Draw a line through values."""
        placed = tuple((round(self.x(x), 2), round(self.y(y), 2)) for x, y in points)
        self.shapes.append(Shape(kind, placed))

    def area(self, kind: str, points: Sequence[Point]) -> None:
        """Fill the outline through values."""
        placed = tuple((round(self.x(x), 2), round(self.y(y), 2)) for x, y in points)
        self.shapes.append(Shape(kind, placed, is_filled=True))

    def band(self, kind: str, begin: float, end: float) -> None:
        """Fill the whole height between two values across."""
        low, high = self.y_range
        self.area(kind, [(begin, low), (end, low), (end, high), (begin, high)])

    def level(self, kind: str, value: float, text: str) -> None:
        """Draw a level line with its text on the scale."""
        self.line(kind, [(self.x_range[0], value), (self.x_range[1], value)])
        self.words.append(Word("scale", (_LEFT - 6, round(self.y(value) + 4, 2)), text, "end"))

    def ticks(self, unit: str, count: int = 6) -> None:
        """Draw the axis across, with about so many round values and its unit."""
        low, high = self.x_range
        step = _round_step((high - low) / count)
        place = math.ceil(low / step - 1e-9) * step
        floor = self.y_range[0]
        while place <= high * (1 + 1e-9):
            at = self.x(place)
            self.shapes.append(
                Shape("axis", ((round(at, 2), self.tall - _BOTTOM), (round(at, 2), self.tall - 17)))
            )
            if at < self.wide - _RIGHT - 20:  # the unit stands beyond
                number = Word("scale", (round(at, 2), self.tall - 5), f"{place:g}", "middle")
                self.words.append(number)
            place += step
        self.line("axis", [(low, floor), (high, floor)])
        self.words.append(Word("scale", (self.wide - 2, self.tall - 5), unit, "end"))

    def chart(self, label: str) -> Chart:
        """The plot as it is now."""
        return Chart(self.wide, self.tall, label, tuple(self.shapes), tuple(self.words))


def _round_step(rough: float) -> float:
    """A step of 1, 2 or 5 times a power of ten, at least as large as it is wanted."""
    power = 10.0 ** math.floor(math.log10(rough))
    round_step = (factor * power for factor in (1, 2, 5, 10))
    return next(step for step in round_step if step >= rough * (1 - 1e-9))


def thinned(points: Sequence[Point], columns: int = _COLUMNS) -> list[Point]:
    """A line in at most so many columns, each its least and its most: no peak is lost."""
    if len(points) <= 2 * columns:
        return list(points)
    size = math.ceil(len(points) / columns)
    thinned: list[Point] = []
    for place in range(0, len(points), size):
        part = points[place : place + size]
        ends = {min(part, key=lambda p: p[1]), max(part, key=lambda p: p[1])}
        thinned += sorted(ends)
    return thinned
