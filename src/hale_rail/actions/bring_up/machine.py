"""The end of the work: the harness, rail events, linear regulators."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import Any

from hale_rail.actions.change import Change, changing
from hale_rail.case.bring_up.harness import SIDES, harness
from hale_rail.core.bring_up.collateral import EVENTS
from hale_rail.core.bring_up.harness import plan
from hale_rail.core.bring_up.linear import linear
from hale_rail.core.errors import at_field
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.tables.fields import in_table
from hale_rail.formats.workshop.harness_csv import read_source, read_target
from hale_rail.store.database import Store
from hale_rail.store.machine_notes import MACHINE_NOTES, MachineNote

_MOST_TEXT = 40_000
_SHORT = 24


def _say(change: Change, kind: str, key: str, body: Mapping[str, Any] | None, text: str) -> None:
    log_id = change.log("edited", text)
    change.append(MACHINE_NOTES, log_id, MachineNote(kind, key, body))


def plan_harness(
    store: Store,
    number: str,
    source: str,
    target: str,
    length_m: float,
    side: str = "mating",
    at: str | None = None,
) -> None:
    """Keep the two ends of a harness as tables; raises InputError naming the field."""
    if len(source) + len(target) > _MOST_TEXT:
        raise InputError("The tables are far too long.", field="target")
    feeds = _read(partial(read_source, named=in_table), source, "source")
    pins = _read(partial(read_target, named=in_table), target, "target")
    planned = plan(feeds, pins, length_m)
    if side not in SIDES:
        raise InputError("Say which side is seen.", field="side")
    body = {"source": source, "target": target, "length_m": length_m, "side": side}
    with changing(store, number, at) as change:
        missing = f", {len(planned.missing)} missing" if planned.missing else ""
        _say(change, "harness", "", body, f"Harness of {len(planned.wires)} wires{missing}")


def _read(reader: Any, text: str, field: str) -> Any:
    with at_field(field):
        return reader(text)


def say_colour(store: Store, number: str, pin: str, colour: str, at: str | None = None) -> None:
    """Record the colour of the wire that was found at a pin; "" takes it back."""
    word = " ".join(colour.split())
    if len(word) > _SHORT:
        raise InputError(f"At most {_SHORT} characters.", field="colour")
    with changing(store, number, at) as change:
        if pin not in [facts.pin.name for facts in harness(change.file).pins]:
            raise NotFoundError("There is no such pin on this connector.")
        body = {"colour": word} if word else None
        _say(change, "colour", pin, body, f"Pin {pin}: wire found {word or 'not said'}")


def add_event(
    store: Store, number: str, rail: str, event: str, peak_v: float | None, at: str | None = None
) -> None:
    """Record what happened to a rail, so that what it may have taken along is listed."""
    what = EVENTS.get(event)
    if what is None:
        raise InputError("Say what happened.", field="event")
    with changing(store, number, at) as change:
        if change.file.sheet.rail(rail) is None:
            raise NotFoundError("There is no such rail on this unit.")
        body = {"rail": rail, "event": event, "peak_v": peak_v}
        _say(change, "event", _next_key(change, "event"), body, f"{rail} {what.words}")


def reckon_regulator(
    store: Store, number: str, ref: str, body: Mapping[str, Any], at: str | None = None
) -> None:
    """Keep what a linear regulator works at: v_in, v_out, amps, efficiency, case_c."""
    name = " ".join(ref.split())
    if not name or len(name) > _SHORT:
        raise InputError(f"Name the regulator, at most {_SHORT} characters.", field="ref")
    regulator = linear(
        body["v_in"], body["v_out"], body["amps"], body["efficiency"], body["case_c"]
    )
    with changing(store, number, at) as change:
        text = f"{name}: {regulator.heat_w:.3g} W of heat, a module saves {regulator.saved_a:.3g} A"
        _say(change, "regulator", name, body, text)


def take_back(store: Store, number: str, kind: str, key: str, at: str | None = None) -> None:
    """Take back a rail event or a regulator; it stays in the log."""
    if kind not in ("event", "regulator"):
        raise InputError("That cannot be taken back.")
    with changing(store, number, at) as change:
        if (kind, key) not in change.file.rows.newest(MACHINE_NOTES):
            raise NotFoundError("That is no longer there.")
        _say(change, kind, key, None, f"{kind.capitalize()} {key} taken back")


def _next_key(change: Change, kind: str) -> str:
    return str(1 + sum(note.kind == kind for note in change.file.rows.all(MACHINE_NOTES)))
