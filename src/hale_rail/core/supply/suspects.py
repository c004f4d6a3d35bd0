"""What a failed regulator or pass transistor may have taken along, most endangered first.

Source: docs/formulas.md, “Other parts”: a part that let its input through makes everything on its
rail suspect.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.parts.families import Family
from hale_rail.core.parts.kinds import board
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import Sheet


class OvervoltageSuspect(Struct, frozen=True):
    """A part that an overvoltage may have taken along, in the order to check, and why there."""

    part: Part
    why: str


def suspects(sheet: Sheet, rail_key: str) -> Sequence[OvervoltageSuspect]:
    """Everything on a rail whose pass element let its input through.

    Tantalums, since they short; then other capacitors, lowest rating first; then what else stands
    on the rail; then the boards behind it.
    """
    suspects = []
    for part in sheet.on_line(rail_key):
        if part.kind.passes_input or not _is_behind_pass(sheet, part):
            continue
        rank, why = 2, "stands on the rail"
        if part.family is Family.TANTALUM:
            rank, why = 0, "a tantalum shorts when overrun"
        elif part.capacitor:
            rank, why = 1, "its rating may have been passed"
        suspects.append((rank, part.volt or 0.0, OvervoltageSuspect(part, why)))
    boards = [p for p in sheet.parts if p.kind is board.KIND and rail_key in p.rails]
    suspects += [(3, 0.0, OvervoltageSuspect(p, "its chips hang on the rail")) for p in boards]
    return [suspect for _, _, suspect in sorted(suspects, key=lambda item: item[:2])]


def let_through(sheet: Sheet, part: Part) -> bool:
    """True for a part whose short puts the raw supply on a rail."""
    return part.kind.passes_input and sheet.rail(part.line) is not None


def _is_behind_pass(sheet: Sheet, part: Part) -> bool:
    """True when the rail's pass element is before the part, or the rail shows none."""
    passes = [p.order for p in sheet.on_line(part.line) if p.kind.passes_input]
    return not passes or part.order > min(passes)
