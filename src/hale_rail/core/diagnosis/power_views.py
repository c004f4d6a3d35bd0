"""What would be seen of each fault under power: ripple on a rail, volts on a bulk capacitor.

Source: docs/formulas.md, “Where to look next”.
"""

from __future__ import annotations

from collections.abc import Mapping

from hale_rail.core.diagnosis.blocks.block import UnitSheet
from hale_rail.core.diagnosis.effects import BLACK, CLEAN, PATH, TRIPS, Effect
from hale_rail.core.diagnosis.faults import SELECTOR, Fault
from hale_rail.core.diagnosis.views import View, Views
from hale_rail.core.parts.kinds import regulator
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import Regulation, Topology

#: ripple of the mains: none, at twice its frequency, at itself; of switching: none, large
SLOW, FAST = ("quiet", "full", "half"), ("still", "fast")
RIPPLE = tuple(f"{slow} {fast}" for slow in SLOW for fast in FAST)
#: volts on a bulk capacitor under power
BULK = ("full", "empty", "low", "over")
#: chances of ripple where nothing is wrong: at twice mains frequency, at mains frequency, switching
_USUAL = (0.008, 0.002, 0.015)
#: above this, ripple is the fault's own and not what every unit has
_TOLD = 0.05
#: what a regulator lets through of the mains' ripple before it, and of switching
_PASSED_SLOW, _PASSED_FAST = 0.55, 0.3
#: what of another rail's switching ripple reaches this one
_CROSSES = 0.08
#: what is left of large ripple without a load
_UNLOADED_SLOW, _UNLOADED_FAST = 0.25, 0.7


def ripple(views: Views, rail: str, is_raw: bool, in_machine: bool, is_loaded: bool) -> View:
    """A rail's ripple while the unit runs; `is_raw`: before its regulator."""
    unit = views.unit
    own = unit.sheet.rail(rail)
    is_held = own is not None and own.regulation is Regulation.LINEAR and not is_raw
    shown: dict[int, tuple[Mapping[str, float], int]] = {}
    usual = _row(*_USUAL)
    for place, (fault, effect) in enumerate(zip(views.faults, views.effects, strict=True)):
        if not effect.rank or (effect.in_machine and not in_machine):
            continue
        slow, fast = _at(unit, fault, effect, rail, is_raw)
        if is_held and not _is_behind_regulator(unit, fault):
            slow, fast = slow * _PASSED_SLOW, fast * _PASSED_FAST
        if not is_loaded:
            slow, fast = slow * _UNLOADED_SLOW, fast * _UNLOADED_FAST
        is_told = slow > _TOLD or fast > _TOLD
        full, half = slow * (1 - effect.half), slow * effect.half
        row = _row(max(full, _USUAL[0]), max(half, _USUAL[1]), max(fast, _USUAL[2]))
        shown[place] = (row, max(effect.rank, 1)) if is_told else (usual, 1)
    return views.make(RIPPLE, usual, shown)


def _row(full: float, half: float, fast: float) -> dict[str, float]:
    slow = {"quiet": 1 - full - half, "full": full, "half": half}
    return {f"{a} {b}": slow[a] * (fast if b == "fast" else 1 - fast) for a in SLOW for b in FAST}


def _at(
    unit: UnitSheet, fault: Fault, effect: Effect, rail: str, is_raw: bool
) -> tuple[float, float]:
    """Chances of large ripple on one rail, of mains and of switching."""
    if fault.line == rail:
        is_after = is_raw and not _is_before_regulator(unit, fault)
        return (0.0, 0.0) if is_after else (effect.slow, effect.fast)
    if fault.is_on_rail:
        return 0.0, _CROSSES * effect.fast
    return effect.slow, effect.fast


def _is_before_regulator(unit: UnitSheet, fault: Fault) -> bool:
    return fault.part is None or unit.is_before_regulator(fault.part)


def _is_behind_regulator(unit: UnitSheet, fault: Fault) -> bool:
    """True for what is at a regulator's output, or is the regulator."""
    part = fault.part
    if part is None or not fault.is_on_rail:
        return False
    return part.kind is regulator.KIND or not unit.is_before_regulator(part)


def held(views: Views, part: Part) -> View:
    """Volts on a bulk capacitor under power, whatever the fuse does a moment later."""
    is_half = views.unit.sheet.topology is Topology.HALF_BRIDGE
    shown = {
        place: (_held(fault, effect, part, is_half), max(effect.rank, 1))
        for place, (fault, effect) in enumerate(zip(views.faults, views.effects, strict=True))
        if effect.rank
    }
    return views.make(BULK, {"empty": 0.015, "low": 0.03, "over": 0.01}, shown)


#: a bulk capacitor's own fault, and what the other half of a half-bridge takes of it
_OWN_HELD: Mapping[FaultMode, Mapping[str, float]] = {
    FaultMode.DRY: {"low": 0.3},
    FaultMode.OPEN: {"low": 0.6, "empty": 0.1},
    FaultMode.LEAKY: {"low": 0.1},
    FaultMode.SHORT: {"empty": 0.95},
}
_OWN_HALF: Mapping[FaultMode, Mapping[str, float]] = {
    FaultMode.DRY: {"low": 0.25, "over": 0.2}, FaultMode.OPEN: {"low": 0.3, "over": 0.4},
    FaultMode.LEAKY: {"low": 0.55, "empty": 0.1}, FaultMode.SHORT: {"empty": 0.95},
}  # fmt: skip
_OTHER_HALF: Mapping[FaultMode, Mapping[str, float]] = {
    FaultMode.DRY: {"low": 0.2, "over": 0.2}, FaultMode.OPEN: {"low": 0.4, "over": 0.2},
    FaultMode.LEAKY: {"over": 0.55}, FaultMode.SHORT: {"over": 0.15, "empty": 0.8},
}  # fmt: skip


def _held(fault: Fault, effect: Effect, part: Part, is_half: bool) -> dict[str, float]:
    if effect.rank == PATH:
        return {"empty": 0.96}
    if fault.ref == SELECTOR:
        return {"low": 0.6, "over": 0.2, "empty": 0.1}
    if fault.has("bulk") and fault.part is not None:
        halves = _OWN_HALF if fault.part.id == part.id else _OTHER_HALF
        held = (halves if is_half else _OWN_HELD).get(fault.mode)
        if held:
            return dict(held)
    if fault.has("bridge") and fault.mode in (FaultMode.OPEN, FaultMode.JOINT):
        return {"low": 0.25, "empty": 0.1}
    stops = effect.regime(CLEAN) + effect.regime(BLACK) + effect.regime(TRIPS)
    return {"empty": max(0.015, min(stops, 0.96)), "low": 0.03, "over": 0.01}
