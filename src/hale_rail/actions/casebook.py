"""Opening, editing, finding and closing cases."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from hale_rail.actions import clock
from hale_rail.actions.next_step import changing, refresh_summary
from hale_rail.actions.sheetwork import preview, with_parts
from hale_rail.core.parts.age import AgeRisk, Use, age_risk
from hale_rail.core.rails.judge import Tolerance
from hale_rail.core.recap.demand import School
from hale_rail.core.supply.sheet import Sheet, Station, Topology
from hale_rail.core.supply.templates import template
from hale_rail.errors import InputError, NotFoundError
from hale_rail.store import cases, log, settings, sheets
from hale_rail.store.cases import Case
from hale_rail.store.database import Store

PAGE = 25
_NUMBER = re.compile(r"[A-Za-z0-9][A-Za-z0-9._-]{0,19}")
_LONGEST = 2000


@dataclass(frozen=True)
class NewCase:
    """A case as typed; `start` is `pattern:ID` or `template:TOPOLOGY`."""

    number: str
    machine: str
    symptom: str
    before: str
    start: str
    parts: str
    school: str
    tolerance: str


@dataclass(frozen=True)
class BenchLine:
    """A case on the bench page."""

    number: str
    machine: str
    symptom: str
    stage: str
    energy: str
    next_text: str
    next_view: str
    next_point: str
    updated_at: str


def bench(
    store: Store, query: str, *, is_open: bool = True, page: int = 1
) -> tuple[list[BenchLine], int]:
    """Cases that match every word of the query, newest action first, and how many there are."""
    rows, total = cases.search(
        store.read(), query.split()[:8], is_open=is_open, limit=PAGE, offset=PAGE * (page - 1)
    )
    lines = []
    for row in rows:
        view, _, point = row["next_view"].partition("\n")
        lines.append(
            BenchLine(row["number"], row["machine"], row["symptom"], row["stage"], row["energy"],
                      row["next_text"], view, point, row["updated_at"])
        )  # fmt: skip
    return lines, total


def suggest_number(store: Store) -> str:
    """The next free number in the manner of the newest ones."""
    taken = cases.numbers(store.read())
    counts = [int(m[1]) for n in taken if (m := re.search(r"(\d+)$", n))]
    prefix = re.sub(r"\d+$", "", taken[-1]) if taken else "HR-"
    return f"{prefix or 'HR-'}{max(counts, default=0) + 1:03d}"


def starting_sheet(store: Store, start: str) -> Sheet:
    """The sheet a new case begins with; raises InputError."""
    kind, _, name = start.partition(":")
    if kind == "template" and name in [t.value for t in Topology]:
        return template(Topology(name))
    if kind == "pattern" and name.isdecimal():
        try:
            return sheets.load(store.read(), int(name))
        except NotFoundError as error:
            raise InputError("That pattern is gone; choose another.") from error
    raise InputError("Choose a pattern or a topology to start from.")


def open_new(store: Store, typed: NewCase, at: str | None = None) -> str:
    """Open a case; returns its number. Raises InputError naming the field (`field: text`)."""
    _check(typed)
    sheet = starting_sheet(store, typed.start)
    found = preview(sheet, typed.parts)
    moment = at or clock.now()
    with store.write() as connection:
        sheet_id = sheets.insert(connection, with_parts(sheet, found))
        case_id = cases.insert(
            connection,
            number=typed.number.strip(),
            machine=typed.machine.strip(),
            symptom=typed.symptom.strip(),
            before=typed.before.strip(),
            sheet_id=sheet_id,
            school=typed.school,
            tolerance=typed.tolerance,
            opened_at=moment,
        )
        log.append(connection, case_id, moment, "opened", f"Started from {sheet.name}")
        for line in found.problems:
            text = f"Line {line.number} of the parts list left out: {line.text} ({line.problem})"
            log.append(connection, case_id, moment, "left out", text)
        refresh_summary(connection, cases.by_number(connection, typed.number.strip()))
    return typed.number.strip()


def check_fields(typed: NewCase) -> dict[str, str]:
    """What is wrong with the typed fields, by field name."""
    wrong = {}
    if not _NUMBER.fullmatch(typed.number.strip()):
        wrong["number"] = "Letters, digits, dot and dash, at most 20, such as LW-040."
    for name, what in (("machine", "Name the machine."), ("symptom", "Say what it does wrong.")):
        if not getattr(typed, name).strip():
            wrong[name] = what
    for name in ("machine", "symptom", "before"):
        if len(getattr(typed, name)) > _LONGEST:
            wrong[name] = f"At most {_LONGEST} letters."
    if typed.school not in [school.value for school in School]:
        wrong["school"] = "Choose a school."
    if typed.tolerance not in [tolerance.value for tolerance in Tolerance]:
        wrong["tolerance"] = "Choose strict or lenient."
    return wrong


def _check(typed: NewCase) -> None:
    wrong = check_fields(typed)
    if wrong:
        raise InputError(next(iter(wrong.values())))


def edit(
    store: Store,
    number: str,
    version: int,
    *,
    machine: str | None = None,
    symptom: str | None = None,
    before: str | None = None,
    school: str | None = None,
    tolerance: str | None = None,
    is_closed: bool | None = None,
    at: str | None = None,
) -> None:
    """Change what is given of a case; raises ConflictError when another tab saved first."""
    moment = at or clock.now()
    with changing(store, number) as (connection, case):
        typed = NewCase(
            case.number, machine if machine is not None else case.machine,
            symptom if symptom is not None else case.symptom,
            before if before is not None else case.before, "", "",
            school or case.school, tolerance or case.tolerance,
        )  # fmt: skip
        _check(typed)
        closed_at = case.closed_at
        if is_closed is not None:
            closed_at = moment if is_closed else None
        changed = _changes(case, typed, closed_at)
        cases.update(
            connection,
            replace(case, version=version),
            machine=typed.machine.strip(),
            symptom=typed.symptom.strip(),
            before=typed.before.strip(),
            school=typed.school,
            tolerance=typed.tolerance,
            closed_at=closed_at,
        )
        log.append(connection, case.id, moment, "edited", ", ".join(changed) or "no change")


def _changes(case: Case, typed: NewCase, closed_at: str | None) -> Sequence[str]:
    changed = [
        f"{name}: {getattr(typed, name).strip()}"
        for name in ("machine", "symptom", "before", "school", "tolerance")
        if getattr(case, name) != getattr(typed, name).strip()
    ]
    if (case.closed_at is None) != (closed_at is None):
        changed.append("handed back" if closed_at else "opened again")
    return changed


def workshop(store: Store) -> dict[str, str]:
    """The workshop's settings, with defaults."""
    found = {"touch_limit_v": "60", "school": School.PROVEN.value, "resistors": "",
             "tolerance": Tolerance.STRICT.value, "hours_a_day": "4", "core_c": "45",
             "meters": "", "meter": ""}  # fmt: skip
    return {**found, **settings.all_of(store.read())}


def age_of(store: Store, station: Station) -> AgeRisk | None:
    """The age risk of a wet capacitor of known year, run as the workshop says; else None."""
    if station.family is None or not station.family.is_wet or not station.year:
        return None
    found = workshop(store)
    use = Use(float(found["hours_a_day"]), float(found["core_c"]))
    return age_risk(clock.this_year() - station.year, use)


def save_workshop(store: Store, values: dict[str, str]) -> None:
    """Save settings that the caller has checked."""
    with store.write() as connection:
        for key, value in values.items():
            settings.put(connection, key, value)


@dataclass(frozen=True)
class Pattern:
    """A unit sheet a case can start from."""

    id: int
    name: str
    topology: str
    stations: int


def patterns(store: Store) -> list[Pattern]:
    return [Pattern(**dict(row)) for row in sheets.patterns(store.read())]
