"""Work on a case's sheet: lists added, parts corrected and taken off, patterns kept.

Each is a new version of the sheet; what was marked before is kept.
"""

from __future__ import annotations

from msgspec.structs import replace

from hale_rail.actions.change import Change, changing
from hale_rail.actions.intake.cases import checked_year
from hale_rail.actions.places.places import keep_names
from hale_rail.case.file import open_case
from hale_rail.case.history import case_photos
from hale_rail.core.parts.looks import SOUND
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import Sheet, Topology
from hale_rail.core.supply.templates import template
from hale_rail.errors import ConflictError, InputError, NotFoundError
from hale_rail.formats.units.part_words import speaks_role, write_part
from hale_rail.formats.units.parts_text import read_marking
from hale_rail.formats.units.pasted_parts import Preview, beside, joined
from hale_rail.store import boards, cases, places, sheets, unit_types
from hale_rail.store.cases import Fields
from hale_rail.store.database import Store
from hale_rail.store.decisions import PART_DECISIONS
from hale_rail.store.looks import LOOKS

_LONGEST_NAME = 60
#: what a unit was opened for, as the sheet keeps it and as one says it
PURPOSES = {"": "", "repair": "a repair", "preventive": "preventive work on a unit that runs"}


def add_parts(store: Store, number: str, text: str, at: str | None = None) -> Preview:
    """Add a pasted list to an open case's sheet; known designators are added beside, not changed.

    A pasted list never rewrites a part of a running case: `correct_part` does, one at a time.
    """
    before = open_case(store, number).sheet
    preview = beside(before, text)
    with changing(store, number, at) as change:
        sheet = change.file.sheet
        if sheet is not before:  # another tab changed it meanwhile
            preview = beside(sheet, text)
        append_parts(change, preview)
    return preview


def append_parts(change: Change, preview: Preview) -> list[int]:
    """Put a list that was understood on the sheet; returns the new parts' ids."""
    version, sheet_id = new_version(change), change.file.case.sheet_id
    sheets.put_rails(change.connection, sheet_id, version, preview.rails)
    for joint in joined(change.file.sheet, preview.rails):
        sheets.mark_part(change.connection, joint.id, version, joint)
    ids = sheets.add_parts(change.connection, sheet_id, version, preview.parts)
    keep_names(change)
    names = [*(rail.key for rail in preview.rails), *(p.ref for p in preview.parts)]
    change.log("parts", f"Added to the sheet: {', '.join(names) or 'none'}")
    for line in preview.problems:
        change.log("left-out", f"{line.text} ({line.problem})")
    return ids


def new_version(change: Change) -> int:
    """Begin the next version of the case's sheet; returns its number."""
    return sheets.new_version(change.connection, change.file.case.sheet_id, change.at)


def describe_unit(
    store: Store, number: str, year: str, purpose: str, *, is_self_loaded: bool
) -> None:
    """Say when the unit was made, what it was opened for, and whether it is its own load.

    A version of the sheet of its own, since parts without a year are judged by the unit's. Raises
    InputError naming the field.
    """
    made = checked_year(year)
    if purpose not in PURPOSES:
        raise InputError("Choose repair or preventive.", field="purpose")
    with changing(store, number) as change:
        new_version(change)
        sheet_id = change.file.case.sheet_id
        sheets.describe(change.connection, sheet_id, made, purpose, alone=is_self_loaded)
        words = [f"made {made}" if made else "year unknown", PURPOSES[purpose]]
        words += ["supply and board are one"] if is_self_loaded else []
        change.log("edited", f"Unit: {', '.join(word for word in words if word)}")


def correct_part(
    store: Store, number: str, part_id: int, was: str, text: str, at: str | None = None
) -> None:
    """Correct a part's marking, as one would write it in notes; its readings are judged again.

    `was` is the marking the page showed: ConflictError when another tab changed it since. Raises
    InputError for what cannot be understood.
    """
    with changing(store, number, at) as change:
        sheet = change.file.sheet
        old = _correctable(sheet, part_id)
        before = write_part(old)
        if before != was.strip():
            raise ConflictError(f"Another tab corrected {old.ref} first, to {before}. Look again.")
        new = _corrected(sheet, old, read_marking(old, text, sheet.rails))
        sheets.mark_part(change.connection, old.id, new_version(change), new)
        keep_names(change)
        change.log("sheet", f"{old.ref} corrected: {before} is {write_part(new)}")


def _correctable(sheet: Sheet, part_id: int) -> Part:
    """The part that can be corrected; raises NotFoundError."""
    part = sheet.part(part_id)
    if part is None or not part.kind.is_measured:
        raise NotFoundError("There is no such part on this unit.")
    return part


def _corrected(sheet: Sheet, old: Part, new: Part) -> Part:
    """The old part marked as the new one; on another line it is behind the others."""
    order = old.order
    if new.line != old.line:
        order = max((p.order for p in sheet.on_line(new.line)), default=0) + 10
    return replace(
        new,
        id=old.id,
        uid=old.uid,
        order=order,
        role=new.role if new.role or speaks_role(old.role) else old.role,
        board=old.board,
        note=old.note,
    )


def remove_part(store: Store, number: str, part_id: int, at: str | None = None) -> None:
    """Take off a part that the unit has not; raises InputError once it was worked on."""
    with changing(store, number, at) as change:
        old = _correctable(change.file.sheet, part_id)
        take_off(change, old, new_version(change))
        keep_names(change)
        change.log("sheet", f"{old.ref} taken off, it is not on the unit: {write_part(old)}")


def take_off(change: Change, part: Part, version: int) -> None:
    """Take a part off; raises InputError while anything was recorded of it."""
    rows = change.file.rows
    was_read = part.id in rows.ever
    look = rows.newest(LOOKS).get(part.id)
    was_seen = bool(look and set(look.codes) - {SOUND}) or part.id in rows.newest(PART_DECISIONS)
    if was_read or was_seen or any(p.part_id == part.id for p in case_photos(change.file)):
        raise InputError(
            f"{part.ref} has readings, findings, photos or a decision, so it is on the unit: leave "
            "it out by decision."
        )
    sheets.mark_part(change.connection, part.id, version, part, is_removed=True)


def keep_pattern(store: Store, number: str, name: str, at: str | None = None) -> None:
    """Keep a case's sheet as a pattern, so that the next unit of its kind starts from it.

    The name becomes a type of unit, and this case is of it. Raises InputError for a name that is
    empty, too long or taken.
    """
    clean = " ".join(name.split())
    if not 0 < len(clean) <= _LONGEST_NAME:
        raise InputError(f"Name the pattern, in at most {_LONGEST_NAME} characters.", field="name")
    if clean.lower() in {template(t).name.lower() for t in Topology}:
        raise InputError(f"There is a pattern {clean} already. Choose another name.", field="name")
    with changing(store, number, at) as change:
        case = change.file.case
        type_id = unit_types.insert(change.connection, clean)
        sheet = replace(change.file.sheet, name=clean)
        sheets.insert(change.connection, sheet, change.at, is_pattern=True, unit_type_id=type_id)
        new_version(change)
        sheets.put_type(change.connection, case.sheet_id, type_id, clean)
        fields = replace(Fields.of(case), unit_type_id=type_id)
        cases.update(change.connection, case, fields)
        boards.give_type(change.connection, case.id, type_id)
        places.give_type(change.connection, case.id, type_id)
        change.log("pattern", f"Sheet kept as {clean}")


def add_pattern(store: Store, sheet: Sheet, at: str) -> int:
    """Keep a sheet that is of no case as a pattern and a type of unit; returns the pattern's id."""
    with store.write() as connection:
        type_id = unit_types.insert(connection, sheet.name)
        return sheets.insert(connection, sheet, at, is_pattern=True, unit_type_id=type_id)
