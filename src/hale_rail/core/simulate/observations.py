"""What a person says who brings a simulated unit: its symptom."""

from __future__ import annotations

import random
from enum import Enum

from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.simulate.circuit import Circuit
from hale_rail.core.simulate.faults import SimulatedFault
from hale_rail.core.simulate.outcome import AppliedLoad, PowerOutcome, RunMode
from hale_rail.core.simulate.powered import Powering

#: a raw supply that leaves a rail less than this sags under load; who tries it without one
_SAGS_SHARE, _TRIES_BARE = 0.98, 0.3
_OF_BOARD = (FaultMode.STUCK, FaultMode.BRIDGE, FaultMode.OPEN_SOCKET, FaultMode.DEAD)
_LOW_SHARE, _HIGH_SHARE, _MISSING_SHARE = 0.93, 1.08, 0.25


class Complaint(Enum):
    """A symptom as a person tells it."""

    FUSE_CLEAN = "fuse-clean"
    FUSE_BLACK = "fuse-black"
    BREAKER = "breaker"
    DEAD = "dead-whole"
    HICCUP = "hiccup"
    MISSING = "rail-missing"
    RAILS_LOW = "rails-low"
    HIGH = "overvoltage"
    LOW_AT_BOARD = "low-at-board"
    RIPPLE = "ripple"
    WARM = "warm"
    SMOKE = "smoke"
    CRACKLE = "crackle"
    UNDER_LOAD = "no-load-only"
    LATE = "second-try"
    MACHINE_DEAD = "machine-dead"


def complaint_of(circuit: Circuit, outcome: PowerOutcome) -> Complaint | None:
    """The symptom of a unit whose owner powered it so; None where nobody would notice anything."""
    rng = random.Random(f"{circuit.seed}/felt")
    observation = _at_once(circuit, outcome) or _of_rails(circuit, outcome, rng)
    return observation or _later(circuit.fault, rng)


def _at_once(circuit: Circuit, outcome: PowerOutcome) -> Complaint | None:
    """What shows at the switch."""
    if outcome.smokes:
        return Complaint.SMOKE
    if outcome.trips:
        return Complaint.BREAKER
    fuses = [p for p in circuit.sheet.parts if p.kind.code == "fuse"]
    is_open = any(circuit.true[p.id].is_open for p in fuses)
    if outcome.blown or is_open:
        return Complaint.FUSE_BLACK if outcome.blown == "blackened" else Complaint.FUSE_CLEAN
    if outcome.mode is RunMode.HICCUP:
        return Complaint.UNDER_LOAD if _runs_alone(circuit) else Complaint.HICCUP
    if outcome.mode in (RunMode.OFF, RunMode.SILENT):
        return Complaint.UNDER_LOAD if _runs_alone(circuit) else Complaint.DEAD
    return Complaint.LATE if outcome.mode is RunMode.LATE else None


def _runs_alone(circuit: Circuit) -> bool:
    """True where the owner tried the supply without its machine, and it ran: one in three does."""
    tried = random.Random(f"{circuit.seed}/tried").random() < _TRIES_BARE
    alone = Powering(circuit, AppliedLoad.NONE).outcome()
    return tried and alone.mode is RunMode.RUNS and not alone.blown


def _of_rails(circuit: Circuit, outcome: PowerOutcome, rng: random.Random) -> Complaint | None:
    """What the rails show."""
    shares = {
        rail.key: abs(outcome.rails[rail.key].high_v / rail.nominal_v)
        for rail in circuit.sheet.rails
        if rail.key in outcome.rails
    }
    if not shares:
        return None
    if max(shares.values()) > _HIGH_SHARE:
        return Complaint.HIGH
    missing = [key for key, share in shares.items() if share < _MISSING_SHARE]
    if missing:
        return Complaint.DEAD if len(missing) == len(shares) else Complaint.MISSING
    if any(b.contact_ohm > 0.01 for b in circuit.boards):
        return Complaint.LOW_AT_BOARD if rng.random() < 0.85 else Complaint.WARM
    if min(shares.values()) < _LOW_SHARE:
        sags = any(r.sag < _SAGS_SHARE for r in outcome.ripples.values())
        is_loaded = circuit.fault is not None and circuit.fault.how is FaultMode.OVERLOAD
        tried_bare = is_loaded or (sags and rng.random() < _TRIES_BARE)
        return Complaint.UNDER_LOAD if tried_bare else Complaint.RAILS_LOW
    noisy = [r for r in outcome.ripples.values() if r.peak_to_peak_v > r.limit_v]
    if noisy:
        is_slow = max(noisy, key=lambda r: r.peak_to_peak_v).slow_v > 0
        return Complaint.RIPPLE if is_slow or rng.random() < 0.65 else Complaint.WARM
    return None


def _later(fault: SimulatedFault | None, rng: random.Random) -> Complaint | None:
    """What comes and goes, and what is not the supply's at all."""
    if fault is not None and fault.how in _OF_BOARD:
        return Complaint.MACHINE_DEAD
    if fault is None or fault.how is not FaultMode.JOINT:
        return None
    return Complaint.WARM if rng.random() < 0.65 else Complaint.CRACKLE
