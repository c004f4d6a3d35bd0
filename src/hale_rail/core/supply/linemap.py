"""The line map: a sheet drawn as lines, computed, never placed by hand.

One trunk from the inlet, then a line a rail. Stations stand in the order power passes them; parts
of one bank stand on a loop; a connector spans the rails it carries, a board hangs behind it.
Geometry is in units of a picture about `WIDTH` wide; `y` grows downwards.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from hale_rail.core.quantities import Unit, show_exact
from hale_rail.core.supply.sheet import TRUNK, Kind, Sheet, Station, group_banks

WIDTH, HEIGHT = 860.0, 480.0
MARGIN = 12.0
PLATE_W, PLATE_H = 58.0, 26.0
CAPSULE_W = 22.0
#: between the tracks of a bank: wider where a state is written under each part
_LOOP_PITCH, _YARD_PITCH, _YARD_TRACKS = 43.0, 36.0, 3
_UP, _DOWN = 30.0, 39.0
_TITLE = 18.0

Point = tuple[float, float]

_WORDS = {
    Kind.SWITCH: "switch",
    Kind.FILTER: "filter",
    Kind.THERMISTOR: "inrush",
    Kind.TRANSISTOR: "transistor",
}


@dataclass(frozen=True)
class Spot:
    """Where a station stands: centre, radius, its labels' lines (`below` "" in a bank).

    `tag_drop`: how far below the marker's edge a word for its state has room; 0 in a yard.
    """

    station: Station
    x: float
    y: float
    radius: float
    above: str
    below: str
    tag_drop: float = 0.0


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
    reach = (len(tracks) - 1) * _between(is_yard) / 2
    down = reach + (22 if is_yard else 24)
    return _Block(group, columns * pitch + 36, reach + _UP - 2, down, tracks, pitch, is_yard)


def _between(is_yard: bool) -> float:
    return _YARD_PITCH if is_yard else _LOOP_PITCH


def _above(station: Station, is_yard: bool) -> str:
    return station.ref if is_yard else f"{station.ref} {caption(station)}"


def _place(canvas: _Canvas, block: _Block, line: str, x: float, y: float) -> None:
    """Draw one stop with its left end at (x, y)."""
    stop = len(canvas.stops.setdefault(line, []))
    canvas.stops[line].append(tuple(s.id for s in block.stations))
    if len(block.stations) == 1:
        station = block.stations[0]
        middle = x + block.width / 2
        canvas.spots.append(Spot(station, middle, y, 9.0, station.ref, caption(station), 24.0))
        canvas.segments.append(Segment(line, stop, ((x, y), (middle, y))))
        canvas.segments.append(Segment(line, stop + 1, ((middle, y), (x + block.width, y))))
        return
    between = _between(block.is_yard)
    top = y - (len(block.tracks) - 1) * between / 2
    right = x + block.width
    for row, track in enumerate(block.tracks):
        ty = top + row * between
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
            drop = 0.0 if block.is_yard else 11.0
            above = _above(station, block.is_yard)
            canvas.spots.append(Spot(station, sx, ty, 7.5, above, "", drop))


def _link(canvas: _Canvas, line: str, points: Sequence[Point]) -> None:
    """Plain track towards the next stop of `line`."""
    stop = len(canvas.stops.setdefault(line, []))
    canvas.segments.append(Segment(line, stop, tuple(points)))


def line_map(sheet: Sheet) -> LineMap:
    """Lay a sheet out. Any sheet gives a picture; a long one grows wider, never overlaps."""
    canvas = _Canvas()
    trunk = [_block(group) for group in group_banks(sheet.on_line(TRUNK))]
    fan = _fan(sheet)
    trunk_w = sum(b.width for b in trunk)
    if MARGIN + trunk_w + 24 + fan.width + MARGIN <= WIDTH:
        y = top = MARGIN + max([_UP, *(b.up for b in trunk), *fan.ups[:1]])
        x = _row(canvas, trunk, MARGIN, y, 0.0)
        bus = x + 12
        _link(canvas, TRUNK, ((x, y), (bus, y)))
    else:
        end, y, down = _wrapped_trunk(canvas, trunk)
        bus, turn = MARGIN + 6, y + down + 4
        top = turn + 4 + (fan.ups[0] if fan.ups else _UP)
        _link(canvas, TRUNK, ((end, y), (end + 6, y), (end + 6, turn), (bus, turn)))
        y = turn
    fan.spread(WIDTH - bus - MARGIN - 10, HEIGHT - top)
    bottom, right = _rails(canvas, sheet, fan, bus, y, top)
    right = max([right, *(s.x + 40 for s in canvas.spots)])
    right = max([right, *(x for track in canvas.segments for x, _ in track.points)])
    stops = {line: tuple(found) for line, found in canvas.stops.items()}
    return LineMap(
        max(right + MARGIN, 640.0),
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


def _wrapped_trunk(canvas: _Canvas, trunk: Sequence[_Block]) -> tuple[float, float, float]:
    """The trunk in rows of about equal length, spread over the width.

    Returns its end (x, y) and what the last row takes below it.
    """
    room = WIDTH - 2 * MARGIN - 10
    total = sum(b.width for b in trunk)
    target = total / math.ceil(total / room)
    rows: list[list[_Block]] = [[]]
    for block in trunk:
        taken = sum(b.width for b in rows[-1])
        if rows[-1] and (taken >= target or taken + block.width > room):
            rows.append([])
        rows[-1].append(block)
    x, y, turn, down = MARGIN, MARGIN, MARGIN, _DOWN
    for number, row in enumerate(rows):
        y = turn + max((b.up for b in row), default=_UP)
        down = max((b.down for b in row), default=_DOWN)
        if number:
            _link(canvas, TRUNK, ((MARGIN, turn), (MARGIN, y)))
        gap = min(26.0, (room - sum(b.width for b in row)) / max(1, len(row)))
        x = _row(canvas, row, MARGIN, y, gap)
        if number < len(rows) - 1:
            turn = y + down + 4
            _link(canvas, TRUNK, ((x, y), (x + 6, y), (x + 6, turn), (MARGIN, turn)))
    return x, y, down


@dataclass
class _Fan:
    """The rails before they are placed: their stops by connector, and the room they take."""

    blocks: dict[str, dict[str, list[_Block]]]
    connectors: list[Station]
    boards: dict[str, Station]
    ups: list[float]
    downs: list[float]
    width: float = 0.0
    gap: float = 0.0

    def spread(self, room: float, height: float) -> None:
        """Use what room there is: wider apart up to a point, taller too."""
        most = max((sum(map(len, b.values())) for b in self.blocks.values()), default=0)
        places = most + len(self.connectors)
        self.gap = min(30.0, max(0.0, (room - self.width) / max(1, places)))
        spare = (height - sum(self.ups[1:]) - sum(self.downs)) / max(1, len(self.downs))
        self.downs = [down + min(34.0, max(0.0, spare)) for down in self.downs]


def _fan(sheet: Sheet) -> _Fan:
    connectors = sorted(
        (s for s in sheet.stations if s.kind is Kind.CONNECTOR), key=lambda s: (s.order, s.id)
    )
    names = {connector.ref for connector in connectors}
    boards = {s.board: s for s in sheet.stations if s.kind is Kind.BOARD and s.board in names}
    blocks: dict[str, dict[str, list[_Block]]] = {}
    ups, downs = [], []
    for rail in sheet.rails:
        groups = group_banks(sheet.on_line(rail.key))
        by_board: dict[str, list[_Block]] = {}
        for group in groups:
            place = group[0].board if group[0].board in names else ""
            by_board.setdefault(place, []).append(_block(group))
        blocks[rail.key] = by_board
        found = [block for group in by_board.values() for block in group]
        title = _TITLE if any(by_board) else 0.0
        ups.append(max([_UP, *(b.up for b in found)]) + title)
        downs.append(max([_DOWN, *(b.down for b in found)]))
    fan = _Fan(blocks, connectors, boards, ups, downs)
    fan.width = max((_rail_width(fan, key) for key in blocks), default=0.0)
    return fan


def _rail_width(fan: _Fan, key: str) -> float:
    blocks = fan.blocks[key]
    width = PLATE_W + 24 + sum(b.width for b in blocks.get("", []))
    for connector in fan.connectors:
        behind = sum(b.width for b in blocks.get(connector.ref, []))
        width += CAPSULE_W + 16 + max(behind, _board_w(fan.boards.get(connector.ref)))
    return width


def _board_w(board: Station | None) -> float:
    return 0.0 if board is None else 6.6 * len(board.ref) + 22


def _rails(
    canvas: _Canvas, sheet: Sheet, fan: _Fan, bus: float, bus_y: float, top: float
) -> tuple[float, float]:
    """Fan the rails out from the bus; returns the bottom and the right edge."""
    ys: dict[str, float] = {}
    y = top
    for index, rail in enumerate(sheet.rails):
        y = y + fan.ups[index] if index else y
        ys[rail.key] = y
        _link(canvas, rail.key, ((bus, bus_y), (bus, y), (bus + 10, y)))
        plate = Box(rail.key, rail.key, bus + 10, y - PLATE_H / 2, PLATE_W, PLATE_H)
        canvas.plates.append(plate)
        y += fan.downs[index]
    cursor = {}
    for key, line_y in ys.items():
        cursor[key] = _run(canvas, fan, key, "", bus + 10 + PLATE_W, line_y)
    for number, connector in enumerate(fan.connectors):
        is_last = number == len(fan.connectors) - 1
        _connector(canvas, fan, connector, ys, cursor, is_last)
    return y, max(cursor.values(), default=bus)


def _run(canvas: _Canvas, fan: _Fan, key: str, place: str, x: float, y: float) -> float:
    """One rail's stops in one place, from x; returns where they end."""
    _link(canvas, key, ((x, y), (x + 8, y)))
    x += 8
    for block in fan.blocks[key].get(place, []):
        _place(canvas, block, key, x, y)
        end = x + block.width + fan.gap
        if fan.gap:
            _link(canvas, key, ((x + block.width, y), (end, y)))
        x = end
    return x


def _connector(
    canvas: _Canvas,
    fan: _Fan,
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
    top, bottom = min(ys[key] for key in keys), max(ys[key] for key in keys)
    canvas.capsules.append(
        Box(connector.ref, connector.ref, x, top - 14, CAPSULE_W, bottom - top + 28, connector)
    )
    start = x + CAPSULE_W + 10
    for key in keys:
        _link(canvas, key, ((cursor[key], ys[key]), (x + CAPSULE_W / 2, ys[key])))
        canvas.stops[key].append((connector.id,))
        _link(canvas, key, ((x + CAPSULE_W / 2, ys[key]), (start, ys[key])))
        cursor[key] = start
    board = fan.boards.get(connector.ref)
    has_parts = any(fan.blocks[key].get(connector.ref) for key in keys)
    if has_parts or is_last:
        for key in keys:
            cursor[key] = _run(canvas, fan, key, connector.ref, start, ys[key])
        end = max(max(cursor[key] for key in keys) + 6, start + _board_w(board))
        if board:
            names = list(ys)
            up = fan.ups[names.index(keys[0])] if has_parts else 26.0
            down = fan.downs[names.index(keys[-1])] - 8 if has_parts else 22.0
            box = Box(
                board.ref, board.ref, start, top - up, end - start, bottom - top + up + down, board
            )
            canvas.boards.append(box)
    else:
        end = start + _board_w(board) + 6
        if board:
            middle = (top + bottom) / 2 if len(keys) > 1 else top - 24
            canvas.boards.append(
                Box(board.ref, board.ref, start, middle - 12, end - start - 6, 24, board)
            )
            canvas.segments.append(
                Segment(
                    keys[0],
                    len(canvas.stops[keys[0]]),
                    ((x + CAPSULE_W, middle), (start, middle)),
                    True,
                )
            )
        for key in keys:
            _link(canvas, key, ((start, ys[key]), (end, ys[key])))
    for key in keys:
        cursor[key] = end
