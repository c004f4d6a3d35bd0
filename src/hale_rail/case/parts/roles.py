"""What a capacitor does where it stands, when its sheet does not say: its station tells."""

from __future__ import annotations

from hale_rail.case.file import CaseFile
from hale_rail.core.parts.families import Family
from hale_rail.core.parts.kinds import regulator
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.roles import usual_role
from hale_rail.core.supply.sheet import TRUNK


def station_role(case: CaseFile, part: Part) -> str:
    """The role that its replacement is judged by: of a can before its rail's regulator, raw filter.

    Tantalum and ceramic on a rail decouple it; "" for film, whose place does not tell.
    """
    if part.family in (Family.TANTALUM, Family.CERAMIC) and part.line != TRUNK:
        return "decoupling"
    if part.family is None or not (part.family.is_wet or part.safety_class):
        return ""
    found = usual_role(case.sheet.topology, part)
    behind = [p for p in case.sheet.on_line(part.line) if p.order > part.order]
    if found == "output-filter" and any(p.kind is regulator.KIND for p in behind):
        return "raw-filter"
    return found
