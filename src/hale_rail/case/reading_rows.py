"""A case's readings as the rows of a file, in the order in which they were taken."""

from __future__ import annotations

from hale_rail.case.behind.rows import cells_of, is_there
from hale_rail.case.file import CaseFile
from hale_rail.case.history import entries
from hale_rail.case.name_lookup import name_of
from hale_rail.case.power.machine_behaviour import power_ons
from hale_rail.case.rows import SUPERSEDED
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.power.machine_behaviour import write_dids
from hale_rail.core.procedures import BEHIND, BREAKDOWN, VOLTS
from hale_rail.core.safety.energy import EventKind
from hale_rail.formats.readings.readings_csv import (
    EVENT,
    LOOK,
    OFF,
    POWER,
    REPLACED,
    SYMPTOM,
    TEST,
    write_accuracy,
)
from hale_rail.store.decisions import PART_DECISIONS
from hale_rail.store.hunt_notes import HUNT_NOTES
from hale_rail.store.hunt_notes import SYMPTOM as HUNT_SYMPTOM
from hale_rail.store.looks import LOOKS
from hale_rail.store.power_events import POWER_EVENTS
from hale_rail.store.readings import Reading
from hale_rail.store.statements import STATEMENTS

Row = tuple[str, str, str, str, str, str, str, str, str]


def reading_rows(case: CaseFile) -> list[Row]:
    """What was read, seen, powered and replaced, then the symptoms and tests answered by word.

    Readings that were struck out stay behind; those that a later one corrected come with it.
    """
    return [*(row for _, row in timed_rows(case)), *(row for _, row in statement_rows(case))]


def timed_rows(case: CaseFile) -> list[tuple[int, Row]]:
    """What was read, seen, powered and replaced, each with its place in the log, in order."""
    rows = case.rows
    at = {entry.id: entry.at for entry in entries(case)}
    struck = {i for i, why in rows.aside.items() if why != SUPERSEDED}
    timed = [
        (r.log_id, _reading(case, r))
        for r in rows.readings.values()
        if r.id not in struck and _is_there(case, r)
    ]
    timed += [
        (e.log_id, _power(e.kind, e.source or "", e.at))
        for e in rows.all(POWER_EVENTS)
        if e.kind in (EventKind.APPLIED.value, EventKind.REMOVED.value)
    ]
    timed += [
        (look.log_id, _of_part(case, i, LOOK, ";".join(look.codes), at[look.log_id]))
        for i, look in rows.newest(LOOKS).items()
        if look.codes and case.sheet.part(i)
    ]
    timed += [
        (d.log_id, _of_part(case, i, REPLACED, d.reason or "a new part", at[d.log_id]))
        for i, d in rows.newest(PART_DECISIONS).items()
        if d.kind is DecisionKind.FITTED and case.sheet.part(i)
    ]
    timed += [
        (on.said_id, ("", EVENT, "", write_dids(on.did), "", on.at, "", "", ""))
        for on in power_ons(case)
        if on.did
    ]
    return sorted(timed)


def statement_rows(case: CaseFile) -> list[tuple[int, Row]]:
    """Symptoms, and tests answered by word, each with its place in the log, as first said."""
    statements = {
        (s.kind, s.key): s for s in case.rows.all(STATEMENTS) if s.kind in ("symptom", "result")
    }
    statement_rows = []
    for (kind, key), s in statements.items():
        row = ("", SYMPTOM, "", key) if kind == "symptom" else (key, TEST, "", s.value)
        if s.value:
            statement_rows.append((s.log_id, (*row, "", "", "", "", "")))
    for (kind, key), note in case.rows.newest(HUNT_NOTES).items():
        if kind == HUNT_SYMPTOM and note.body is not None:
            statement_rows.append((note.log_id, ("", SYMPTOM, "", key, "", "", "", "", "")))
    return sorted(statement_rows)


def _is_there(case: CaseFile, reading: Reading) -> bool:
    """True where the sheet still has what was read."""
    target = reading.target
    if reading.procedure in BEHIND:
        return is_there(case, reading)
    return bool(case.sheet.part(target.part_id) or case.sheet.rail(target.rail))


def _power(kind: str, source: str, at: str) -> Row:
    return "", POWER, "", source if kind == EventKind.APPLIED.value else OFF, "", at, "", "", ""


def _of_part(case: CaseFile, part_id: int, procedure: str, value: str, at: str) -> Row:
    part = case.sheet.part(part_id)
    return name_of(case, part) if part else "", procedure, "", value, "", at, "", "", ""


def _reading(case: CaseFile, reading: Reading) -> Row:
    target, part = reading.target, case.sheet.part(reading.target.part_id)
    procedure = VOLTS if reading.procedure is BREAKDOWN else reading.procedure
    place = f"@{target.place.value}" if target.place.value else ""
    load = reading.figures.get("load_a")
    usual = (
        name_of(case, part) if part else target.rail,
        procedure.code,
        target.pair.code if target.pair else "",
    )
    name, code, pair = cells_of(case, reading.point) or usual
    return (
        name,
        code,
        f"{reading.condition.code}{place}",
        reading.typed,
        pair,
        reading.taken_at,
        "",
        write_accuracy(reading.accuracy),
        f"{load:g}" if load else "",
    )
