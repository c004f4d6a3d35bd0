"""What eye and nose find at the parts of a simulated unit."""

from __future__ import annotations

import random

from hale_rail.core.parts.families import Family
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.faults import SimulatedFault
from hale_rail.core.simulate.truth import NOW_YEAR, Truth
from hale_rail.core.supply.sheet import Sheet

SOUND = "none"
_USUAL_YEAR = 1985
#: how often a fault shows, by how its part failed
_VENTS, _VENTS_SHORT, _BURNS, _BROWN, _RING = 0.5, 0.4, 0.9, 0.6, 0.85
#: chance a year past its tenth that paper's epoxy is crazed though nothing is wrong
_CRAZED_A_YEAR = 0.012
#: chance that a joint or an electrolytic shows something that matters to no symptom
_STRAY_JOINT, _STRAY_BULGE = 0.02, 0.01
_HEAVY = ("connector", "transformer", "diode", "schottky", "bridge")


def look(
    part: Part, name: str, true: Truth, sheet: Sheet, fault: SimulatedFault | None, seed: int
) -> tuple[str, ...]:
    """Codes of what is seen at a part, by its name; `none` where it looks sound."""
    rng = random.Random(f"{seed}/{name}/seen")
    rolls = [rng.random() for _ in range(4)]
    is_it = fault is not None and name in fault.parts
    text = _failed(part, true, fault, rolls[0]) if is_it and fault else ""
    text = text or _aged(part, sheet, rolls)
    return (text or SOUND,)


def _failed(part: Part, true: Truth, fault: SimulatedFault, roll: float) -> str:
    """What the fault itself shows."""
    code, how = part.kind.code, fault.how
    is_suppressor = bool(part.family and part.family.is_suppressor) or code == "varistor"
    if is_suppressor and how in (FaultMode.SHORT, FaultMode.LEAKY):
        return "burnt" if roll < _BURNS else ""
    if how is FaultMode.JOINT:
        return "joint" if roll < _RING else ""
    if how is FaultMode.WORN:
        return "burnt" if roll < _BROWN else ""
    if code == "fuse" and true.is_open:
        return "clean-gap"
    return _of_capacitor(part, how, roll)


def _of_capacitor(part: Part, how: FaultMode, roll: float) -> str:
    if not part.capacitor or part.family is None or not part.family.is_wet:
        return ""
    if how is FaultMode.DRY and roll < _VENTS:
        return "bulge" if roll < _VENTS / 2 else "leak"
    return "bulge" if how is FaultMode.SHORT and roll < _VENTS_SHORT else ""


def _aged(part: Part, sheet: Sheet, rolls: list[float]) -> str:
    """What age alone shows."""
    age = NOW_YEAR - (part.year or sheet.year or _USUAL_YEAR)
    if part.family is Family.SUPPRESSION_PAPER and rolls[1] < _CRAZED_A_YEAR * (age - 10):
        return "craze"
    if part.kind.code in _HEAVY and rolls[2] < _STRAY_JOINT:
        return "joint"
    is_wet = part.family is not None and part.family.is_wet
    return "bulge" if is_wet and rolls[3] < _STRAY_BULGE else ""
