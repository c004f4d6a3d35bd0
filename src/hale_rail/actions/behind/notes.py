"""Notes of the hunt: the machine's symptom, what a chip is, memory's table."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.actions.change import Change, changing
from hale_rail.actions.intake.sheets import new_version
from hale_rail.case.behind.chips import chip_by_id
from hale_rail.core.behind.pins import (
    CHIP_ROLES,
    HIGH,
    LEVELS,
    LOW,
    PinUse,
    read_pins,
    write_pins,
)
from hale_rail.core.behind.symptoms import SYMPTOMS
from hale_rail.core.errors import at_field
from hale_rail.core.parts.kinds import chips as kinds
from hale_rail.core.parts.markings import ChipMarking
from hale_rail.core.parts.part import Part
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.readings.machine_lists import read_layout
from hale_rail.formats.units.chip_words import bits_of
from hale_rail.store import sheets
from hale_rail.store.database import Store
from hale_rail.store.hunt_notes import HUNT_NOTES, SYMPTOM, HuntNote
from hale_rail.store.machine_notes import MACHINE_NOTES, MachineNote

_MOST_TEXT, _SHORT, _MOST_PACKAGE = 40_000, 24, 400


def say_symptom(store: Store, number: str, code: str, at: str | None = None) -> None:
    """Say what the machine shows, or take it back; what was said last leads the hunt."""
    symptom = SYMPTOMS.get(code)
    if symptom is None:
        raise InputError("That is not one of the machine's symptoms.")
    with changing(store, number, at) as change:
        known = change.file.rows.newest(HUNT_NOTES).get((SYMPTOM, code))
        is_said = known is not None and known.body is not None
        words = "taken back" if is_said else "the machine shows it"
        log_id = change.log("edited", f"Symptom of the machine, {symptom.words}: {words}")
        change.append(HUNT_NOTES, log_id, HuntNote(SYMPTOM, code, None if is_said else {}))


class ChipWords(Struct, frozen=True):
    """What a person says of a chip, as it is typed."""

    role: str
    active: str = ""
    bank: str = ""
    bits: str = ""
    rails: tuple[str, ...] = ()
    pins: str = ""


def correct_chip(
    store: Store, number: str, part_id: int, words: ChipWords, at: str | None = None
) -> None:
    """Correct what a chip is: its role, the level of its control pins, its rails, its pins.

    Raises InputError naming the field, NotFoundError for no such chip.
    """
    with changing(store, number, at) as change:
        part = _chip(change, part_id)
        marking = _marking(change, part, words)
        new = replace(part, role=words.role, bank=words.bank.strip(), marking=marking)
        sheets.mark_part(change.connection, part.id, new_version(change), new)
        role = CHIP_ROLES[words.role].words if words.role else "chip"
        change.log("sheet", f"{part.ref} corrected: {role}")


def say_level(store: Store, number: str, part_id: int, active: str, at: str | None = None) -> None:
    """Say at which level a chip's reset, interrupt and hold are on."""
    if active not in (LOW, HIGH):
        raise InputError("Low or high.", field="active")
    with changing(store, number, at) as change:
        part = _chip(change, part_id)
        known = part.chip or ChipMarking()
        pins = tuple(
            replace(pin, active=active)
            if pin.use in LEVELS and pin.use is not PinUse.READY
            else pin
            for pin in known.pins
        )
        new = replace(part, marking=replace(known, active=active, pins=pins))
        sheets.mark_part(change.connection, part.id, new_version(change), new)
        change.log("sheet", f"{part.ref}: reset, interrupt and hold are on at {active}")


def _chip(change: Change, part_id: int) -> Part:
    part = change.file.sheet.part(part_id)
    if part is None or part.kind is not kinds.CHIP:
        raise NotFoundError("There is no such chip on this unit.")
    return part


def _marking(change: Change, part: Part, words: ChipWords) -> ChipMarking:
    if words.role and words.role not in CHIP_ROLES:
        raise InputError("Choose what the chip does.", field="role")
    if words.active not in ("", LOW, HIGH):
        raise InputError("Low or high, or not known.", field="active")
    if len(words.bank.strip()) > _SHORT:
        raise InputError(f"At most {_SHORT} characters.", field="bank")
    keys = [rail.key for rail in change.file.sheet.rails]
    if any(key not in keys for key in words.rails):
        raise NotFoundError("There is no such rail on this unit.")
    with at_field("bits"):
        bits = bits_of(words.bits.strip()) if words.bits.strip() else ()
    with at_field("pins"):
        pins = read_pins(words.pins, keys)
    known = chip_by_id(change.file).get(part.id)
    is_usual = known is not None and write_pins(pins) == write_pins(known.pins)
    own = part.chip.pins if part.chip else ()
    package = part.chip.package if part.chip else None
    return ChipMarking(package, words.rails, bits, words.active, own if is_usual else pins)


def keep_layout(store: Store, number: str, table: str, at: str | None = None) -> None:
    """Keep the table of a memory's chips by bank and bit; "" takes it back."""
    if len(table) > _MOST_TEXT:
        raise InputError("The table is far too long.", field="table")
    with at_field("table"):
        count = len(read_layout(table)) if table.strip() else 0
    with changing(store, number, at) as change:
        log_id = change.log("edited", f"Memory's table: {count} chips")
        body = {"table": table} if count else None
        change.append(MACHINE_NOTES, log_id, MachineNote("layout", "", body))
