"""The line map as plain shapes, for paper: tracks, how far power reaches, a mark a part."""

from __future__ import annotations

import math
from collections.abc import Mapping

from hale_rail.core.charts import Chart, Point, Shape, Word
from hale_rail.core.supply.linemap.shapes import Box, LineMap, Station
from hale_rail.core.supply.reach import PowerReach

#: corners of a state's mark, and by how much its first is turned from the top, in degrees
_MARKS = {
    "good": (24, 0.0), "worn": (4, 45.0), "failed": (4, 0.0), "unproven": (3, 0.0),
    "replaced": (24, 0.0), "unseen": (24, 0.0),
}  # fmt: skip


def map_chart(
    picture: LineMap,
    states: Mapping[int, str],
    plates: Mapping[str, tuple[str, str]],
    reach: PowerReach,
) -> Chart:
    """The map: states by part's id, volts and shape by rail's key; size by the picture's."""
    shapes: list[Shape] = []
    words: list[Word] = []
    for box in picture.boards:
        shapes.append(_rectangle("box", box))
        words.append(Word("name", (box.x + box.w / 2, box.y + 13), box.label, "middle"))
    for segment in picture.segments:
        kind = reach.kind(segment.line, segment.stop)
        if kind:
            shapes.append(Shape(kind, segment.points))
    shapes += [Shape("track", segment.points) for segment in picture.segments]
    for box in (*picture.plates, *picture.capsules):
        shapes.append(_rectangle("box", box))
        words.append(Word("name", (box.x + box.w / 2, box.y + 15), box.label, "middle"))
        volts = plates.get(box.key)
        if volts and box in picture.plates:
            words.append(Word("name", (box.x + box.w / 2, box.y + 38), volts[0], "middle"))
    for station in picture.stations:
        shapes += _mark(station, states.get(station.part.id, "unseen"))
        above = (station.x, station.y - station.radius - 5)
        words.append(Word("name", above, station.above, "middle"))
        if station.below:
            below = (station.x, station.y + station.radius + 13)
            words.append(Word("name", below, station.below, "middle"))
    return Chart(picture.width, picture.height, "Line map", tuple(shapes), tuple(words))


def _rectangle(kind: str, box: Box) -> Shape:
    x, y = box.x + box.w, box.y + box.h
    return Shape(kind, ((box.x, box.y), (x, box.y), (x, y), (box.x, y)), is_filled=True)


def _mark(station: Station, state: str) -> list[Shape]:
    """A part's mark; a replaced one has a core, so that no meaning hangs on colour alone."""
    corners, turned = _MARKS.get(state, _MARKS["unseen"])
    shapes = [Shape(state, _polygon(station, corners, turned, station.radius), is_filled=True)]
    if state == "replaced":
        shapes.append(Shape("core", _polygon(station, 24, 0.0, station.radius / 2), is_filled=True))
    return shapes


def _polygon(station: Station, corners: int, turned: float, radius: float) -> tuple[Point, ...]:
    return tuple(
        (station.x + radius * math.sin(angle), station.y - radius * math.cos(angle))
        for angle in (math.radians(turned) + 2 * math.pi * n / corners for n in range(corners))
    )
