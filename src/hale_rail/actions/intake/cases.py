"""Opening and editing cases."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct, field
from msgspec.structs import replace

from hale_rail import clock
from hale_rail.actions.change import changing
from hale_rail.case.file import open_case
from hale_rail.core.rails.judge import Tolerance
from hale_rail.core.recap.demand import SCHOOLS
from hale_rail.core.supply.sheet import TOPOLOGIES, Sheet
from hale_rail.core.supply.templates import template
from hale_rail.errors import ConflictError, InputError
from hale_rail.formats.knowledge import knowledge_for
from hale_rail.formats.units.pasted_parts import Take, merged, with_parts
from hale_rail.stages.frame.bench import refresh_line
from hale_rail.store import (
    boards,
    cases,
    log,
    places,
    sheets,
    unit_types,
)
from hale_rail.store.cases import Case, Fields
from hale_rail.store.database import Store
from hale_rail.store.practice import PRACTICE, Practised
from hale_rail.store.statements import STATEMENTS, Statement

_NUMBER = re.compile(r"[A-Za-z0-9][A-Za-z0-9._-]{0,19}")
#: words that are addresses beside the cases' own
_RESERVED = ("new",)
_LONGEST = 2000
#: a unit type that is the pattern's the case starts from
AS_PATTERN = "pattern"


class NewCase(Struct, frozen=True):
    """A case as typed; `start` is `pattern:ID`, `template:TOPOLOGY` or `empty:TOPOLOGY`.

    `unit_type`: `pattern` (as the pattern's), the id of a type, or "" for no known like unit;
    `takes`: what becomes of a pasted part that the start has on another line, by designator;
    `year`: when the unit was made, as typed, "" for not known; `dropped` and `lost_rails`:
    designators and rails of the start that the unit lacks.
    """

    number: str
    machine: str
    symptom: str
    before: str
    start: str
    parts: str
    school: str
    tolerance: str
    unit_type: str = AS_PATTERN
    symptoms: tuple[str, ...] = ()
    takes: Mapping[str, Take] = field(default_factory=dict)
    year: str = ""
    dropped: tuple[str, ...] = ()
    lost_rails: tuple[str, ...] = ()


class Start(Struct, frozen=True):
    """What a new case begins with: a sheet, and the type of unit its pattern is of."""

    sheet: Sheet
    unit_type_id: int | None


def starting_sheet(store: Store, start: str) -> Start:
    """The sheet a new case begins with; raises InputError."""
    kind, _, name = start.partition(":")
    if kind == "template" and name in TOPOLOGIES:
        return Start(template(TOPOLOGIES[name]), None)
    if kind == "empty" and name in TOPOLOGIES:
        return Start(Sheet("Empty sheet", TOPOLOGIES[name], (), ()), None)
    if kind == "pattern" and name.isdecimal() and len(name) < 15:
        connection = store.read()
        pattern = next((p for p in sheets.patterns(connection) if p.id == int(name)), None)
        if pattern is None:
            raise InputError("That pattern is gone; choose another.", field="start")
        return Start(sheets.load(connection, pattern.id), pattern.unit_type_id)
    raise InputError("Choose a pattern or a topology to start from.", field="start")


def open_new(store: Store, typed: NewCase, at: str | None = None) -> str:
    """Open a case; returns its number. Raises InputError naming the field."""
    number = checked_number(typed.number)
    start = starting_sheet(store, typed.start)
    wanted = Fields(
        typed.machine.strip(), typed.symptom.strip(), typed.before.strip(), typed.school,
        typed.tolerance, _unit_type(store, typed.unit_type, start),
    )  # fmt: skip
    _check(wanted)
    preview = merged(start.sheet, typed.parts, typed.takes)
    left_out = [
        f"Line {line.number} of the parts list left out: {line.text} ({line.problem})"
        for line in preview.problems
    ]
    sheet = with_parts(start.sheet, preview, typed.dropped, typed.lost_rails)
    sheet = replace(sheet, year=checked_year(typed.year) or sheet.year)
    moment = at or clock.now()
    open_with(store, number, wanted, sheet, moment, typed.symptoms, left_out, start.sheet.name)
    return number


#: years that a unit may be of
_YEARS = (1900, 2100)


def checked_year(text: str) -> int | None:
    """A unit's year as typed, None where it is not known; raises InputError."""
    plain = text.strip()
    if plain.lower() in ("", "unknown", "?"):
        return None
    if not re.fullmatch(r"[0-9]{4}", plain) or not _YEARS[0] <= int(plain) <= _YEARS[1]:
        raise InputError("Write the year, such as 1984, or unknown.", field="year")
    return int(plain)


def checked_number(text: str) -> str:
    """A case's number as typed; raises InputError for one that cannot be."""
    number = text.strip()
    if not _NUMBER.fullmatch(number):
        words = "Letters, digits, dot and dash, at most 20, such as LW-040."
        raise InputError(words, field="number")
    if number.lower() in _RESERVED:
        raise InputError(f"“{number}” cannot be a case's number: choose another.", field="number")
    return number


def open_with(
    store: Store,
    number: str,
    wanted: Fields,
    sheet: Sheet,
    at: str,
    symptoms: Sequence[str] = (),
    left_out: Sequence[str] = (),
    start: str = "a file",
    practised: Practised | None = None,
) -> None:
    """Open a case with a sheet of its own and the symptoms that were said, by code.

    `practised`: the simulated unit that it is, in a case of practice.
    """
    symptoms_given = [(code, knowledge_for(sheet.topology).symptom(code)) for code in symptoms]
    for code, symptom in symptoms_given:
        if symptom is None:
            raise InputError(f"There is no symptom “{code}”.", field="symptom")
    with store.write() as connection:
        sheet_id = sheets.insert(connection, sheet, at, unit_type_id=wanted.unit_type_id)
        case_id = cases.insert(connection, number, wanted, sheet_id, at)
        log_id = log.append(connection, case_id, at, "opened", f"Started from {start}")
        if practised:
            PRACTICE.insert(connection, case_id, log_id, practised)
        for text in left_out:
            log.append(connection, case_id, at, "left-out", text)
        for code, symptom in symptoms_given:
            name = symptom.name if symptom else code
            log_id = log.append(connection, case_id, at, "diagnosis", f"Symptom: {name}")
            STATEMENTS.insert(connection, case_id, log_id, Statement("symptom", code, "yes"))
    refresh_line(open_case(store, number))


def _unit_type(store: Store, typed: str, start: Start) -> int | None:
    """The id of the type that was chosen; raises InputError for one that is not known."""
    if typed == AS_PATTERN:
        return start.unit_type_id
    return checked_type(store, typed)


def checked_type(store: Store, typed: str) -> int | None:
    """A type's id as typed, None for ""; raises InputError for one that is not known."""
    if not typed:
        return None
    known = {str(t.id): t.id for t in unit_types.listed(store.read())}
    if typed not in known:
        raise InputError("That type of unit is not known; choose another.", field="unit_type")
    return known[typed]


def _check(wanted: Fields) -> None:
    """Raise InputError for the first field that cannot be."""
    for name, what in (("machine", "Name the machine."), ("symptom", "Say what it does wrong.")):
        if not getattr(wanted, name):
            raise InputError(what, field=name)
    for name in ("machine", "symptom", "before"):
        if len(getattr(wanted, name)) > _LONGEST:
            raise InputError(f"At most {_LONGEST} characters.", field=name)
    if wanted.school not in SCHOOLS:
        raise InputError("Choose a school.", field="school")
    if wanted.tolerance not in [tolerance.value for tolerance in Tolerance]:
        raise InputError("Choose strict or lenient.", field="tolerance")


def edit(
    store: Store,
    number: str,
    version: int,
    *,
    unit_type: str | None = None,
    at: str | None = None,
    **typed: str,
) -> None:
    """Change what is given of a case's `Fields`; raises ConflictError when another tab saved first,
    TypeError for what is none of them."""
    with changing(store, number, at) as change:
        case = change.file.case
        type_id = case.unit_type_id if unit_type is None else checked_type(store, unit_type)
        texts: dict[str, Any] = {name: text.strip() for name, text in typed.items()}
        wanted = replace(Fields.of(case), unit_type_id=type_id, **texts)
        _check(wanted)
        if version != case.version:
            raise ConflictError("Another tab saved this case first. Your text is still here.")
        cases.update(change.connection, case, wanted)
        if type_id is not None:
            boards.give_type(change.connection, case.id, type_id)
            places.give_type(change.connection, case.id, type_id)
        change.log("edited", ", ".join(_changes(case, wanted)) or "no change")


def _changes(case: Case, wanted: Fields) -> Sequence[str]:
    names = Fields.__struct_fields__
    return [
        f"{name.replace('_id', '').replace('_', ' ')}: {getattr(wanted, name) or 'none'}"
        for name in names
        if getattr(case, name) != getattr(wanted, name)
    ]
