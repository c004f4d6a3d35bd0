"""Make safe: unplug, bleed, verify dead; each store with its own clock."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from hale_rail.case.energy import StoreClock, energy, store_clocks
from hale_rail.case.file import CaseFile
from hale_rail.case.walks import store_points
from hale_rail.core.procedures import STORE, Point
from hale_rail.core.quantities import Unit, show
from hale_rail.core.safety.bleeding import METER_LIMIT_V
from hale_rail.core.safety.energy import Energy, PowerSource
from hale_rail.stages.stage import Asked, Meaning, Stage, StageState, Status, Step, Urgency
from hale_rail.store.readings import Reading


@dataclass(frozen=True)
class SafePage:
    """Every store's clock, what the energy state means, and where power can come from."""

    clocks: tuple[StoreClock, ...]
    words: str
    sources: tuple[PowerSource, ...]


def state(case: CaseFile) -> StageState:
    """Done while the unit is verified dead."""
    found = energy(case)
    if found.energy is Energy.DEAD:
        return StageState(Status.DONE, found.energy.code)
    if found.reason:
        return StageState(Status.ATTENTION, f"{found.energy.code}, passed by reason")
    return StageState(Status.ATTENTION, found.energy.code)


def page(case: CaseFile, _: Asked) -> SafePage:
    """The stores and what they hold."""
    return SafePage(tuple(store_clocks(case)), _words(case), tuple(PowerSource))


def _words(case: CaseFile) -> str:
    limit = f"{case.workshop.touch_limit_v:g}\u00a0V"
    return {
        Energy.UNKNOWN: "Nobody has logged whether it is unplugged. Pull the plug, log it, then "
        "read every store below.",
        Energy.LIVE: "Power is on. Suppressors across the mains are energised even with the switch "
        "off: if one smokes, pull the plug, do not press the switch.",
        Energy.WAITING: "Power is removed. It counts as dead when every store below reads at most "
        f"{limit}.",
        Energy.DEAD: f"Every store read at most {limit} since power was removed.",
    }[energy(case).energy]


def points(case: CaseFile, _: Asked) -> Sequence[Point]:
    """The volts across every store."""
    return store_points(case)


def first(case: CaseFile, _: Sequence[Point]) -> Point | None:
    """The store that is still unread or above the limit."""
    waiting = energy(case).next_store
    part = case.sheet.part(waiting.store) if waiting else None
    return part.point(STORE) if part else None


def next_step(case: CaseFile) -> Step | None:
    """Power off when it is on, the plug out when nobody knows, else the next store."""
    found = energy(case)
    if found.energy is Energy.LIVE:
        text = "Power is on: log its removal when the readings are done"
        return Step(text, Urgency.SAFETY)
    if found.guard_open:
        return None
    if found.energy is Energy.UNKNOWN:
        return Step("Pull the plug, then read every store", Urgency.SAFETY)
    store = found.next_store
    part = case.sheet.part(store.store) if store else None
    verb = "Bleed" if store and store.volt is not None else "Read the volts on"
    return Step(f"{verb} {part.ref if part else 'the store'}", Urgency.SAFETY)


def store_meaning(case: CaseFile, reading: Reading) -> Meaning:
    """What volts across a store say."""
    found = energy(case)
    held = next((s for s in found.stores if s.store == reading.target.part_id), None)
    limit = show(found.limit_volt, Unit.VOLT)
    if held is None or not held.is_below(found.limit_volt):
        word = "live" if found.energy is Energy.LIVE else "charged"
        text = f"Above the {limit} touch limit: bleed it, then read again."
        if found.energy in (Energy.LIVE, Energy.UNKNOWN):
            text = "A reading counts once the removal of power is logged."
        return Meaning("failed", word, text)
    if not held.is_below(METER_LIMIT_V):
        text = f"Below {limit}, but above 5\u00a0V: no ohm or ESR meter on it yet."
        return Meaning("worn", "bleed on", text)
    return Meaning(
        "good", "bled", "Low enough to touch and to measure. Read again in some minutes."
    )


STAGE = Stage(
    key="safe",
    name="Make safe",
    state=state,
    page=page,
    points=points,
    first=first,
    next_step=next_step,
    begun=lambda _: True,
    meanings={STORE.code: store_meaning},
)
