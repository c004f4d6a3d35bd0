"""The one thing to do next in a case, and the bench page's line for it."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from hale_rail.actions import clock, probing
from hale_rail.actions.dossier import (
    Dossier,
    build,
    cache_key,
    failed_parts,
    remember,
    undone_ground,
)
from hale_rail.core.rails.judge import Load, RailVerdict
from hale_rail.core.safety.energy import Energy
from hale_rail.core.supply.points import COLD, Point, Quantity, next_undone
from hale_rail.store import cases
from hale_rail.store.cases import Case
from hale_rail.store.database import Store

#: readings that show the unit was opened and work begun
_TAKEN_INSIDE = {quantity.code for quantity in (*COLD, Quantity.LOOK, Quantity.GROUND)}
#: the stage that a reading belongs to, by its quantity's code
_STAGE_OF = {
    **{quantity.code: "map" for quantity in COLD},
    **dict.fromkeys(("esr", "cap", "leak"), "capacitors"),
    **dict.fromkeys(("ground", "inject"), "shorts"),
    "look": "look",
    "rail": "rails",
}


@dataclass(frozen=True)
class NextStep:
    """What to do, in which view, and at which point (or "")."""

    text: str
    view: str
    point: str = ""


def point_words(dossier: Dossier, point: Point) -> str:
    """A point as one says it: `C14, lifted, ESR`."""
    station = dossier.sheet.station(point.station_id or 0)
    name = point.rail_key or (station.ref if station else "?")
    words = (name, point.setting, point.polarity, point.quantity.label)
    return ", ".join(word for word in words if word)


def next_step(dossier: Dossier) -> NextStep:
    """Safety first, then shorts, cold checks, capacitors, the recap, the rails, the report."""
    if dossier.case.closed_at:
        return NextStep("Read the report", "report")
    energy = dossier.energy
    if energy.energy is Energy.LIVE:
        return _live(dossier)
    if not energy.guard_open:
        return _make_safe(dossier)
    return _cold(dossier)


def _live(dossier: Dossier) -> NextStep:
    for load in (Load.MACHINE, Load.DUMMY):
        point = next_undone(probing.rail_points(dossier.sheet, load), dossier.done)
        if point and any(load in r.volts for r in dossier.rails):
            return NextStep(f"Read {point_words(dossier, point)}", "rails", point.key)
    if not any(r.volts for r in dossier.rails):
        return NextStep("Power is on: read the rails", "rails")
    return NextStep("Power is on: log its removal when the readings are done", "safe")


def _make_safe(dossier: Dossier) -> NextStep:
    if dossier.energy.energy is Energy.UNKNOWN:
        return NextStep("Pull the plug, then read every store", "safe")
    store = dossier.energy.next_store
    station = dossier.sheet.station(int(store.store)) if store else None
    what = station.ref if station else "the store"
    verb = "Bleed" if store and store.volt is not None else "Read the volts on"
    return NextStep(f"{verb} {what}", "safe")


def _cold(dossier: Dossier) -> NextStep:
    if not any(r.quantity in _TAKEN_INSIDE for r in dossier.readings):
        return NextStep("Look it over, as power flows", "look")
    shorts = next(s for s in dossier.stages if s.view == "shorts")
    if shorts.status == "attention":
        return NextStep(f"{shorts.note}: find what takes the short away", "shorts")
    point = next_undone(list(dossier.cold_points), dossier.done)
    if point:
        return NextStep(f"Read {point_words(dossier, point)}", "map", point.key)
    if undone_ground(dossier):
        point = next_undone(probing.ground_points(dossier.sheet), dossier.done)
        return NextStep("Read every rail to ground", "shorts", point.key if point else "")
    point = next_undone(list(dossier.capacitor_points), dossier.done)
    if point:
        return NextStep(f"Probe {point_words(dossier, point)}", "capacitors", point.key)
    broken = [f.station.ref for f in failed_parts(dossier)]
    if broken:
        return NextStep(f"Replace {', '.join(broken)}", "map")
    recap = next(s for s in dossier.stages if s.view == "recap")
    if "to replace" in recap.note:
        return NextStep(f"Recap: {recap.note}", "recap")
    rails = next(s for s in dossier.stages if s.view == "rails")
    if rails.status == "done":
        return NextStep("Hand back: read the report through", "report")
    if any(v is RailVerdict.FAIL for r in dossier.rails for _, (_, j) in r.volts.items()
           for v in [j.verdict]):  # fmt: skip
        return NextStep(f"Rails: {rails.note}", "rails")
    return NextStep("First power, limited and loaded, then the rails", "rails")


def stage_reached(dossier: Dossier, step: NextStep) -> str:
    """The stage of the next step; while that only makes safe again, the furthest one begun."""
    if dossier.case.closed_at:
        return "Handed back"
    views = [stage.view for stage in dossier.stages]
    view = step.view
    if view == "safe":
        begun = {_STAGE_OF[r.quantity] for r in dossier.readings if r.quantity in _STAGE_OF}
        view = max(begun | {"safe"}, key=views.index)
    return dossier.stages[views.index(view)].name


@contextmanager
def changing(store: Store, number: str) -> Iterator[tuple[sqlite3.Connection, Case]]:
    """One action on a case: its transaction, closed by a fresh line for the bench page.

    What that line was computed from is kept for the page that follows, once it is committed.
    """
    with store.write() as connection:
        case = cases.by_number(connection, number)
        yield connection, case
        made = refresh_summary(connection, case)
        key = cache_key(store, connection, made.case)
    remember(key, made)


def refresh_summary(connection: sqlite3.Connection, case: Case) -> Dossier:
    """Rewrite the bench page's line after an action, in the action's own transaction."""
    dossier = build(connection, cases.by_number(connection, case.number))
    step = next_step(dossier)
    view = f"{step.view}\n{step.point}" if step.point else step.view
    cases.put_summary(
        connection,
        case.id,
        stage=stage_reached(dossier, step),
        energy=dossier.energy.energy.value,
        next_text=step.text,
        next_view=view,
        updated_at=clock.now(),
    )
    return dossier
