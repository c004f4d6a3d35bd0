"""The primary side of a switching supply: bridge, bulk, start, switch, control, transformer."""

from __future__ import annotations

from hale_rail.core.diagnosis.blocks.block import Block, UnitSheet
from hale_rail.core.diagnosis.effects import (
    BLACK,
    CLEAN,
    DEAD,
    HARD,
    HICCUP,
    LATCHED,
    LATE,
    LOOP,
    LOW,
    NOISE,
    SAGS,
    SWITCHING,
    TRIPS,
    Effect,
    Shares,
)
from hale_rail.core.diagnosis.faults import CONTROL, FEEDBACK, Fault
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.supply.sheet import Topology

_DROPS_OUT: Shares = (0.01, 0.25, 0.73, 0.01)
_HUM = {"ripple": 0.65, "rails-low": 0.15, "no-load-only": 0.15, "warm": 0.04, "second-try": 0.04}


def bridge(_: UnitSheet, fault: Fault) -> Effect | None:
    """Shorted, half waves of mains pass two junctions; open, one half of each is left."""
    if not fault.has("bridge") or fault.is_on_rail:
        return None
    if fault.mode is FaultMode.SHORT:
        because = "a shorted bridge puts half waves of mains through two junctions"
        return Effect("bridge-short", because, HARD, {BLACK: 0.85, CLEAN: 0.1, TRIPS: 0.03})
    if fault.mode is FaultMode.OPEN:
        because = "an open junction leaves half a wave: the bulk sags and hums"
        return Effect(
            "bridge-open",
            because,
            NOISE,
            {DEAD: 0.08},
            every=SAGS,
            slow=0.88,
            symptoms=_HUM,
            half=0.9,
            together=True,
        )
    return None


def bulk(unit: UnitSheet, fault: Fault) -> Effect | None:
    """Shorted it is a short of the bridge; dry or open it lets the mains' ripple through."""
    if not fault.has("bulk") or fault.is_on_rail:
        return None
    if fault.mode is FaultMode.SHORT:
        because = "a shorted bulk capacitor is mains through the bridge"
        return Effect("bulk-short", because, HARD, {BLACK: 0.85, CLEAN: 0.1, TRIPS: 0.03})
    if fault.mode is FaultMode.LEAKY:
        return Effect(
            "bulk-leaks", "a leaking bulk capacitor warms", NOISE, symptoms={"warm": 0.05}
        )
    is_open = fault.mode is FaultMode.OPEN
    is_half = unit.sheet.topology is Topology.HALF_BRIDGE
    because = "a bulk capacitor that has lost its capacitance sags between the waves"
    bulk = {**_HUM, "rails-low": 0.45, "ripple": 0.35} if is_open else _HUM
    share = 0.6 if is_half and not is_open else 0.9
    return Effect(
        "bulk-dry", because, NOISE, {DEAD: 0.03}, every=LOW if is_open else SAGS, slow=share,
        symptoms={key: value * share / 0.9 for key, value in bulk.items()}, warm=0.3,
        half=0.35 if is_half else 0.06, together=True,
    )  # fmt: skip


def switch(_: UnitSheet, fault: Fault) -> Effect | None:
    """Shorted it empties the bulk through the winding; open nothing is switched."""
    if not fault.has("transistor", "mosfet") or fault.is_on_rail:
        return None
    if fault.mode is FaultMode.SHORT:
        because = "a shorted switch empties the bulk capacitor through the winding"
        return Effect(
            "switch-short", because, HARD, {BLACK: 0.8, CLEAN: 0.12, DEAD: 0.03, TRIPS: 0.02}
        )
    return Effect(
        "switch-open", "an open switch moves nothing through the transformer", SWITCHING,
        {DEAD: 0.93, HICCUP: 0.03},
    )  # fmt: skip


def start(_: UnitSheet, fault: Fault) -> Effect | None:
    """The control's supply never reaches its threshold, or dips before it holds itself."""
    if not fault.has("start-up"):
        return None
    if fault.mode is FaultMode.DRY:
        because = "a dry start-up capacitor dips before the control holds itself"
        return Effect(
            "start-dry", because, SWITCHING, {DEAD: 0.3, HICCUP: 0.28, LATE: 0.36},
            symptoms={"second-try": 0.3, "stays-off": 0.2, "drops-out": 0.1}, warm=0.45, jumps=0.08,
        )  # fmt: skip
    if fault.mode is FaultMode.LEAKY:
        regimes = {DEAD: 0.2, LATE: 0.2}
        return Effect("start-leaks", "it loads the start resistors", SWITCHING, regimes)
    because = "the control's supply never reaches its start"
    late = 0.12 if fault.mode is FaultMode.HIGH else 0.04
    return Effect("start-dead", because, SWITCHING, {DEAD: 0.88 - late, LATE: late, HICCUP: 0.05})


def snubber(_: UnitSheet, fault: Fault) -> Effect | None:
    """Shorted it lies across the switch or the winding; open the switch is stressed."""
    if not fault.has("snubber"):
        return None
    if fault.mode is FaultMode.SHORT:
        because = "a shorted snubber loads the switch at every pulse"
        regimes = {DEAD: 0.4, HICCUP: 0.25, CLEAN: 0.12, BLACK: 0.12, LATCHED: 0.05}
        return Effect("snubber-short", because, SWITCHING, regimes, symptoms={"smoke": 0.2})
    snubber = {"squeals": 0.05, "smoke": 0.03}
    return Effect(
        "snubber-open", "an open snubber leaves the spikes", NOISE, symptoms=snubber, fast=0.1
    )


def coupling(_: UnitSheet, fault: Fault) -> Effect | None:
    """Open nothing reaches the transformer; shorted its core saturates."""
    if not fault.has("coupling"):
        return None
    if fault.mode is FaultMode.SHORT:
        regimes = {DEAD: 0.55, HICCUP: 0.2, CLEAN: 0.05, BLACK: 0.08}
        return Effect("coupling-short", "without it the core saturates", SWITCHING, regimes)
    because = "an open coupling capacitor keeps the pulses from the transformer"
    return Effect("coupling-open", because, SWITCHING, {DEAD: 0.9, HICCUP: 0.04})


def control(_: UnitSheet, fault: Fault) -> Effect | None:
    """Nothing drives the switch."""
    if fault.ref != CONTROL and not fault.has("controller"):
        return None
    regimes = {DEAD: 0.83, HICCUP: 0.07, LATCHED: 0.03, LATE: 0.03}
    control = {"power-good-low": 0.2, "warm": 0.2, "squeals": 0.1}
    because = "a dead control does not drive the switch"
    return Effect("control-dead", because, SWITCHING, regimes, symptoms=control, warm=0.2)


def _of_loop(unit: UnitSheet, off: Shares) -> dict[str, Shares]:
    """The loop's rails are off; a regulator behind one drops out once its raw side is low."""
    return {r.key: off if r.regulation.is_switching else _DROPS_OUT for r in unit.sheet.rails}


def feedback(unit: UnitSheet, fault: Fault) -> Effect | None:
    """The loop holds the wrong value: every rail of the stage is off in proportion."""
    is_drift = fault.ref == FEEDBACK or (fault.has("trimmer") and fault.line != "")
    if not is_drift or not unit.sheet.topology.is_switching:
        return None
    off = (0.01, 0.6, 0.04, 0.35)
    rails = _of_loop(unit, off)
    because = "a loop that holds the wrong value moves all its rails together"
    feedback = {"rails-low": 0.6, "overvoltage": 0.22, "resets": 0.05, "power-good-low": 0.1,
            "protection": 0.05, "warm": 0.03}  # fmt: skip
    return Effect(
        "feedback", because, LOOP, {DEAD: 0.02, HICCUP: 0.02, LATCHED: 0.04}, rails,
        symptoms=feedback, warm=0.25, together=True, jumps=0.08,
    )  # fmt: skip


def optocoupler(unit: UnitSheet, fault: Fault) -> Effect | None:
    """The loop is open: the rails run high, or it holds the control off."""
    if not fault.has("optocoupler"):
        return None
    off = (0.01, 0.45, 0.02, 0.52)
    rails = _of_loop(unit, off)
    because = "a loop without its coupler runs high, low, or holds the control off"
    optocoupler = {"rails-low": 0.45, "overvoltage": 0.45, "protection": 0.08}
    regimes = {DEAD: 0.2, HICCUP: 0.08, LATCHED: 0.08}
    return Effect(
        "optocoupler",
        because,
        LOOP,
        regimes,
        rails,
        symptoms=optocoupler,
        warm=0.1,
        together=True,
        jumps=0.15,
    )


def winding(_: UnitSheet, fault: Fault) -> Effect | None:
    """An open primary passes nothing; shorted turns load the switch like a short behind it."""
    if not fault.has("transformer"):
        return None
    if fault.mode is FaultMode.OPEN:
        regimes = {DEAD: 0.93, HICCUP: 0.03}
        return Effect("winding-open", "an open winding passes nothing", SWITCHING, regimes)
    if fault.mode is FaultMode.TURNS:
        because = "shorted turns load the switch like a short behind the transformer"
        regimes = {HICCUP: 0.42, DEAD: 0.32, CLEAN: 0.08, BLACK: 0.06, LATCHED: 0.02}
        return Effect(
            "turns", because, SWITCHING, regimes, every=LOW,
            symptoms={"rails-low": 0.3, "squeals": 0.2, "smoke": 0.1}, together=True,
        )  # fmt: skip
    return None


BLOCK: Block = (
    bridge, bulk, start, snubber, coupling, switch, control, feedback, optocoupler, winding,
)  # fmt: skip
