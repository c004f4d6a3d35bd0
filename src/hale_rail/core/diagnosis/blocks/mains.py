"""The mains' way up to the rectifier: lead, fuse, switch, filter, suppressors, inrush, selector."""

from __future__ import annotations

from hale_rail.core.diagnosis.blocks.block import Block, UnitSheet
from hale_rail.core.diagnosis.effects import (
    BLACK,
    CLEAN,
    DEAD,
    HARD,
    LOW,
    NOISE,
    PATH,
    TRIPS,
    Effect,
)
from hale_rail.core.diagnosis.faults import ADAPTER, SELECTOR, Fault
from hale_rail.core.parts.modes import FaultMode

_IN_THE_WAY = ("inlet", "lead", "switch", "filter", "thermistor")
_SUPPRESSORS = ("suppressor-x", "suppressor-y", "suppression-paper", "suppression-film", "varistor")


def path_open(_: UnitSheet, fault: Fault) -> Effect | None:
    """Nothing passes an open lead, switch, filter or thermistor."""
    if fault.mode is not FaultMode.OPEN or not fault.has(*_IN_THE_WAY) or fault.is_on_rail:
        return None
    return Effect("path-open", "an open mains path lets nothing in", PATH, {DEAD: 0.985})


def fuse_aged(_: UnitSheet, fault: Fault) -> Effect | None:
    """A fuse opens by age and inrush, gently, with nothing behind it."""
    if not fault.has("fuse"):
        return None
    because = "a fuse that aged opens with a clean gap and nothing behind it"
    return Effect("fuse-aged", because, PATH, {CLEAN: 0.96, BLACK: 0.015, DEAD: 0.01})


def suppressor_short(unit: UnitSheet, fault: Fault) -> Effect | None:
    """A short across the mains takes the fuse where it is behind it, else the breaker."""
    if not fault.has(*_SUPPRESSORS) or fault.mode is not FaultMode.SHORT:
        return None
    is_ahead = fault.part is not None and unit.is_before_fuse(fault.part)
    is_y = fault.has("suppressor-y")
    regimes = {TRIPS: 0.8, BLACK: 0.03, CLEAN: 0.01} if is_ahead or is_y else {
        BLACK: 0.45, TRIPS: 0.25, CLEAN: 0.08, DEAD: 0.02,
    }  # fmt: skip
    because = "a suppressor that shorts the mains takes the fuse or the breaker, with smoke"
    return Effect("suppressor-short", because, HARD, regimes, symptoms={"smoke": 0.75})


def suppressor_leaks(_: UnitSheet, fault: Fault) -> Effect | None:
    """Paper that took in moisture heats, crazes and smokes while the unit runs."""
    if not fault.has(*_SUPPRESSORS) or fault.mode is not FaultMode.LEAKY:
        return None
    is_paper = fault.has("suppression-paper")
    suppressor_leaks = {"smoke": 0.6 if is_paper else 0.2, "crackle": 0.06, "blew-again": 0.01}
    because = "paper that took in moisture smokes while the unit runs"
    return Effect(
        "suppressor-leaks", because, NOISE, {TRIPS: 0.12, CLEAN: 0.02}, symptoms=suppressor_leaks
    )


def selector_wrong(_: UnitSheet, fault: Fault) -> Effect | None:
    """A selector on the higher voltage starves the unit; on the lower it overvolts the bulk."""
    if fault.ref != SELECTOR:
        return None
    because = "a selector on the wrong voltage halves or doubles what comes in"
    return Effect(
        "selector-wrong", because, HARD, {DEAD: 0.45, BLACK: 0.2, CLEAN: 0.03}, every=LOW,
        symptoms={"rails-low": 0.3, "second-try": 0.1}, together=True,
    )  # fmt: skip


def adapter_dead(_: UnitSheet, fault: Fault) -> Effect | None:
    """Nothing, too little or the wrong polarity comes from outside."""
    if fault.ref != ADAPTER:
        return None
    because = "a dead or wrong adapter lets nothing in, or too little"
    return Effect(
        "adapter", because, PATH, {DEAD: 0.8}, every=LOW, slow=0.3,
        symptoms={"no-load-only": 0.3, "rails-low": 0.4, "ripple": 0.1, "overvoltage": 0.05},
    )  # fmt: skip


BLOCK: Block = (
    path_open, fuse_aged, suppressor_short, suppressor_leaks, selector_wrong, adapter_dead,
)  # fmt: skip
