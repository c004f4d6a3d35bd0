"""Copper as a resistance, and a net of it: pads, and segments from pad to pad.

Sources: docs/formulas.md, “Copper”. R = ρL/(w·t), ρ = 1.72e−8·(1 + 0.00393·(T − 20)) Ω·m.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property

from msgspec import Struct

#: resistivity of copper at 20 °C in Ω·m, and its rise a kelvin
RESISTIVITY_OHM_M = 1.72e-8
RISE_PER_K = 0.00393
#: one ounce a square foot, where nothing else is told
COPPER_UM = 35.0
USUAL_C = 25.0
#: a sheet of copper is meshed into at most this many cells along its longer side
_CELLS = 24


def copper_ohm(
    length_mm: float, width_mm: float, copper_um: float = COPPER_UM, celsius: float = USUAL_C
) -> float:
    """Ohms of a track by its length, width and thickness, at a temperature."""
    return square_ohm(copper_um, celsius) * length_mm / width_mm


def square_ohm(copper_um: float = COPPER_UM, celsius: float = USUAL_C) -> float:
    """Ohms across a square of copper, whatever its size."""
    rho = RESISTIVITY_OHM_M * (1 + RISE_PER_K * (celsius - 20))
    return rho / (copper_um * 1e-6)


class Pad(Struct, frozen=True):
    """A place for a probe; `x`, `y` in mm on the board, None where not drawn."""

    id: str
    x: float | None = None
    y: float | None = None


class CopperSegment(Struct, frozen=True):
    """Copper from pad to pad, in ohms."""

    a: str
    b: str
    ohm: float


class Net(Struct, frozen=True, dict=True):
    """Copper that is one net: its pads, and the segments between them.

    `helpers`: nodes of a meshed sheet that carry no probe.
    """

    pads: tuple[Pad, ...]
    segments: tuple[CopperSegment, ...]
    helpers: frozenset[str] = frozenset()

    @cached_property
    def by_id(self) -> Mapping[str, Pad]:
        """The pads by their ids."""
        return {pad.id: pad for pad in self.pads}

    @cached_property
    def probed(self) -> tuple[Pad, ...]:
        """The pads that a probe can stand on."""
        return tuple(pad for pad in self.pads if pad.id not in self.helpers)

    @cached_property
    def islands(self) -> tuple[frozenset[str], ...]:
        """The pads that hang together, the largest island first."""
        near: dict[str, list[str]] = {pad.id: [] for pad in self.pads}
        for segment in self.segments:
            near[segment.a].append(segment.b)
            near[segment.b].append(segment.a)
        islands: list[frozenset[str]] = []
        left = dict.fromkeys(near)
        while left:
            island = _reached(next(iter(left)), near)
            islands.append(island)
            for pad in island:
                del left[pad]
        return tuple(sorted(islands, key=len, reverse=True))

    def kept(self, pads: Iterable[str]) -> Net:
        """The net with these pads only."""
        wanted = set(pads)
        return Net(
            tuple(p for p in self.pads if p.id in wanted),
            tuple(s for s in self.segments if s.a in wanted and s.b in wanted),
            self.helpers & wanted,
        )


def _reached(start: str, near: Mapping[str, Sequence[str]]) -> frozenset[str]:
    seen = {start}
    edge = [start]
    while edge:
        for pad in near[edge.pop()]:
            if pad not in seen:
                seen.add(pad)
                edge.append(pad)
    return frozenset(seen)


def sheet_net(pads: Sequence[Pad], copper_um: float, celsius: float = USUAL_C) -> Net:
    """A plane of copper under `pads` (each with x and y) as a mesh of square cells.

    The sheet reaches over all pads. Along an edge of the mesh lies a strip one cell wide and one
    cell long, so it has the resistance of a square; a pad stands on the nearest node.
    """
    xs, ys = [p.x or 0.0 for p in pads], [p.y or 0.0 for p in pads]
    span = max(max(xs) - min(xs), max(ys) - min(ys), 1e-9)
    cell = span / _CELLS
    columns, rows = (round((max(v) - min(v)) / cell) + 1 for v in (xs, ys))
    left, top = min(xs), min(ys)
    ohm = square_ohm(copper_um, celsius)

    def name(column: int, row: int) -> str:
        return f"~{column},{row}"

    mesh = [
        Pad(name(c, r), left + c * cell, top + r * cell)
        for c in range(columns)
        for r in range(rows)
    ]
    across = [
        CopperSegment(name(c, r), name(c + 1, r), ohm)
        for c in range(columns - 1)
        for r in range(rows)
    ]
    down = [
        CopperSegment(name(c, r), name(c, r + 1), ohm)
        for c in range(columns)
        for r in range(rows - 1)
    ]
    feet = [
        CopperSegment(p.id, name(round((x - left) / cell), round((y - top) / cell)), ohm * 1e-3)
        for p, x, y in zip(pads, xs, ys, strict=True)
    ]
    return Net((*pads, *mesh), (*across, *down, *feet), frozenset(p.id for p in mesh))
