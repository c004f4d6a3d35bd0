"""The look-over: every part in the order power flows, with what to look, smell and feel for."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.parts.looks import Finding
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import Sheet


class Stop(Struct, frozen=True):
    """One stop of the round: the part, what to look for, and the findings it can get."""

    part: Part
    what: str
    findings: tuple[Finding, ...]


def inspection_round(sheet: Sheet) -> Sequence[Stop]:
    """Every part in the order power flows, with what to look for there."""
    return [Stop(part, part.kind.look_for(part), part.findings) for part in sheet.in_power_order]
