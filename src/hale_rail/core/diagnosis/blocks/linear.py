"""A linear supply: mains transformer, a rectifier and raw filter a rail, regulators, references."""

from __future__ import annotations

from hale_rail.core.diagnosis.blocks.block import Block, UnitSheet
from hale_rail.core.diagnosis.effects import (
    BLACK,
    CLEAN,
    DEAD,
    HARD,
    LOW,
    MISSING,
    NOISE,
    OWN_RAIL,
    PATH,
    SAGS,
    Effect,
    Shares,
)
from hale_rail.core.diagnosis.faults import FEEDBACK, Fault
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.supply.sheet import TRUNK, Topology

_HUM = {"ripple": 0.6, "rails-low": 0.2, "no-load-only": 0.18, "warm": 0.05}
_OPEN_HUM = {"ripple": 0.2, "rails-low": 0.6, "no-load-only": 0.18}


def _rails(unit: UnitSheet, fault: Fault, shares: Shares) -> dict[str, Shares]:
    """The rail of a raw part, or all that a part of the trunk feeds."""
    keys = [fault.line] if unit.sheet.rail(fault.line) else [r.key for r in unit.sheet.rails]
    return dict.fromkeys(keys, shares)


def transformer(_: UnitSheet, fault: Fault) -> Effect | None:
    """Open it passes nothing; shorted turns heat it until the fuse goes, gently."""
    if not fault.has("transformer"):
        return None
    if fault.mode is FaultMode.OPEN:
        return Effect("winding-open", "an open winding passes nothing", PATH, {DEAD: 0.93})
    if fault.mode is FaultMode.TURNS:
        because = "shorted turns draw so much that the fuse opens, gently"
        transformer = {"rails-low": 0.3, "smoke": 0.4, "ripple": 0.1, "fuse-later": 0.2}
        return Effect(
            "turns", because, HARD, {CLEAN: 0.72, BLACK: 0.08}, every=LOW, symptoms=transformer
        )
    return None


def rectifier(unit: UnitSheet, fault: Fault) -> Effect | None:
    """Shorted it shorts the winding, which the transformer limits; open half a wave is left."""
    if not fault.has("bridge", "diode", "schottky") or unit.sheet.topology is Topology.DC_FED:
        return None
    if fault.mode in (FaultMode.SHORT, FaultMode.REVERSED):
        because = "a shorted rectifier shorts the winding, and the transformer limits: a clean gap"
        return Effect(
            "rectifier-short", because, HARD, {CLEAN: 0.83, BLACK: 0.1},
            _rails(unit, fault, MISSING), symptoms={"rail-missing": 0.5, "ripple": 0.1},
        )  # fmt: skip
    if fault.mode is FaultMode.OPEN:
        because = "an open junction leaves half a wave: the raw supply sags and hums"
        rails = _rails(unit, fault, SAGS)
        return Effect(
            "rectifier-open", because, NOISE, {}, rails, slow=0.88, symptoms=_HUM, half=0.9
        )
    return None


def raw_filter(unit: UnitSheet, fault: Fault) -> Effect | None:
    """Shorted it is a short of the rectifier; dry it lets the mains' ripple through."""
    is_raw = fault.has("raw-filter", "bulk")
    if not is_raw:
        return None
    is_fed = unit.sheet.topology is Topology.DC_FED
    if fault.mode in (FaultMode.SHORT, FaultMode.REVERSED):
        because = "a shorted raw filter is a short that transformer or adapter limits"
        regimes = {CLEAN: 0.45, DEAD: 0.5} if is_fed else {CLEAN: 0.8, BLACK: 0.1}
        rails = _rails(unit, fault, MISSING)
        raw_filter = {"rail-missing": 0.6}
        return Effect("raw-short", because, HARD, regimes, rails, symptoms=raw_filter)
    if fault.mode is FaultMode.LEAKY:
        return Effect("raw-leaks", "a leaking raw filter warms", NOISE, symptoms={"warm": 0.04})
    is_open = fault.mode is FaultMode.OPEN
    because = "a raw filter that has lost its capacitance sags and hums"
    rails = _rails(unit, fault, LOW if is_open else SAGS)
    raw_filter = _OPEN_HUM if is_open else _HUM
    # one diode alone makes half waves, dry or not
    half = 0.85 if unit.rectifiers.get(fault.line) == 1 else 0.06
    return Effect(
        "raw-dry", because, NOISE, {}, rails, slow=0.92, symptoms=raw_filter, warm=0.3, half=half
    )


def reference(unit: UnitSheet, fault: Fault) -> Effect | None:
    """A linear reference that drifted moves the rails that follow it."""
    if fault.ref != FEEDBACK and not fault.has("trimmer"):
        return None
    shares = (0.01, 0.22, 0.62, 0.15)
    held = [r.key for r in unit.sheet.rails if r.regulation.code == "linear"]
    first = {held[0]: (0.01, 0.6, 0.04, 0.35)} if held else {}
    because = "a reference that drifted moves the rails that follow it"
    reference = {"rails-low": 0.45, "overvoltage": 0.35, "warm": 0.1, "rail-missing": 0.02}
    return Effect(
        "reference",
        because,
        OWN_RAIL,
        {},
        {**dict.fromkeys(held, shares), **first},
        symptoms=reference,
        warm=0.25,
    )


def regulator_of_one(unit: UnitSheet, fault: Fault) -> Effect | None:
    """Where there is one rail alone, its regulator's end is the unit's: it seems dead."""
    if len(unit.sheet.rails) != 1 or fault.line == TRUNK or fault.mode is FaultMode.DRIFT:
        return None
    if fault.has("regulator") and fault.mode is not FaultMode.SHORT:
        because = "with one rail, a dead regulator is a dead unit"
        rails = {fault.line: MISSING}
        regulator = {"dead-whole": 0.75, "rail-missing": 0.15, "warm": 0.1}
        return Effect("regulator-dead", because, OWN_RAIL, {}, rails, symptoms=regulator, warm=0.15)
    return None


def input_diode(unit: UnitSheet, fault: Fault) -> Effect | None:
    """The diode at a DC input: open nothing comes in, shorted it protects no more."""
    if unit.sheet.topology is not Topology.DC_FED or fault.is_on_rail:
        return None
    if not fault.has("diode", "schottky", "bridge"):
        return None
    if fault.mode is FaultMode.OPEN:
        because = "an open input diode lets nothing in"
        return Effect("input-open", because, PATH, {DEAD: 0.97})
    if fault.mode in (FaultMode.SHORT, FaultMode.REVERSED):
        because = "a shorted input diode protects no more, or clamps what comes in"
        return Effect("input-short", because, HARD, {DEAD: 0.3, CLEAN: 0.15})
    return None


BLOCK: Block = (input_diode, transformer, raw_filter, rectifier, reference, regulator_of_one)
