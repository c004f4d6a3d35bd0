"""Make safe: unplug, bleed, verify dead; each store with its own clock."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.case.file import CaseFile
from hale_rail.case.parts.parts import standing_failed
from hale_rail.case.safety.energy import StoreClock, charge_words, energy, meter_words, store_clocks
from hale_rail.case.walks import store_points
from hale_rail.case.words import named
from hale_rail.core.procedures import STORE, Point
from hale_rail.core.quantities import Unit, show
from hale_rail.core.safety.bleeding import METER_LIMIT_V
from hale_rail.core.safety.energy import Energy, PowerSource, StoreState
from hale_rail.stages.stage import Meaning, PageQuery, Stage, StageState, StageStep, Status, Urgency
from hale_rail.store.readings import Reading


class SafePage(Struct, frozen=True):
    """Every store's clock, what the energy state means, and where power can come from.

    `failed`: designators of parts that count as failed and not replaced.
    """

    clocks: tuple[StoreClock, ...]
    words: str
    sources: tuple[PowerSource, ...]
    failed: str


def state(case: CaseFile) -> StageState:
    """Done while the unit is verified dead."""
    state = energy(case)
    if state.energy is Energy.DEAD:
        return StageState(Status.DONE, state.energy.code)
    if state.reason:
        return StageState(Status.ATTENTION, f"{state.energy.code}, passed by reason")
    return StageState(Status.ATTENTION, state.energy.code)


def page(case: CaseFile, _: PageQuery) -> SafePage:
    """The stores and what they hold."""
    failed = named([facts.part.ref for facts in standing_failed(case)])
    return SafePage(tuple(store_clocks(case)), _words(case), tuple(PowerSource), failed)


def _words(case: CaseFile) -> str:
    limit = f"{case.workshop.touch_limit_v:g}\u00a0V"
    return {
        Energy.UNKNOWN: "Nobody has logged whether it is unplugged. Pull the plug, log it, then "
        "read every store below.",
        Energy.LIVE: "Power is on. Suppressors across the mains are energised even with the switch "
        "off: if one smokes, pull the plug, do not press the switch.",
        Energy.WAITING: "Power is removed. It counts as dead, safe to touch, once every store "
        f"rated above {limit} reads at most {limit}.",
        Energy.CHARGED: f"{charge_words(case)} was read: charged, above {limit}. Bleed it, then "
        "read again." + ("" if energy(case).is_off else " No removal of power is logged yet."),
        Energy.DEAD: f"Safe to touch: every store rated above {limit} read at most {limit} since "
        f"power was removed. {meter_words(case)}",
    }[energy(case).energy]


def points(case: CaseFile, _: PageQuery) -> Sequence[Point]:
    """The volts across every store."""
    return store_points(case)


def first(case: CaseFile, _: Sequence[Point]) -> Point | None:
    """The store that is still unread or above the limit."""
    state = energy(case)
    waiting = state.next_store or state.next_for_meter()
    part = case.sheet.part(waiting.store) if waiting else None
    return part.point(STORE) if part else None


def next_step(case: CaseFile) -> StageStep | None:
    """Power off when it is on, the plug out when nobody knows, else the next store."""
    state = energy(case)
    if state.energy is Energy.LIVE:
        text = "Power is on: log its removal when the readings are done"
        return StageStep(text, Urgency.SAFETY)
    if state.energy is Energy.CHARGED:
        what = "Bleed" if state.is_off else "Pull the plug, then bleed"
        return StageStep(f"{what} {charge_words(case)}: charged", Urgency.CHARGED)
    if state.guard_open:
        return None
    if state.energy is Energy.UNKNOWN:
        return StageStep("Pull the plug, then read every store", Urgency.SAFETY)
    store = state.next_store
    part = case.sheet.part(store.store) if store else None
    if part is None:
        return StageStep(
            "Read the volts where there can be a charge, and name the place", Urgency.SAFETY
        )
    return StageStep(f"Read the volts on {part.ref}", Urgency.SAFETY)


def store_meaning(case: CaseFile, reading: Reading) -> Meaning:
    """What volts across a store say."""
    state = energy(case)
    held = next((s for s in state.stores if s.store == reading.target.part_id), None)
    if held is None and state.is_off:
        held = StoreState(reading.target.part_id or 0, reading.value)
    limit = show(state.limit_volt, Unit.VOLT)
    if not state.is_off:
        is_low = max(abs(reading.value), abs(reading.high)) <= state.limit_volt
        word = "live" if state.energy is Energy.LIVE else "charged"
        text = "A reading counts once the removal of power is logged."
        return Meaning("unproven", "not logged", text) if is_low else Meaning("failed", word, text)
    if held is None or not held.is_below(state.limit_volt):
        text = f"Above the {limit} touch limit: bleed it, then read again."
        return Meaning("failed", "charged", text)
    if not held.is_below(METER_LIMIT_V):
        text = f"Below {limit}, but above 5\u00a0V: no ohm or ESR meter on it yet."
        return Meaning("worn", "bleed on", text)
    return Meaning(
        "good", "bled", "Low enough to touch and to measure. Read again a few minutes later."
    )


STAGE = Stage(
    key="safe",
    name="Make safe",
    templates="safety",
    state=state,
    page=page,
    points=points,
    first=first,
    next_step=next_step,
    begun=lambda _: True,
    meanings={STORE.code: store_meaning},
)
