"""The rails of a line map: fanned out from the trunk's end, through connectors, into boards."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.parts.kinds import board, connector
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.linemap.blocks import Block, block, place
from hale_rail.core.supply.linemap.shapes import DOWN, MOST_GAP, UP, Box, Canvas, TrackSegment
from hale_rail.core.supply.sheet import Sheet, group_banks

PLATE_W, PLATE_H = 58.0, 26.0
_CAPSULE_W = 22.0
_TITLE = 18.0


class Fan(Struct):
    """The rails before they are placed: their stops by connector, and the room they take."""

    blocks: dict[str, dict[str, list[Block]]]
    connectors: list[Part]
    boards: dict[str, Part]
    ups: list[float]
    downs: list[float]
    width: float = 0.0
    gap: float = 0.0

    @property
    def places(self) -> int:
        """The most stops that stand along one rail: behind each of them room can be left."""
        return max((sum(map(len, block.values())) for block in self.blocks.values()), default=0)

    def spread(self, room: float, height: float) -> None:
        """Use what room there is: wider apart up to a point, taller too."""
        self.gap = min(MOST_GAP, max(0.0, (room - self.width) / max(1, self.places)))
        spare = (height - sum(self.ups[1:]) - sum(self.downs)) / max(1, len(self.downs))
        self.downs = [down + min(34.0, max(0.0, spare)) for down in self.downs]


def fan_of(sheet: Sheet) -> Fan:
    """The rails of a sheet with their stops, measured."""
    joints = sorted((p for p in sheet.parts if p.kind is connector.KIND), key=_place)
    names = {joint.ref for joint in joints}
    boards = {p.board: p for p in sheet.parts if p.kind is board.KIND and p.board in names}
    blocks: dict[str, dict[str, list[Block]]] = {}
    ups, downs = [], []
    for rail in sheet.rails:
        by_board: dict[str, list[Block]] = {}
        for group in group_banks(sheet.on_line(rail.key)):
            behind = group[0].board if group[0].board in names else ""
            by_board.setdefault(behind, []).append(block(group))
        blocks[rail.key] = by_board
        all_blocks = [each for group in by_board.values() for each in group]
        ups.append(max([UP, *(b.up for b in all_blocks)]) + (_TITLE if any(by_board) else 0.0))
        downs.append(max([DOWN, *(b.down for b in all_blocks)]))
    fan = Fan(blocks, joints, boards, ups, downs)
    fan.width = max((_rail_width(fan, key) for key in blocks), default=0.0)
    return fan


def _place(part: Part) -> tuple[int, int]:
    return part.order, part.id


def _rail_width(fan: Fan, key: str) -> float:
    blocks = fan.blocks[key]
    width = PLATE_W + 24 + sum(b.width for b in blocks.get("", []))
    for joint in fan.connectors:
        behind = sum(b.width for b in blocks.get(joint.ref, []))
        width += _CAPSULE_W + 16 + max(behind, _board_w(fan.boards.get(joint.ref)))
    return width


def _board_w(part: Part | None) -> float:
    return 0.0 if part is None else 6.6 * len(part.ref) + 22


def draw_rails(
    canvas: Canvas, sheet: Sheet, fan: Fan, bus: float, bus_y: float, top: float
) -> tuple[float, float]:
    """Fan the rails out from the bus; returns the bottom and the right edge."""
    ys: dict[str, float] = {}
    y = top
    for index, rail in enumerate(sheet.rails):
        y = y + fan.ups[index] if index else y
        ys[rail.key] = y
        canvas.link(rail.key, ((bus, bus_y), (bus, y), (bus + 10, y)))
        plate = Box(rail.key, rail.key, bus + 10, y - PLATE_H / 2, PLATE_W, PLATE_H)
        canvas.plates.append(plate)
        y += fan.downs[index]
    cursor = {
        key: _run(canvas, fan, key, "", bus + 10 + PLATE_W, line_y) for key, line_y in ys.items()
    }
    for number, joint in enumerate(fan.connectors):
        _Joint(canvas, fan, joint, ys, cursor).draw(number == len(fan.connectors) - 1)
    return y, max(cursor.values(), default=bus)


def _run(canvas: Canvas, fan: Fan, key: str, behind: str, x: float, y: float) -> float:
    """One rail's stops in one place, from x; returns where they end."""
    canvas.link(key, ((x, y), (x + 8, y)))
    x += 8
    for this in fan.blocks[key].get(behind, []):
        place(canvas, this, key, x, y)
        end = x + this.width + fan.gap
        if fan.gap:
            canvas.link(key, ((x + this.width, y), (end, y)))
        x = end
    return x


class _Joint:
    """A connector across the rails it carries, and what hangs behind it."""

    def __init__(
        self,
        canvas: Canvas,
        fan: Fan,
        joint: Part,
        ys: dict[str, float],
        cursor: dict[str, float],
    ) -> None:
        self.canvas, self.fan, self.joint, self.ys, self.cursor = canvas, fan, joint, ys, cursor
        self.keys = [key for key in ys if key in joint.rails]
        self.board = fan.boards.get(joint.ref)

    def draw(self, is_last: bool) -> None:
        """Draw the capsule, then its board: around its parts, or as a tag beside it."""
        if not self.keys:
            return
        x, start = self._capsule()
        has_parts = any(self.fan.blocks[key].get(self.joint.ref) for key in self.keys)
        is_around = has_parts or is_last
        end = self._around(start, has_parts) if is_around else self._tag(x, start)
        for key in self.keys:
            self.cursor[key] = end

    @property
    def _top(self) -> float:
        return min(self.ys[key] for key in self.keys)

    @property
    def _bottom(self) -> float:
        return max(self.ys[key] for key in self.keys)

    def _capsule(self) -> tuple[float, float]:
        x = max(self.cursor[key] for key in self.keys) + 6
        top, height = self._top - 14, self._bottom - self._top + 28
        ref = self.joint.ref
        self.canvas.capsules.append(Box(ref, ref, x, top, _CAPSULE_W, height, self.joint))
        start, middle = x + _CAPSULE_W + 10, x + _CAPSULE_W / 2
        for key in self.keys:
            y = self.ys[key]
            self.canvas.link(key, ((self.cursor[key], y), (middle, y)))
            self.canvas.stops[key].append((self.joint.id,))
            self.canvas.link(key, ((middle, y), (start, y)))
            self.cursor[key] = start
        return x, start

    def _around(self, start: float, has_parts: bool) -> float:
        """The parts behind the connector, and the board as a field around them."""
        for key in self.keys:
            y = self.ys[key]
            self.cursor[key] = _run(self.canvas, self.fan, key, self.joint.ref, start, y)
        end = max(max(self.cursor[key] for key in self.keys) + 6, start + _board_w(self.board))
        if self.board:
            names = list(self.ys)
            up = self.fan.ups[names.index(self.keys[0])] if has_parts else 26.0
            down = self.fan.downs[names.index(self.keys[-1])] - 8 if has_parts else 22.0
            height = self._bottom - self._top + up + down
            ref = self.board.ref
            self.canvas.boards.append(
                Box(ref, ref, start, self._top - up, end - start, height, self.board)
            )
        return end

    def _tag(self, x: float, start: float) -> float:
        """A board without parts between connectors: a tag on a branch, the rails going on."""
        end = start + _board_w(self.board) + 6
        if self.board:
            is_many = len(self.keys) > 1
            middle = (self._top + self._bottom) / 2 if is_many else self._top - 24
            ref, first = self.board.ref, self.keys[0]
            self.canvas.boards.append(
                Box(ref, ref, start, middle - 12, end - start - 6, 24, self.board)
            )
            branch = ((x + _CAPSULE_W, middle), (start, middle))
            stop = len(self.canvas.stops[first])
            self.canvas.segments.append(TrackSegment(first, stop, branch, is_loop=True))
        for key in self.keys:
            self.canvas.link(key, ((start, self.ys[key]), (end, self.ys[key])))
        return end
