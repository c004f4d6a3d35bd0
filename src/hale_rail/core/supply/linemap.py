"""The line map: a sheet drawn as lines, computed, never placed by hand.

One trunk from the inlet, then a line a rail. Stations stand in the order power passes them; parts of
one bank stand on a loop; a connector spans the rails it carries; a board hangs behind it. Geometry
is in units of a picture about `WIDTH` wide; `y` grows downwards.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from hale_rail.core.quantities import Unit, show_exact
from hale_rail.core.supply.sheet import TRUNK, Kind, Sheet, Station, group_banks

WIDTH = 860.0
MARGIN = 14.0
PLATE_W, PLATE_H = 58.0, 26.0
CAPSULE_W = 22.0
_LOOP_PITCH, _YARD_TRACKS = 36.0, 3
_UP, _DOWN = 30.0, 40.0

Point = tuple[float, float]

_WORDS = {
    Kind.SWITCH: "switch",
    Kind.FILTER: "filter",
    Kind.THERMISTOR: "inrush",
    Kind.TRANSISTOR: "transistor",
}


@dataclass(frozen=True)
class Spot:
    """Where a station stands: centre, radius, and its labels' lines (`below` "" in a yard)."""

    station: Station
    x: float
    y: float
    radius: float
    above: str
    below: str


@dataclass(frozen=True)
class Segment:
    """A stretch of track into stop `stop` of `line` (0 = the first), as a polyline."""

    line: str
    stop: int
    points: tuple[Point, ...]
    is_loop: bool = False


@dataclass(frozen=True)
class Box:
    """A rectangle: a rail's plate, a connector's capsule, or a board."""

    key: str
    label: str
    x: float
    y: float
    w: float
    h: float
    station: Station | None = None


@dataclass(frozen=True)
class LineMap:
    """The finished picture. `stops` gives, per line, the station ids of each stop in order."""

    width: float
    height: float
    spots: tuple[Spot, ...]
    segments: tuple[Segment, ...]
    plates: tuple[Box, ...]
    capsules: tuple[Box, ...]
    boards: tuple[Box, ...]
    stops: dict[str, tuple[tuple[int, ...], ...]]

    def label_boxes(self) -> list[tuple[float, float, float, float]]:
        """Rectangles (x0, y0, x1, y1) of every marker and label, none of which may overlap."""
        boxes = []
        for spot in self.spots:
            r = spot.radius
            boxes.append((spot.x - r, spot.y - r, spot.x + r, spot.y + r))
            for text, size, y in (
                (spot.above, 6.0, spot.y - r - 14),
                (spot.below, 5.6, spot.y + r + 2),
            ):
                if text:
                    half = len(text) * size / 2
                    boxes.append((spot.x - half, y, spot.x + half, y + 12))
        boxes += [(b.x, b.y, b.x + b.w, b.y + b.h) for b in (*self.plates, *self.capsules)]
        return boxes


@dataclass
class _Block:
    """A stop before it is placed: one station, or a bank on its loop."""

    stations: tuple[Station, ...]
    width: float
    up: float
    down: float
    tracks: list[list[Station]]
    pitch: float
    is_yard: bool


@dataclass
class _Canvas:
    spots: list[Spot] = field(default_factory=list)
    segments: list[Segment] = field(default_factory=list)
    plates: list[Box] = field(default_factory=list)
    capsules: list[Box] = field(default_factory=list)
    boards: list[Box] = field(default_factory=list)
    stops: dict[str, list[tuple[int, ...]]] = field(default_factory=dict)


def caption(station: Station) -> str:
    """The word or value under a station."""
    if station.kind is Kind.CAPACITOR:
        return show_exact(station.value, Unit.FARAD) if station.value else "?"
    if station.kind is Kind.FUSE and station.value:
        return show_exact(station.value, Unit.AMPERE)
    return _WORDS.get(station.kind, str(station.kind.value))


def _block(group: tuple[Station, ...]) -> _Block:
    if len(group) == 1:
        station = group[0]
        width = max(50.0, 6.4 * len(station.ref) + 12, 5.8 * len(caption(station)) + 12)
        return _Block(group, width, _UP, _DOWN, [[station]], width, False)
    is_yard = len(group) > _YARD_TRACKS
    rows = min(len(group), _YARD_TRACKS)
    columns = math.ceil(len(group) / rows)
    tracks = [list(group[row * columns : (row + 1) * columns]) for row in range(rows)]
    tracks = [track for track in tracks if track]
    text = max(len(_above(s, is_yard)) for s in group)
    pitch = max(38.0, 6.2 * text + 8)
    reach = (len(tracks) - 1) * _LOOP_PITCH / 2
    return _Block(group, columns * pitch + 36, reach + _UP - 2, reach + 22, tracks, pitch, is_yard)


def _above(station: Station, is_yard: bool) -> str:
    return station.ref if is_yard else f"{station.ref} {caption(station)}"


def _place(canvas: _Canvas, block: _Block, line: str, x: float, y: float) -> None:
    """Draw one stop with its left end at (x, y)."""
    stop = len(canvas.stops.setdefault(line, []))
    canvas.stops[line].append(tuple(s.id for s in block.stations))
    if len(block.stations) == 1:
        station = block.stations[0]
        middle = x + block.width / 2
        canvas.spots.append(Spot(station, middle, y, 9.0, station.ref, caption(station)))
        canvas.segments.append(Segment(line, stop, ((x, y), (middle, y))))
        canvas.segments.append(Segment(line, stop + 1, ((middle, y), (x + block.width, y))))
        return
    top = y - (len(block.tracks) - 1) * _LOOP_PITCH / 2
    right = x + block.width
    for row, track in enumerate(block.tracks):
        ty = top + row * _LOOP_PITCH
        bend = min(14.0, abs(ty - y)) or 1.0
        path = (
            (x, y),
            (x + 4, y),
            (x + 4 + bend, ty),
            (right - 4 - bend, ty),
            (right - 4, y),
            (right, y),
        )
        canvas.segments.append(Segment(line, stop, path, is_loop=True))
        for column, station in enumerate(track):
            sx = x + 18 + block.pitch * (column + 0.5)
            canvas.spots.append(Spot(station, sx, ty, 7.5, _above(station, block.is_yard), ""))


def _link(canvas: _Canvas, line: str, points: Sequence[Point]) -> None:
    """Plain track towards the next stop of `line`."""
    stop = len(canvas.stops.setdefault(line, []))
    canvas.segments.append(Segment(line, stop, tuple(points)))


def line_map(sheet: Sheet) -> LineMap:
    """Lay a sheet out. Any sheet gives a picture; a long one grows wider, never overlaps."""
    canvas = _Canvas()
    trunk = [_block(group) for group in group_banks(sheet.on_line(TRUNK))]
    rails_w = max((_rail_width(sheet, rail.key) for rail in sheet.rails), default=0.0)
    trunk_w = sum(b.width for b in trunk)
    beside = MARGIN + trunk_w + 24 + rails_w + MARGIN <= WIDTH
    if beside:
        up = max([b.up for b in trunk] + _rail_extents(sheet, 0)[:1])
        x = _row(canvas, trunk, MARGIN, MARGIN + up, 0.0)
        bus, y, top = x + 12, MARGIN + up, MARGIN + up
        _link(canvas, TRUNK, ((x, y), (bus, y)))
    else:
        end, y = _wrapped_trunk(canvas, trunk)
        bus, turn = MARGIN + 6, y + _DOWN + 10
        top = turn + 10 + _rail_extents(sheet, 0)[0]
        _link(canvas, TRUNK, ((end, y), (end + 6, y), (end + 6, turn), (bus, turn)))
        y = turn
    bottom, right = _rails(canvas, sheet, bus, y, top)
    width = max(WIDTH, right + MARGIN, *(s.x + 40 for s in canvas.spots)) if canvas.spots else WIDTH
    stops = {line: tuple(found) for line, found in canvas.stops.items()}
    return LineMap(
        width,
        max(bottom, y + _DOWN) + 4,
        tuple(canvas.spots),
        tuple(canvas.segments),
        tuple(canvas.plates),
        tuple(canvas.capsules),
        tuple(canvas.boards),
        stops,
    )


def _row(canvas: _Canvas, blocks: Sequence[_Block], x: float, y: float, gap: float) -> float:
    for block in blocks:
        _place(canvas, block, TRUNK, x, y)
        if gap:
            _link(canvas, TRUNK, ((x + block.width, y), (x + block.width + gap, y)))
        x += block.width + gap
    return x


def _wrapped_trunk(canvas: _Canvas, trunk: Sequence[_Block]) -> Point:
    """The trunk in as many rows as it needs, each spread over the width; returns its end."""
    room = WIDTH - 2 * MARGIN - 10
    rows: list[list[_Block]] = [[]]
    for block in trunk:
        if rows[-1] and sum(b.width for b in rows[-1]) + block.width > room:
            rows.append([])
        rows[-1].append(block)
    x, y = MARGIN, MARGIN
    for number, row in enumerate(rows):
        y += max((b.up for b in row), default=_UP)
        if number:
            turn = y - max(b.up for b in row)
            _link(
                canvas,
                TRUNK,
                ((x, turn - 44), (x + 6, turn - 44), (x + 6, turn), (MARGIN, turn), (MARGIN, y)),
            )
        gap = min(26.0, (room - sum(b.width for b in row)) / max(1, len(row)))
        x = _row(canvas, row, MARGIN, y, gap)
        if number < len(rows) - 1:
            below = max(b.down for b in row)
            _link(canvas, TRUNK, ((x, y), (x + 6, y), (x + 6, y + below - 30)))
            y += below + 14
    return x, y


def _behind(sheet: Sheet, key: str, connector: str) -> list[_Block]:
    """Stops of a rail that stand behind a connector ("" = in the supply)."""
    found = [s for s in sheet.on_line(key) if s.board == connector]
    return [_block(group) for group in group_banks(found)]


def _connectors(sheet: Sheet) -> list[Station]:
    found = [s for s in sheet.stations if s.kind is Kind.CONNECTOR]
    return sorted(found, key=lambda s: (s.order, s.id))


def _board_of(sheet: Sheet, connector: Station) -> Station | None:
    boards = (s for s in sheet.stations if s.kind is Kind.BOARD and s.board == connector.ref)
    return next(boards, None)


def _board_w(board: Station | None) -> float:
    return 0.0 if board is None else 6.2 * len(board.ref) + 18


def _rail_width(sheet: Sheet, key: str) -> float:
    width = PLATE_W + 24 + sum(b.width for b in _behind(sheet, key, ""))
    for connector in _connectors(sheet):
        behind = sum(b.width for b in _behind(sheet, key, connector.ref))
        width += CAPSULE_W + 16 + max(behind, _board_w(_board_of(sheet, connector)))
    return width


def _rail_extents(sheet: Sheet, index: int) -> list[float]:
    """Room a rail needs above and below its line."""
    if index >= len(sheet.rails):
        return [_UP, _DOWN]
    key = sheet.rails[index].key
    blocks = [_block(group) for group in group_banks(sheet.on_line(key))]
    return [max([_UP, *(b.up for b in blocks)]), max([_DOWN, *(b.down for b in blocks)])]


def _rails(
    canvas: _Canvas, sheet: Sheet, bus: float, bus_y: float, top: float
) -> tuple[float, float]:
    """Fan the rails out from the bus; returns the bottom and the right edge."""
    ys: dict[str, float] = {}
    y = top
    for index, rail in enumerate(sheet.rails):
        up, down = _rail_extents(sheet, index)
        y = y + up if index else y
        ys[rail.key] = y
        _link(canvas, rail.key, ((bus, bus_y), (bus, y), (bus + 10, y)))
        plate = Box(rail.key, rail.key, bus + 10, y - PLATE_H / 2, PLATE_W, PLATE_H)
        canvas.plates.append(plate)
        y += down
    cursor = dict.fromkeys(ys, bus + 10 + PLATE_W)
    for key, line_y in ys.items():
        cursor[key] = _run(canvas, _behind(sheet, key, ""), key, cursor[key], line_y)
    connectors = _connectors(sheet)
    for number, connector in enumerate(connectors):
        is_last = number == len(connectors) - 1
        _connector(canvas, sheet, connector, ys, cursor, is_last)
    return y, max(cursor.values(), default=bus)


def _run(canvas: _Canvas, blocks: Sequence[_Block], key: str, x: float, y: float) -> float:
    _link(canvas, key, ((x, y), (x + 8, y)))
    x += 8
    for block in blocks:
        _place(canvas, block, key, x, y)
        x += block.width
    return x


def _connector(
    canvas: _Canvas,
    sheet: Sheet,
    connector: Station,
    ys: dict[str, float],
    cursor: dict[str, float],
    is_last: bool,
) -> None:
    """A capsule across the rails a connector carries, and what hangs behind it."""
    keys = [key for key in ys if key in connector.rails]
    if not keys:
        return
    x = max(cursor[key] for key in keys) + 6
    top, bottom = min(ys[key] for key in keys) - 14, max(ys[key] for key in keys) + 14
    canvas.capsules.append(
        Box(connector.ref, connector.ref, x, top, CAPSULE_W, bottom - top, connector)
    )
    for key in keys:
        _link(canvas, key, ((cursor[key], ys[key]), (x + CAPSULE_W / 2, ys[key])))
        canvas.stops[key].append((connector.id,))
        _link(canvas, key, ((x + CAPSULE_W / 2, ys[key]), (x + CAPSULE_W + 10, ys[key])))
        cursor[key] = x + CAPSULE_W + 10
    board = _board_of(sheet, connector)
    behind = {key: _behind(sheet, key, connector.ref) for key in keys}
    start = x + CAPSULE_W + 10
    if any(behind.values()) or (is_last and board):
        for key in keys:
            cursor[key] = _run(canvas, behind[key], key, cursor[key], ys[key])
        end = max(max(cursor[key] for key in keys) + 8, start + _board_w(board))
        extents = [
            _rail_extents(sheet, i) for i, rail in enumerate(sheet.rails) if rail.key in keys
        ]
        if board:
            box_top = min(ys[k] for k in keys) - (extents[0][0] if any(behind.values()) else 22)
            box_end = max(ys[k] for k in keys) + (
                extents[-1][1] - 12 if any(behind.values()) else 22
            )
            canvas.boards.append(
                Box(board.ref, board.ref, start, box_top, end - start, box_end - box_top, board)
            )
        for key in keys:
            cursor[key] = end
    elif board:
        middle = (min(ys[k] for k in keys) + max(ys[k] for k in keys)) / 2
        middle = middle if len(keys) > 1 else ys[keys[0]] - 24
        width = _board_w(board)
        canvas.boards.append(Box(board.ref, board.ref, start, middle - 11, width, 22, board))
        for key in keys:
            _link(canvas, key, ((cursor[key], ys[key]), (start + width + 6, ys[key])))
            cursor[key] = start + width + 6
