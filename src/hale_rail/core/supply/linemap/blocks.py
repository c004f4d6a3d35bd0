"""Stops of a line map before and while they are placed: one part, or a bank on its loop."""

from __future__ import annotations

import math

from msgspec import Struct

from hale_rail.core.parts.part import Part
from hale_rail.core.quantities import show_exact
from hale_rail.core.supply.linemap.shapes import DOWN, UP, Canvas, Station, TrackSegment

#: between the tracks of a bank: wider where a state is written under each part
_LOOP_PITCH, _YARD_PITCH, _YARD_TRACKS = 47.0, 36.0, 3
_RADIUS, _BANK_RADIUS = 9.0, 7.5
_TAG_DROP, _LOOP_TAG_DROP = 26.0, 12.0


class Block(Struct):
    """A stop: its parts in tracks, and the room it takes along, above and below its line."""

    parts: tuple[Part, ...]
    width: float
    up: float
    down: float
    tracks: list[list[Part]]
    pitch: float
    is_yard: bool


def caption(part: Part) -> str:
    """The word or value under a part."""
    if not part.kind.shows_value:
        return part.kind.map_word or part.kind.name
    if part.value and part.kind.value_unit:
        return show_exact(part.value, part.kind.value_unit)
    return "?" if part.capacitor else part.kind.name


def block(group: tuple[Part, ...]) -> Block:
    """The stop of one part, of a bank on up to three tracks, or of a yard of many."""
    if len(group) == 1:
        part = group[0]
        width = max(50.0, 6.4 * len(part.ref) + 12, 5.8 * len(caption(part)) + 12)
        return Block(group, width, UP, DOWN, [[part]], width, False)
    is_yard = len(group) > _YARD_TRACKS
    rows = min(len(group), _YARD_TRACKS)
    columns = math.ceil(len(group) / rows)
    tracks = [list(group[row * columns : (row + 1) * columns]) for row in range(rows)]
    tracks = [track for track in tracks if track]
    text = max(len(_above(p, is_yard)) for p in group)
    pitch = max(38.0, 6.2 * text + 8)
    reach = (len(tracks) - 1) * _between(is_yard) / 2
    down = reach + (21 if is_yard else 25)
    return Block(group, columns * pitch + 36, reach + UP - 3, down, tracks, pitch, is_yard)


def _between(is_yard: bool) -> float:
    return _YARD_PITCH if is_yard else _LOOP_PITCH


def _above(part: Part, is_yard: bool) -> str:
    return part.ref if is_yard else f"{part.ref} {caption(part)}"


def place(canvas: Canvas, this: Block, line: str, x: float, y: float) -> None:
    """Draw one stop with its left end at (x, y)."""
    stop = len(canvas.stops.setdefault(line, []))
    canvas.stops[line].append(tuple(p.id for p in this.parts))
    if len(this.parts) == 1:
        part = this.parts[0]
        middle = x + this.width / 2
        canvas.stations.append(
            Station(part, middle, y, _RADIUS, part.ref, caption(part), _TAG_DROP)
        )
        canvas.segments.append(TrackSegment(line, stop, ((x, y), (middle, y))))
        canvas.segments.append(TrackSegment(line, stop + 1, ((middle, y), (x + this.width, y))))
        return
    between = _between(this.is_yard)
    top = y - (len(this.tracks) - 1) * between / 2
    for row, track in enumerate(this.tracks):
        _track(canvas, this, track, line, stop, x, y, top + row * between)


def _track(
    canvas: Canvas,
    this: Block,
    track: list[Part],
    line: str,
    stop: int,
    x: float,
    y: float,
    track_y: float,
) -> None:
    """One track of a bank's loop, with its parts."""
    right = x + this.width
    bend = min(14.0, abs(track_y - y)) or 1.0
    path = (
        (x, y),
        (x + 4, y),
        (x + 4 + bend, track_y),
        (right - 4 - bend, track_y),
        (right - 4, y),
        (right, y),
    )
    canvas.segments.append(TrackSegment(line, stop, path, is_loop=True))
    for column, part in enumerate(track):
        station_x = x + 18 + this.pitch * (column + 0.5)
        drop = 0.0 if this.is_yard else _LOOP_TAG_DROP
        above = _above(part, this.is_yard)
        canvas.stations.append(Station(part, station_x, track_y, _BANK_RADIUS, above, "", drop))
