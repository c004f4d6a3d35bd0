"""Units drawn for practice: a topology, a difficulty and a seed make one unit with one fault.

The sheets are the templates with the parts that only some units have, so that every kind of fault
can come. A fault is drawn among those that its owner would notice.
"""

from __future__ import annotations

import random
from collections.abc import Sequence
from enum import Enum
from functools import lru_cache

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.parts.families import Family
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.faults import SimulatedFault, faults
from hale_rail.core.simulate.unit import SimulatedUnit
from hale_rail.core.supply.sheet import TRUNK, Sheet, Topology, logic_rail
from hale_rail.core.supply.templates import make_part, template

_YEARS = (1976, 1993)
_MOST_DRAWS = 200
More = tuple[str, str, str, dict[str, object]]


class Difficulty(Enum):
    """How far a fault shows: at its part alone, on its neighbours too, or only now and then."""

    PLAIN = "plain"
    MEANT = "usual"
    HARD = "hard"


#: how a second fault fails: as a part does, whatever else is wrong
_OF_PARTS = (FaultMode.SHORT, FaultMode.OPEN, FaultMode.DRY, FaultMode.DEAD)
#: plain: it reads bad where it stands; hard: it hides, comes and goes, or is not a part at
#: all
_PLAIN = (FaultMode.OPEN, FaultMode.DEAD)
_HARD = (
    FaultMode.JOINT,
    FaultMode.TURNS,
    FaultMode.DRIFT,
    FaultMode.WORN,
    FaultMode.OVERLOAD,
    FaultMode.NO_LOAD,
    FaultMode.LEAKY,
)


def difficulty_of(fault: SimulatedFault) -> Difficulty:
    """How hard a fault is to find."""
    if fault.how in _HARD:
        return Difficulty.HARD
    return Difficulty.PLAIN if fault.how in _PLAIN else Difficulty.MEANT


class DrawnUnit(Struct, frozen=True):
    """What was drawn: the unit's sheet, its fault and its seed; `other`: a second fault."""

    sheet: Sheet
    fault: SimulatedFault
    seed: int
    other: SimulatedFault | None = None

    def unit(self) -> SimulatedUnit:
        """The unit, as it comes to the bench."""
        return SimulatedUnit(self.sheet, self.fault, self.seed, other=self.other)


@lru_cache(maxsize=64)
def practice_sheet(topology: Topology, year: int) -> Sheet:
    """A unit of a topology with everything that such units may have."""
    sheet = template(topology)
    more: list[More] = []
    if topology.is_switching:
        more = [
            ("R1", "resistor", TRUNK, {"value": 150e3, "bleeder_for": "C1", "is_primary": True}),
            ("R3", "resistor", TRUNK, {"value": 220e3, "role": "start-up", "is_primary": True}),
            ("PC1", "optocoupler", TRUNK, {"is_primary": True}),
            ("C9", "capacitor", TRUNK, {"value": 1e-9, "volt": 1000.0, "role": "snubber",
                                        "family": Family.FILM, "is_primary": True}),
            ("U9", "controller", TRUNK, {"is_primary": True}),
            ("SCR1", "scr", "+5 V", {}),
        ]  # fmt: skip
    if topology is Topology.HALF_BRIDGE:
        more.append(("Q2", "transistor", TRUNK, {"is_primary": True}))
    if topology is Topology.DC_FED:
        more.append(("F1", "fuse", TRUNK, {"value": 1.6}))
    sheet = replace(sheet, parts=_placed(sheet, more), year=year)
    parts = (replace(p, year=year) if p.capacitor else p for p in sheet.parts)
    return replace(sheet, parts=tuple(parts), name=f"Practice unit, {topology.words}")


def _memory_chip(line: str, bank: int, bit: int) -> More:
    known: dict[str, object] = {"role": "memory", "bank": str(bank), "bits": (bit,)}
    return f"M{1 + bit + 8 * bank}", "chip", line, known


@lru_cache(maxsize=16)
def board_sheet(topology: Topology, year: int) -> Sheet:
    """A unit with the chips of the board behind it: two banks of memory of eight chips each."""
    sheet = practice_sheet(topology, year)
    logic = logic_rail(sheet.rails)
    line = logic.key if logic else TRUNK
    one = {"active": "low"}
    more: list[More] = [
        ("X1", "crystal", line, {"value": 4e6}),
        ("U20", "chip", line, {"role": "processor", "package": 40, **one}),
        ("U21", "chip", line, {"role": "clock"}),
        ("U22", "chip", line, {"role": "reset", **one}),
        ("U23", "chip", line, {"role": "rom", "package": 24}),
        *(_memory_chip(line, bank, bit) for bank in (0, 1) for bit in range(8)),
        ("U24", "chip", line, {"role": "buffer"}),
        ("U25", "chip", line, {"role": "video"}),
        ("U26", "chip", line, {"role": "io"}),
    ]  # fmt: skip
    return replace(sheet, parts=_placed(sheet, more))


def _placed(sheet: Sheet, more: Sequence[More]) -> tuple[Part, ...]:
    """The sheet's parts and more: a fuse behind the inlet, all others at the end of their line."""
    count = max(p.id for p in sheet.parts)
    made = [
        make_part(count + n, ref, kind, line, 5 if kind == "fuse" else 500 + n, **known)
        for n, (ref, kind, line, known) in enumerate(more, start=1)
    ]
    first = sheet.parts[0]
    moved = replace(first, order=1) if any(p.kind.code == "fuse" for p in made) else first
    return (moved, *sheet.parts[1:], *made)


def draw_pair(topology: Topology, seed: int) -> DrawnUnit:
    """A unit with two faults of parts, each of which its owner would notice by itself."""
    rng = random.Random(f"{topology.code}/pair/{seed}")
    first = draw(topology, seed)
    known = [
        f
        for f in faults(first.sheet)
        if f.how in _OF_PARTS and not set(f.parts) & set(first.fault.parts)
    ]
    for _ in range(_MOST_DRAWS):
        other = rng.choice(known)
        if DrawnUnit(first.sheet, other, seed).unit().symptom is not None:
            return DrawnUnit(first.sheet, first.fault, seed, other)
    return first


@lru_cache(maxsize=256)
def draw(topology: Topology, seed: int, difficulty: Difficulty | None = None) -> DrawnUnit:
    """The unit of a topology, a difficulty (None: any) and a seed."""
    rng = random.Random(f"{topology.code}/{difficulty.value if difficulty else ''}/{seed}")
    sheet = practice_sheet(topology, rng.randint(*_YEARS))
    known = [f for f in faults(sheet) if difficulty in (None, difficulty_of(f))]
    for _ in range(_MOST_DRAWS):
        drawn = DrawnUnit(sheet, rng.choice(known), seed)
        if drawn.unit().symptom is not None:
            return drawn
    return DrawnUnit(sheet, SimulatedFault(FaultMode.OPEN, "F1"), seed)
