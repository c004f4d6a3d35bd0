"""The outputs of a switching supply: rectifiers, chokes, filters, crowbars, post-regulators."""

from __future__ import annotations

from hale_rail.core.diagnosis.blocks.block import Block, UnitSheet
from hale_rail.core.diagnosis.effects import (
    DEAD,
    FOLDED,
    HICCUP,
    HIGH,
    LATCHED,
    LATE,
    MISSING,
    NOISE,
    OWN_RAIL,
    SAGS,
    Effect,
)
from hale_rail.core.diagnosis.faults import Fault
from hale_rail.core.parts.modes import FaultMode

#: a stage that finds a short on a rail of its own: silent, ticking, or latched
_FOLDS = {HICCUP: 0.46, DEAD: 0.42, LATCHED: 0.06}
_CAPACITORS = ("output-filter", "decoupling", "capacitor")


def shorted(unit: UnitSheet, fault: Fault, name: str, what: str) -> Effect:
    """A short on an output: a switched rail folds the stage back, a regulator limits its own."""
    part = fault.part
    is_fed_straight = unit.is_switched(fault.line) or (part and unit.is_before_regulator(part))
    shorted = {"rail-missing": 0.7}
    if part and part.family and part.family.value == "tantalum":
        shorted["smoke"] = 0.5 if unit.is_stiff(fault.line) else 0.2
    if is_fed_straight:
        because = f"{what} folds the whole stage back"
        return Effect(name, because, FOLDED, _FOLDS, {fault.line: MISSING}, symptoms=shorted)
    because = f"{what} is limited by its regulator: its rail alone is missing"
    regimes = {HICCUP: 0.04, DEAD: 0.05}
    return Effect(name, because, OWN_RAIL, regimes, {fault.line: MISSING}, symptoms=shorted)


def rectifier(unit: UnitSheet, fault: Fault) -> Effect | None:
    """Shorted it loads the winding on the other half wave; open its rail ends."""
    if not fault.has("diode", "schottky", "bridge") or not fault.is_on_rail:
        return None
    if fault.mode in (FaultMode.SHORT, FaultMode.REVERSED):
        because = "a shorted rectifier loads the winding on the wrong half wave and folds it back"
        rectifier = {"rail-missing": 0.6}
        return Effect(
            "rectifier-short", because, FOLDED, _FOLDS, {fault.line: MISSING}, symptoms=rectifier
        )
    if fault.mode is FaultMode.OPEN:
        return _way_open(unit, fault, "rectifier-open", unit.rectifiers.get(fault.line, 1))
    return None


def _way_open(unit: UnitSheet, fault: Fault, name: str, of_how_many: int) -> Effect:
    if unit.is_main(fault.line):
        because = "the loop sees no volts of its main rail and stops itself"
        return Effect(
            name, because, FOLDED, {HICCUP: 0.42, DEAD: 0.4, LATCHED: 0.06},
            {fault.line: MISSING}, symptoms={"rail-missing": 0.5, "overvoltage": 0.2},
        )  # fmt: skip
    if of_how_many > 1:
        because = "one of two rectifiers is left: its rail sags under load"
        return Effect(
            name, because, NOISE, {}, {fault.line: SAGS}, fast=0.4, symptoms={"ripple": 0.2}
        )
    because = "its own rail alone ends there"
    return Effect(
        name, because, OWN_RAIL, {HICCUP: 0.01, DEAD: 0.01}, {fault.line: MISSING},
        symptoms={"rail-missing": 0.85},
    )  # fmt: skip


def choke(unit: UnitSheet, fault: Fault) -> Effect | None:
    """An open output choke ends its rail."""
    if not fault.has("choke") or not fault.is_on_rail or fault.mode is not FaultMode.OPEN:
        return None
    return _way_open(unit, fault, "choke-open", 1)


def filters(unit: UnitSheet, fault: Fault) -> Effect | None:
    """Shorted it is a short of its rail; dry its ESR lets the switching through."""
    if not fault.has(*_CAPACITORS) or not fault.is_on_rail or (fault.part and fault.part.board):
        return None
    if fault.mode in (FaultMode.SHORT, FaultMode.REVERSED):
        return shorted(unit, fault, "filter-short", "a shorted capacitor on an output")
    if fault.mode is FaultMode.LEAKY:
        filters = {"warm": 0.05}
        return Effect("filter-leaks", "a leaking filter warms", NOISE, symptoms=filters)
    if unit.is_switched(fault.line) or (fault.part and unit.is_before_regulator(fault.part)):
        return _dry(unit, fault)
    because = "a dry capacitor behind a regulator shows little: it may ring"
    return Effect(
        "filter-dry", because, NOISE, fast=0.1, symptoms={"ripple": 0.03, "squeals": 0.02}
    )


def _dry(unit: UnitSheet, fault: Fault) -> Effect:
    """Of a bank the others carry on, unless all of it is dry."""
    bank = [p for p in unit.sheet.on_line(fault.line) if fault.part and p.bank == fault.part.bank]
    is_half = fault.part is not None and bool(fault.part.bank) and len(bank) > 1
    share = 0.4 if is_half else 1.0
    dry = {"ripple": 0.5, "warm": 0.25, "second-try": 0.03, "power-good-low": 0.08,
            "no-load-only": 0.04, "rails-low": 0.05, "resets": 0.2, "drops-out": 0.1,
            "squeals": 0.12}  # fmt: skip
    because = "a filter whose ESR has risen lets the switching through"
    return Effect(
        "filter-dry", because, NOISE, {HICCUP: 0.05 * share, LATE: 0.012 * share},
        {fault.line: (0.004, 0.12 * share, 0.994 - 0.12 * share, 0.002)}, fast=0.9 * share,
        symptoms={key: value * share for key, value in dry.items()}, warm=0.45 * share,
    )  # fmt: skip


def crowbar(unit: UnitSheet, fault: Fault) -> Effect | None:
    """Fired or shorted it holds its rail near a volt; leaking it fires early."""
    if not fault.has("scr", "zener") or not fault.is_on_rail:
        return None
    if fault.mode is FaultMode.SHORT:
        effect = shorted(unit, fault, "crowbar", "a shorted crowbar or clamp")
        regimes = {**effect.regimes, LATCHED: 0.12} if effect.rank == FOLDED else effect.regimes
        return Effect(
            "crowbar", effect.because, effect.rank, regimes, effect.rails,
            symptoms={**effect.symptoms, "protection": 0.3, "stays-off": 0.2},
        )  # fmt: skip
    if fault.mode is FaultMode.LEAKY:
        because = "a crowbar that fires early latches the supply off"
        crowbar = {"stays-off": 0.3, "protection": 0.4}
        return Effect("crowbar-early", because, FOLDED, {LATCHED: 0.7}, symptoms=crowbar)
    return None


def regulator(_: UnitSheet, fault: Fault) -> Effect | None:
    """Open or dead its rail is missing; shorted the raw voltage passes."""
    if not fault.has("regulator") or not fault.is_on_rail:
        return None
    if fault.mode is FaultMode.SHORT:
        because = "a shorted regulator passes the raw voltage on"
        return Effect(
            "regulator-short", because, OWN_RAIL, {}, {fault.line: HIGH},
            symptoms={"overvoltage": 0.88, "smoke": 0.05},
        )  # fmt: skip
    if fault.mode is FaultMode.DRIFT:
        because = "a regulator that drifted holds the wrong value"
        return Effect(
            "regulator-drift", because, OWN_RAIL, {}, {fault.line: (0.02, 0.55, 0.05, 0.38)},
            symptoms={"rails-low": 0.3, "overvoltage": 0.3, "warm": 0.1}, warm=0.25,
        )  # fmt: skip
    because = "an open or dead regulator ends its own rail alone"
    return Effect(
        "regulator-dead", because, OWN_RAIL, {}, {fault.line: MISSING},
        symptoms={"rail-missing": 0.85, "warm": 0.1, "power-good-low": 0.1}, warm=0.15,
    )  # fmt: skip


BLOCK: Block = (rectifier, choke, crowbar, regulator, filters)
