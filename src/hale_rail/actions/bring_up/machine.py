"""The end of the work: the harness, the board's bring-up, linear regulators."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import Any

from hale_rail.actions.change import Change, changing
from hale_rail.case.bring_up.harness import SIDES, harness
from hale_rail.core.bring_up.bring_up import MOVES, SIGNS
from hale_rail.core.bring_up.collateral import EVENTS
from hale_rail.core.bring_up.harness import plan
from hale_rail.core.bring_up.linear import linear
from hale_rail.core.errors import at_field
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.readings.machine_lists import end, read_layout
from hale_rail.formats.tables.fields import in_table
from hale_rail.formats.workshop.harness_csv import read_source, read_target
from hale_rail.store.database import Store
from hale_rail.store.machine_notes import MACHINE_NOTES, MachineNote

_MOST_TEXT = 40_000
_SHORT, _LONG = 24, 200


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


def name_chip(store: Store, number: str, name: str, rail: str, at: str | None = None) -> None:
    """Name a supply pin of a chip, to be read with the tray; no rail takes it off."""
    try:
        pin = end(name)
    except InputError as error:
        raise InputError("Name the chip and its pin, such as U7 pin 16.", field="chip") from error
    with changing(store, number, at) as change:
        if rail and change.file.sheet.rail(rail) is None:
            raise NotFoundError("There is no such rail on this unit.")
        body = {"rail": rail} if rail else None
        _say(change, "chip", pin, body, f"{pin} is to have {rail}" if rail else f"{pin} taken off")


def say_sign(
    store: Store, number: str, code: str, seen: str, note: str = "", at: str | None = None
) -> None:
    """Say whether a sign of life is there: `yes`, `no`, or "" for not known."""
    sign = SIGNS.get(code)
    if sign is None or seen not in ("yes", "no", ""):
        raise InputError("That is not one of the signs listed.")
    if len(note) > _LONG:
        raise InputError(f"At most {_LONG} characters.", field="note")
    with changing(store, number, at) as change:
        body = {"seen": seen, "note": note.strip()} if seen else None
        word = {"yes": "seen", "no": "missing"}.get(seen, "not said")
        _say(change, "sign", code, body, f"{sign.words}: {word}. {note.strip()}".strip())


def keep_layout(store: Store, number: str, table: str, at: str | None = None) -> None:
    """Keep the table of a memory's chips by bank and bit; "" takes it back."""
    if len(table) > _MOST_TEXT:
        raise InputError("The table is far too long.", field="table")
    count = len(_read(read_layout, table, "table")) if table.strip() else 0
    with changing(store, number, at) as change:
        body = {"table": table} if count else None
        _say(change, "layout", "", body, f"Memory's table: {count} chips")


def add_memory(
    store: Store, number: str, bank: str, written: int, read: int, bits: int, at: str | None = None
) -> None:
    """Add one place of a memory test: what was written and what was read back."""
    if not 1 <= bits <= 64 or written >> bits or read >> bits:
        raise InputError("The word is wider than its bits say.", field="bits")
    if not bank.strip() or len(bank) > _SHORT:
        raise InputError(f"Name the bank, at most {_SHORT} characters.", field="bank")
    body = {"bank": bank.strip(), "written": written, "read": read, "bits": bits}
    with changing(store, number, at) as change:
        text = f"Memory, bank {bank.strip()}: wrote {written:X}, read {read:X}"
        _say(change, "memory", _next_key(change, "memory"), body, text)


def add_swap(
    store: Store, number: str, one: str, other: str, moved: str, why: str, at: str | None = None
) -> None:
    """Record a swap as a test with its result; raises InputError for one without a reason."""
    result = MOVES.get(moved)
    if result is None:
        raise InputError("Say what became of the fault.", field="moved")
    names = [" ".join(name.split()) for name in (one, other)]
    if not all(names) or names[0].casefold() == names[1].casefold():
        raise InputError("Name the two that were swapped.", field="one")
    if max(map(len, names)) > _SHORT or len(why) > _LONG:
        raise InputError("That is too long.", field="one")
    if len(why.strip()) < 4:
        raise InputError("Evidence before swaps: which reading led here?", field="why")
    body = {"one": names[0], "other": names[1], "moved": moved, "why": why.strip()}
    with changing(store, number, at) as change:
        text = f"Swapped {names[0]} and {names[1]} ({why.strip()}): {result.words}"
        _say(change, "swap", _next_key(change, "swap"), body, text)


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
    """Take back a memory reading, a swap, an event or a regulator; it stays in the log."""
    if kind not in ("memory", "swap", "event", "regulator"):
        raise InputError("That cannot be taken back.")
    with changing(store, number, at) as change:
        if (kind, key) not in change.file.rows.newest(MACHINE_NOTES):
            raise NotFoundError("That is no longer there.")
        _say(change, kind, key, None, f"{kind.capitalize()} {key} taken back")


def _next_key(change: Change, kind: str) -> str:
    return str(1 + sum(note.kind == kind for note in change.file.rows.all(MACHINE_NOTES)))
