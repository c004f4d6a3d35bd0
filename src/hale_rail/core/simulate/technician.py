"""What eye and hand find at a simulated unit that no meter's figure says.

Each observation is a place among the results that a hand can say, or None: it finds nothing.
"""

from __future__ import annotations

from msgspec.structs import replace

from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.simulate.faults import ADAPTER, FEEDBACK
from hale_rail.core.simulate.nodes import GROUND
from hale_rail.core.simulate.outcome import AppliedLoad, PowerOutcome, RunMode
from hale_rail.core.simulate.powered import Powering
from hale_rail.core.simulate.ripples import Ripple
from hale_rail.core.simulate.unit import SimulatedUnit
from hale_rail.core.supply.sheet import TRUNK

_IN_BAND, _QUIET = (0.93, 1.08), 1.0
#: ohms beside a winding that damp it
_DAMPING_OHM = 1.0
_PROBE_A, _PROBE_V = 1e-3, 1.0


def _how(unit: SimulatedUnit) -> FaultMode | None:
    return unit.circuit.fault.how if unit.circuit.fault else None


def _where(unit: SimulatedUnit) -> str:
    return unit.circuit.fault.where if unit.circuit.fault else ""


def adapter(unit: SimulatedUnit) -> int | None:
    """Wrong or dead: 0."""
    return 0 if _where(unit) == ADAPTER else None


def ring(unit: SimulatedUnit) -> int | None:
    """The transformer is damped (0): turns shorted, or a winding beside a short."""
    if _how(unit) is FaultMode.TURNS:
        return 0
    network = unit.circuit.network()
    for rail in unit.sheet.rails:
        node = f"{rail.key}/winding"
        ohms = [
            network.drop(a, b, _PROBE_A, _PROBE_V) / _PROBE_A
            for a, b in ((unit.circuit.wiring.output[rail.key], GROUND),
                         (GROUND, unit.circuit.wiring.output[rail.key]))
        ]  # fmt: skip
        rectifiers = [p for p in unit.sheet.on_line(rail.key)
                      if node in unit.circuit.wiring.pins[p.id].values()]  # fmt: skip
        shorted = any(unit.circuit.true[p.id].short_ohm is not None for p in rectifiers)
        if shorted and min(ohms) < _DAMPING_OHM:
            return 0
    return None


def idle(unit: SimulatedUnit) -> int | None:
    """The transformer alone lights the lamp: 0."""
    return 0 if _how(unit) is FaultMode.TURNS else None


def reference(unit: SimulatedUnit) -> int | None:
    """The reference or its divider is off: 0."""
    return 0 if _where(unit) == FEEDBACK else None


def _outcome(unit: SimulatedUnit, load: AppliedLoad) -> PowerOutcome:
    """Behind a lamp or a limit, with a fuse that is whole: whoever powers it fits one."""
    fuses = {p: unit.circuit.true[p.id] for p in unit.sheet.parts if p.kind.code == "fuse"}
    for part, true in fuses.items():
        unit.circuit.put(part, replace(true, is_open=False))
    outcome = Powering(unit.circuit, load, limited=True).outcome()
    for part, true in fuses.items():
        unit.circuit.put(part, true)
    return outcome


def dummy(unit: SimulatedUnit) -> int | None:
    """It runs right on dummy loads: 0."""
    outcome = _outcome(unit, AppliedLoad.DUMMY)
    if outcome.mode is not RunMode.RUNS or outcome.smokes:
        return None
    low, high = _IN_BAND
    shares = [
        outcome.rails[rail.key].high_v / rail.nominal_v
        for rail in unit.sheet.rails
        if rail.key in outcome.rails
    ]
    is_right = all(low <= share <= high for share in shares)
    return 0 if is_right and not any(_is_noisy(r) for r in outcome.ripples.values()) else None


def _is_noisy(ripple: Ripple) -> bool:
    return ripple.peak_to_peak_v > _QUIET * ripple.limit_v


def control(unit: SimulatedUnit) -> int | None:
    """Its supply never reaches the start (0), or it is supplied and gives no drive (1)."""
    true = unit.circuit.true
    for part in unit.sheet.on_line(TRUNK):
        is_start = part.role == "start-up"
        bad = true[part.id].is_open or true[part.id].short_ohm is not None
        if is_start and (bad or true[part.id].how is FaultMode.DRY):
            return 0
        if part.kind.code == "controller" and true[part.id].is_dead:
            return 1
    held_off = [p for p in unit.sheet.parts if p.kind.code == "optocoupler"]
    return 1 if any(true[p.id].fault for p in held_off) else None


def ripple(unit: SimulatedUnit) -> int | None:
    """Large at twice the mains (0), large at the switching frequency (1)."""
    outcome = _outcome(unit, AppliedLoad.MACHINE)
    worst = max(outcome.ripples.values(), key=lambda r: r.peak_to_peak_v / r.limit_v, default=None)
    if worst is None or not _is_noisy(worst):
        return None
    return 0 if worst.slow_v > worst.fast_v else 1


def heat(unit: SimulatedUnit) -> int | None:
    """It changes with heat (0): a joint opens, a dry part wakes."""
    return 0 if _how(unit) in (FaultMode.JOINT, FaultMode.DRY) else None


def tap(unit: SimulatedUnit) -> int | None:
    """It changes when the mains side (0), the outputs (1) or the plugs (2) are tapped."""
    if _how(unit) not in (FaultMode.JOINT, FaultMode.WORN):
        return None
    part = next((p for p in unit.sheet.parts if p.ref == _where(unit)), None)
    if part is None:
        return None
    if part.kind.code == "connector":
        return 2
    return 0 if part.line == TRUNK else 1


def more_load(unit: SimulatedUnit) -> int | None:
    """It runs right with a dummy load beside the machine (0): it lacked its least load."""
    return 0 if _how(unit) is FaultMode.NO_LOAD else None
