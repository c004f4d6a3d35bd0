"""Cases and sheets from files: a case opened, a sheet taken into one, a pattern kept."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

from msgspec.structs import replace

from hale_rail import clock
from hale_rail.actions.change import changing
from hale_rail.actions.intake.cases import checked_number, open_with
from hale_rail.actions.intake.sheets import add_pattern, new_version
from hale_rail.case.file import open_case
from hale_rail.case.workshop.workshop import workshop
from hale_rail.core.errors import at_field
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import Rail, Sheet
from hale_rail.errors import InputError
from hale_rail.formats.units.unit_json import read_unit
from hale_rail.store import sheets
from hale_rail.store.cases import Fields
from hale_rail.store.database import Store


def open_from_file(store: Store, number: str, unit: str, machine: str, symptom: str) -> str:
    """Open a case with the sheet of a UNIT.json's text; returns its number.

    Raises InputError for a file that is not one, or a number that is taken.
    """
    sheet = _sheet(unit)
    usual = workshop(store)
    wanted = Fields(
        machine.strip() or sheet.name, symptom.strip() or "from a file", "", usual.school.code,
        usual.tolerance.value, None,
    )  # fmt: skip
    checked = checked_number(number)
    open_with(store, checked, wanted, sheet, clock.now())
    return checked


def _sheet(unit: str, known: Sequence[Rail] = ()) -> Sheet:
    with at_field("unit"):
        return read_unit(unit, known)


def take_sheet(store: Store, number: str, unit: str) -> int:
    """Take a UNIT.json's parts and rails into a case's sheet; returns how many parts are new.

    Parts are found by designator, the second of a name by its place; what the file has not stays.
    Raises InputError for a file of another topology or with another kind of part by a name.
    """
    before = open_case(store, number).sheet
    sheet = _sheet(unit, before.rails)
    with changing(store, number) as change:
        own = change.file.sheet
        if own is not before:  # another tab changed it meanwhile
            sheet = _sheet(unit, own.rails)
        if sheet.topology is not own.topology:
            raise InputError(
                f"That file is of a {sheet.topology.words} supply, this unit's is "
                f"{own.topology.words}: open a case from it.",
                field="unit",
            )
        marked, new = _matched(own, sheet)
        version = new_version(change)
        sheets.put_rails(change.connection, change.file.case.sheet_id, version, sheet.rails)
        for part in marked:
            sheets.mark_part(change.connection, part.id, version, part)
        sheets.add_parts(change.connection, change.file.case.sheet_id, version, new)
        names = ", ".join(p.ref for p in new) or "none"
        change.log("sheet", f"From a file: {len(marked)} parts marked, new ones: {names}")
    return len(new)


def _matched(own: Sheet, other: Sheet) -> tuple[list[Part], list[Part]]:
    """The other sheet's parts that this one has, by its ids, and those that are new."""
    alike: dict[str, list[Part]] = defaultdict(list)
    for part in own.in_power_order:
        alike[part.ref.upper()].append(part)
    marked, new = [], []
    for part in other.in_power_order:
        known = alike[part.ref.upper()]
        if not known:
            new.append(part)
            continue
        old = known.pop(0)
        if old.kind is not part.kind:
            text = f"{part.ref} is a {part.kind.name} there and a {old.kind.name} here."
            raise InputError(text, field="unit")
        marked.append(replace(part, id=old.id, uid=old.uid))
    return marked, new


def pattern_from_file(store: Store, unit: str) -> int:
    """Keep the sheet of a UNIT.json as a pattern; raises InputError for a name that is taken."""
    return add_pattern(store, _sheet(unit), clock.now())
