"""Lays a sheet out: one trunk from the inlet, then a line a rail.

Parts stand in the order power passes them; parts of one bank stand on a loop; a connector spans the
rails it carries, a board hangs behind it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from hale_rail.core.supply.linemap.blocks import Block, block, place
from hale_rail.core.supply.linemap.fan import draw_rails, fan_of
from hale_rail.core.supply.linemap.shapes import (
    DOWN,
    HEIGHT,
    MARGIN,
    MOST_GAP,
    UP,
    WIDTH,
    Canvas,
    LineMap,
)
from hale_rail.core.supply.sheet import TRUNK, Sheet, group_banks

#: between the trunk's end and the rails' plates, when both stand in one row
_BUS = 34.0
#: the most between two stops of a trunk that fills rows of its own
_TRUNK_GAP = 26.0


def line_map(sheet: Sheet) -> LineMap:
    """Lay a sheet out. Any sheet gives a picture; a long one grows wider, never overlaps."""
    canvas = Canvas()
    trunk = [block(group) for group in group_banks(sheet.on_line(TRUNK))]
    fan = fan_of(sheet)
    spare = WIDTH - 2 * MARGIN - _BUS - sum(b.width for b in trunk) - fan.width
    if spare >= 0:
        gap = min(MOST_GAP, spare / max(1, len(trunk) + fan.places))
        y = top = MARGIN + max([UP, *(b.up for b in trunk), *fan.ups[:1]])
        x = _row(canvas, trunk, MARGIN, y, gap)
        bus = x + 12
        canvas.link(TRUNK, ((x, y), (bus, y)))
    else:
        end, y, down = _wrapped_trunk(canvas, trunk)
        bus, turn = MARGIN + 6, y + down + 4
        top = turn + 4 + (fan.ups[0] if fan.ups else UP)
        canvas.link(TRUNK, ((end, y), (end + 6, y), (end + 6, turn), (bus, turn)))
        y = turn
    fan.spread(WIDTH - bus - MARGIN - 10, HEIGHT - top)
    bottom, right = draw_rails(canvas, sheet, fan, bus, y, top)
    return LineMap(
        max(right + MARGIN, canvas.right + MARGIN, 640.0),
        max(bottom, y + DOWN) + 4,
        tuple(canvas.stations),
        tuple(canvas.segments),
        tuple(canvas.plates),
        tuple(canvas.capsules),
        tuple(canvas.boards),
        {line: tuple(found) for line, found in canvas.stops.items()},
    )


def _row(canvas: Canvas, blocks: Sequence[Block], x: float, y: float, gap: float) -> float:
    for this in blocks:
        place(canvas, this, TRUNK, x, y)
        if gap:
            canvas.link(TRUNK, ((x + this.width, y), (x + this.width + gap, y)))
        x += this.width + gap
    return x


def _wrapped_trunk(canvas: Canvas, trunk: Sequence[Block]) -> tuple[float, float, float]:
    """The trunk in rows of about equal length, spread over the width.

    Returns its end (x, y) and what the last row takes below it.
    """
    room = WIDTH - 2 * MARGIN - 10
    rows = _rows(trunk, room)
    x, y, turn, down = MARGIN, MARGIN, MARGIN, DOWN
    for number, row in enumerate(rows):
        y = turn + max((b.up for b in row), default=UP)
        down = max((b.down for b in row), default=DOWN)
        if number:
            canvas.link(TRUNK, ((MARGIN, turn), (MARGIN, y)))
        gap = min(_TRUNK_GAP, (room - sum(b.width for b in row)) / max(1, len(row)))
        x = _row(canvas, row, MARGIN, y, gap)
        if number < len(rows) - 1:
            turn = y + down + 4
            canvas.link(TRUNK, ((x, y), (x + 6, y), (x + 6, turn), (MARGIN, turn)))
    return x, y, down


def _rows(trunk: Sequence[Block], room: float) -> list[list[Block]]:
    """The trunk's stops in as few rows as the room allows, about equally long."""
    total = sum(b.width for b in trunk)
    target = total / max(1, math.ceil(total / room))
    rows: list[list[Block]] = [[]]
    for this in trunk:
        wide = sum(b.width for b in rows[-1])
        if rows[-1] and (wide >= target or wide + this.width > room):
            rows.append([])
        rows[-1].append(this)
    return rows
