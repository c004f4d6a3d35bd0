"""Charts as plain shapes, drawn the same on a page and in a PDF: soaks, records, survival.

Coordinates are in points of the chart, y downwards. A shape's `kind` says what it means; how that
looks is the drawing's.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from msgspec import Struct, field

from hale_rail.core.ledger.lifetimes import Fit, Step, survives
from hale_rail.core.quantities import Unit, show
from hale_rail.core.soak.soak import Question, Sample, Soak

Point = tuple[float, float]
_LEFT, _RIGHT, _TOP, _BOTTOM = 62.0, 12.0, 12.0, 22.0
_COLUMNS = 500
#: a trend's wedge is followed this far beyond what was done, as a share of it
_AHEAD = 0.25


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


class _Plot(Struct):
    """A plot under way: axes over x and y ranges, and what was drawn so far."""

    wide: float
    tall: float
    x_range: tuple[float, float]
    y_range: tuple[float, float]
    shapes: list[Shape] = field(default_factory=list)
    words: list[Word] = field(default_factory=list)

    def x(self, value: float) -> float:
        low, high = self.x_range
        return _LEFT + (self.wide - _LEFT - _RIGHT) * (value - low) / (high - low)

    def y(self, value: float) -> float:
        low, high = self.y_range
        return self.tall - _BOTTOM - (self.tall - _TOP - _BOTTOM) * (value - low) / (high - low)

    def line(self, kind: str, points: Sequence[Point]) -> None:
        placed = tuple((round(self.x(x), 2), round(self.y(y), 2)) for x, y in points)
        self.shapes.append(Shape(kind, placed))

    def area(self, kind: str, points: Sequence[Point]) -> None:
        placed = tuple((round(self.x(x), 2), round(self.y(y), 2)) for x, y in points)
        self.shapes.append(Shape(kind, placed, is_filled=True))

    def band(self, kind: str, begin: float, end: float) -> None:
        low, high = self.y_range
        self.area(kind, [(begin, low), (end, low), (end, high), (begin, high)])

    def level(self, kind: str, value: float, text: str) -> None:
        self.line(kind, [(self.x_range[0], value), (self.x_range[1], value)])
        self.words.append(Word("scale", (_LEFT - 6, round(self.y(value) + 4, 2)), text, "end"))

    def ticks(self, unit: str, count: int = 6) -> None:
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
        return Chart(self.wide, self.tall, label, tuple(self.shapes), tuple(self.words))


def _round_step(rough: float) -> float:
    """A step of 1, 2 or 5 times a power of ten, at least as large as it is wanted."""
    power = 10.0 ** math.floor(math.log10(rough))
    found = (factor * power for factor in (1, 2, 5, 10))
    return next(step for step in found if step >= rough * (1 - 1e-9))


def soak_chart(
    samples: Sequence[Sample],
    asked: Question,
    found: Soak,
    wide: float = 640.0,
    tall: float = 120.0,
) -> Chart:
    """A rail over the hours: limits as edges, gaps, warm-up, the rows, the trend as a wedge."""
    start = samples[0].at_s
    rows = [((sample.at_s - start) / 3600, sample.volt) for sample in samples]
    end = max(asked.hours, found.hours * (1 + _AHEAD), 1e-3)
    volts = [asked.low_v, asked.high_v, *(volt for _, volt in rows)]
    room = 0.08 * (max(volts) - min(volts))
    plot = _Plot(wide, tall, (0.0, end), (min(volts) - room, max(volts) + room))
    warm = min(asked.warm_up_s / 3600, end)
    if warm:
        plot.band("warm-up", 0.0, warm)
    for begin, until in found.gaps:
        plot.band("gap", begin, until)
    plot.level("limit", asked.low_v, show(asked.low_v, Unit.VOLT, 4))
    plot.level("limit", asked.high_v, show(asked.high_v, Unit.VOLT, 4))
    line = found.trend
    if line and line.is_proven:
        ahead = [end - found.hours] * 2
        ends = [line.last_v + slope * hours
                for slope, hours in zip((line.low, line.high), ahead, strict=True)]  # fmt: skip
        inside = [min(max(volt, plot.y_range[0]), plot.y_range[1]) for volt in ends]
        plot.area("trend", [(found.hours, line.last_v), (end, inside[0]), (end, inside[1])])
    for piece in _pieces(rows, found.gaps):
        plot.line("trace", thinned(piece))
    plot.ticks("h")
    return plot.chart(f"{found.verdict.words}, {found.hours:.1f} of {asked.hours:g} hours")


def _pieces(rows: Sequence[Point], gaps: Sequence[tuple[float, float]]) -> list[list[Point]]:
    """The rows between gaps."""
    begins = {begin for begin, _ in gaps}
    found: list[list[Point]] = [[]]
    for row in rows:
        found[-1].append(row)
        if row[0] in begins:
            found.append([])
    return [piece for piece in found if piece]


def thinned(points: Sequence[Point], columns: int = _COLUMNS) -> list[Point]:
    """A line in at most so many columns, each its least and its most: no peak is lost."""
    if len(points) <= 2 * columns:
        return list(points)
    size = math.ceil(len(points) / columns)
    found: list[Point] = []
    for place in range(0, len(points), size):
        part = points[place : place + size]
        ends = {min(part, key=lambda p: p[1]), max(part, key=lambda p: p[1])}
        found += sorted(ends)
    return found


def wave_chart(
    traces: Sequence[tuple[str, Sequence[Point]]],
    limit_v: float | None,
    label: str,
    wide: float = 640.0,
    tall: float = 150.0,
) -> Chart:
    """A record around its mean, in ms and mV, the one before under it; the limit as a band."""
    every = [point for _, points in traces for point in points]
    seconds, volts = [at for at, _ in every], [volt for _, volt in every]
    half = (limit_v or 0.0) / 2
    low, high = min(*volts, -half), max(*volts, half)
    room = max(0.05 * (high - low), 1e-6)
    begin, end = min(seconds), max(seconds)
    across = (begin * 1e3, max(end, begin + 1e-9) * 1e3)
    plot = _Plot(wide, tall, across, (low - room, high + room))
    if limit_v:
        plot.level("limit", half, "")
        plot.level("limit", -half, show(limit_v, Unit.VOLT, 3))
    plot.level("grid", low, show(low, Unit.VOLT, 2))
    plot.level("grid", high, show(high, Unit.VOLT, 2))
    for kind, points in traces:
        plot.line(kind, [(at * 1e3, volt) for at, volt in points])
    plot.ticks("ms")
    return plot.chart(label)


def survival_chart(
    steps: Sequence[Step],
    alive: Sequence[float],
    found: Fit,
    bounds: Sequence[tuple[float, float, float]] = (),
    wide: float = 640.0,
    tall: float = 240.0,
) -> Chart:
    """Survival by age as steps, ticks for units still good, the fitted curve and its bounds."""
    oldest = max([step.years for step in steps] + list(alive)) * 1.1 or 1.0
    plot = _Plot(wide, tall, (0.0, oldest), (0.0, 1.05))
    if bounds:
        edge = [(years, high) for years, _, high in bounds]
        plot.area("bounds", [*edge, *((years, low) for years, low, _ in reversed(bounds))])
    for share, text in ((0.0, "0 %"), (0.5, "50 %"), (0.9, "90 %"), (1.0, "100 %")):
        plot.level("grid", share, text)
    corners: list[Point] = []
    for former, later in zip(steps, [*steps[1:], Step(oldest, steps[-1].share)], strict=True):
        corners += [(former.years, former.share), (later.years, former.share)]
    plot.line("trace", corners)
    for years in alive:
        share = [step.share for step in steps if step.years <= years][-1]
        plot.line("alive", [(years, share - 0.02), (years, share + 0.02)])
    if found.shape and found.scale_years:
        ages = [oldest * place / 100 for place in range(1, 101)]
        shape, scale = found.shape.value, found.scale_years.value
        plot.line("fit", [(0.0, 1.0), *((age, survives(shape, scale, age)) for age in ages)])
    plot.ticks("years")
    return plot.chart(f"{found.failures} of {found.n} failed")
