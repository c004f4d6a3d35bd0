"""A board as the short trace sees it: the rail's copper, the ground's, and the parts between them.

Sources: docs/formulas.md, “Tracing a shorted rail”.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import cached_property

from msgspec import Struct

from hale_rail.core.shorts.copper import USUAL_C, Net, Pad

#: from this chance on a part is lifted, an item is named
SETTLED = 0.95
#: an ideal ground is one node of this name
IDEAL_GROUND = "GND"
SEGMENT_TOLERANCE = 0.05
#: how likely a family is to short, against the others; what is not here weighs 1
FAMILY_WEIGHT = {"tantalum": 10.0, "aluminium": 2.0, "film": 1.0, "ceramic": 1.0, "ic": 1.0}
#: all places without a part weigh at most this share of the lightest part together
ELSEWHERE_SHARE = 1 / 50


class BoardPart(Struct, frozen=True):
    """A part between rail and ground; `weight` its relative prior, None by its family."""

    id: str
    ref: str
    family: str
    rail_pad: str
    ground_pad: str
    weight: float | None = None

    @property
    def prior(self) -> float:
        """How likely it shorts, against other parts, before anything is read."""
        family = self.family.partition("-")[0]
        return FAMILY_WEIGHT.get(family, 1.0) if self.weight is None else self.weight

    @property
    def name(self) -> str:
        """The part as one says it: its designator, and its id where that is another."""
        return self.id if self.id.startswith(self.ref) else f"{self.ref} ({self.id})"


class Trouble(Struct, frozen=True):
    """What is wrong with a map or a reading: where (a line of the file, or an id), and what."""

    text: str
    line: int | None = None
    id: str = ""


class Board(Struct, frozen=True, dict=True):
    """A rail's map; `ground` None: one ideal node."""

    rail: Net
    ground: Net | None
    parts: tuple[BoardPart, ...]
    segment_tolerance: float = SEGMENT_TOLERANCE
    celsius: float = USUAL_C
    troubles: tuple[Trouble, ...] = ()

    @cached_property
    def ground_net(self) -> Net:
        """The ground's net; one node where it is ideal."""
        return self.ground or Net((Pad(IDEAL_GROUND),), ())

    @cached_property
    def part(self) -> Mapping[str, BoardPart]:
        """The parts by their ids."""
        return {part.id: part for part in self.parts}

    @cached_property
    def at_pad(self) -> Mapping[str, tuple[BoardPart, ...]]:
        """The parts that are on a pad."""
        board_parts: dict[str, list[BoardPart]] = {}
        for part in self.parts:
            board_parts.setdefault(part.rail_pad, []).append(part)
            board_parts.setdefault(part.ground_pad, []).append(part)
        return {pad: tuple(parts) for pad, parts in board_parts.items()}

    def is_rail(self, pad: str) -> bool:
        """True for a pad of the rail's net."""
        return pad in self.rail.by_id

    def nearest_ground(self, pad: Pad) -> str:
        """The ground pad that a bridge at a rail pad would reach."""
        own = [part.ground_pad for part in self.at_pad.get(pad.id, ())]
        drawn = [p for p in self.ground_net.probed if p.x is not None and p.y is not None]
        if pad.x is None or pad.y is None or not drawn:
            return own[0] if own else self.ground_net.probed[0].id
        x, y = pad.x, pad.y
        return min(drawn, key=lambda p: math.hypot((p.x or 0) - x, (p.y or 0) - y)).id


def connected(board: Board) -> Board:
    """The board without what does not hang on its nets, each such thing named as a trouble."""
    rail, lost = _largest(board.rail, {p.rail_pad for p in board.parts}, "rail")
    ground = board.ground
    more: list[Trouble] = []
    if ground is not None:
        ground, more = _largest(ground, {p.ground_pad for p in board.parts}, "ground")
    pads = {*rail.by_id, *(ground.by_id if ground else (IDEAL_GROUND,))}
    parts = tuple(p for p in board.parts if p.rail_pad in pads and p.ground_pad in pads)
    gone = [
        Trouble(f"{p.name} stands on copper that is not connected, so it is left out", id=p.id)
        for p in board.parts
        if not (p.rail_pad in pads and p.ground_pad in pads)
    ]
    troubles = (*board.troubles, *lost, *more, *gone)
    return Board(rail, ground, parts, board.segment_tolerance, board.celsius, troubles)


def _largest(net: Net, used: set[str], what: str) -> tuple[Net, list[Trouble]]:
    """The island with the most parts, then pads; pads of the others are named."""
    islands = sorted(net.islands, key=lambda i: (len(used & i), len(i)), reverse=True)
    if len(islands) < 2:
        return net, []
    lost = [
        Trouble(f"pad {pad} is not connected to the {what}", id=pad)
        for island in islands[1:]
        for pad in sorted(island)
    ]
    return net.kept(islands[0]), lost
