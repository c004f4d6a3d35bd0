"""Work on a case's rails: corrected, put in order, taken off, each in a version of the sheet."""

from __future__ import annotations

import re

from msgspec.structs import replace

from hale_rail.actions.change import changing
from hale_rail.actions.intake.sheets import new_version, take_off
from hale_rail.core.errors import at_field
from hale_rail.core.parts.markings import JointMarking
from hale_rail.core.quantities import Unit, read, show
from hale_rail.core.rails.power_good import LOW_V
from hale_rail.core.supply.sheet import Rail, Sheet
from hale_rail.errors import ConflictError, InputError, NotFoundError
from hale_rail.formats.units.rails_text import read_rail_words, write_rail
from hale_rail.store import sheets
from hale_rail.store.database import Store
from hale_rail.store.power_steps import POWER_GOODS, PowerGoodRow

_LONGEST_S, _MOST_LEVEL_V = 60.0, 15.0
_STEPS = {"up": -1, "down": 1}


def _rail(sheet: Sheet, key: str) -> Rail:
    rail = sheet.rail(key)
    if rail is None:
        raise NotFoundError(f"There is no rail {key} on this unit.")
    return rail


def correct_rail(
    store: Store, number: str, key: str, was: str, text: str, at: str | None = None
) -> None:
    """Correct a rail's marking, as one would write it in notes; its readings are judged again.

    What is not said is no longer known. `was` is the marking the page showed: ConflictError when
    another tab changed it since. Raises InputError for what cannot be understood.
    """
    with changing(store, number, at) as change:
        old = _rail(change.file.sheet, key)
        before = write_rail(old)
        if before != was.strip():
            raise ConflictError(f"Another tab corrected {key} first, to {before}. Look again.")
        bare = Rail(old.key, old.nominal_v, old.regulation, uid=old.uid)
        with at_field("text"):
            new = read_rail_words(bare, text.split())
        version = new_version(change)
        sheets.put_rails(change.connection, change.file.case.sheet_id, version, [new])
        change.log("sheet", f"{key} corrected: {before} is {write_rail(new)}")


def say_power_good(
    store: Store,
    number: str,
    after: str,
    *,
    is_low: bool = False,
    volts: str = "",
    at: str | None = None,
) -> None:
    """Keep what the power-good line did: its delay, or its volts, or both; `is_low`: it stays low.

    Raises InputError, at the field, for what cannot be read.
    """
    volt = _level(volts) if volts.strip() else None
    if is_low and volt is not None and volt > LOW_V:
        text = f"{show(volt, Unit.VOLT)} is not low: that is at most {LOW_V:g} V."
        raise InputError(text, field="volts")
    is_known = volt is not None and not after.strip()
    seconds = None if is_low or is_known else _after_s(after)
    text = f"high after {show(seconds, Unit.SECOND, 3)}" if seconds is not None else "stays low"
    if volt is not None:
        text = f"{show(volt, Unit.VOLT)}{'' if seconds is None else f', {text}'}"
    with changing(store, number, at) as change:
        log_id = change.log("note", f"Power good {text}")
        change.append(POWER_GOODS, log_id, PowerGoodRow(seconds, volt))


def _level(text: str) -> float:
    with at_field("volts"):
        volt = read(text, Unit.VOLT, allow_words=False).value
    if not -0.5 <= volt <= _MOST_LEVEL_V:
        raise InputError("A power-good line has 0 to 15 V: check the leads.", field="volts")
    return volt


def _after_s(text: str) -> float:
    """A time in milliseconds where no unit is said; raises InputError."""
    clean = text.strip()
    if clean.replace(".", "").replace(",", "").isdecimal():
        clean += "ms"
    match = re.fullmatch(r"(\d+(?:[.,]\d+)?)\s*(ms|s)", clean)
    if match is None:
        raise InputError("Write it like 240 ms, or say that it stays low.", field="after")
    seconds = float(match[1].replace(",", ".")) * (1e-3 if match[2] == "ms" else 1.0)
    if seconds > _LONGEST_S:
        raise InputError("That is not a power-good delay: a minute at most.", field="after")
    return seconds


def move_rail(store: Store, number: str, key: str, way: str, at: str | None = None) -> None:
    """Move a rail one place `up` or `down` in the list; at its end it stays."""
    step = _STEPS.get(way)
    if step is None:
        raise InputError("A rail moves up or down.")
    with changing(store, number, at) as change:
        rails = list(change.file.sheet.rails)
        place = rails.index(_rail(change.file.sheet, key))
        to = place + step
        if not 0 <= to < len(rails):
            raise InputError(f"{key} is {'first' if step < 0 else 'last'} already.")
        rails[place], rails[to] = rails[to], rails[place]
        sheets.order_rails(change.connection, change.file.case.sheet_id, new_version(change), rails)
        change.log("sheet", f"Rails in the order {', '.join(rail.key for rail in rails)}")


def remove_rail(store: Store, number: str, key: str, at: str | None = None) -> None:
    """Take off a rail that the unit has not, with its line; raises InputError once it was read."""
    with changing(store, number, at) as change:
        sheet, rows = change.file.sheet, change.file.rows
        rail = _rail(sheet, key)
        if rows.of_rail.get(key):
            raise InputError(f"{key} was read, so it is on the unit: strike its readings first.")
        version = new_version(change)
        for part in sheet.on_line(key):
            take_off(change, part, version)
        sheets.remove_rail(change.connection, change.file.case.sheet_id, version, rail)
        for joint in sheet.parts:
            if key in joint.rails:
                left = JointMarking(tuple(name for name in joint.rails if name != key))
                marked = replace(joint, marking=left)
                sheets.mark_part(change.connection, joint.id, version, marked)
        change.log("sheet", f"{key} taken off with its line, it is not on the unit")
