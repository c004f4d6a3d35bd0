"""A case's rows, read once; after a change only what was added is read.

Everything but the case's own fields is appended, so rows that were read stay true: a later state is
the earlier one and the rows with higher ids.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from msgspec import Struct, field
from msgspec.structs import replace

from hale_rail.core.parts.banks import Meter
from hale_rail.core.parts.decisions import Decision
from hale_rail.core.procedures import Procedure
from hale_rail.core.supply.sheet import Sheet
from hale_rail.store import (
    board_marks,
    boards,
    decisions,
    ground_records,
    log,
    looks,
    machine_notes,
    power_events,
    power_steps,
    practice,
    readings,
    rework,
    sheets,
    soaks,
    statements,
    unit_types,
    waves,
)
from hale_rail.store import workshop as workshop_rows
from hale_rail.store.board_marks import ProvenMark
from hale_rail.store.boards import StoredDrawing
from hale_rail.store.cases import Case
from hale_rail.store.ground_records import GroundRecord
from hale_rail.store.looks import VisualInspection
from hale_rail.store.machine_notes import MachineNote
from hale_rail.store.power_events import PowerEvent
from hale_rail.store.power_steps import PowerGoodRow, PowerStep
from hale_rail.store.practice import PracticeAct, Practised
from hale_rail.store.readings import Reading, Strike
from hale_rail.store.rework import Note, ReworkStep
from hale_rail.store.soaks import SoakRow
from hale_rail.store.statements import Statement
from hale_rail.store.waves import WaveRow

#: why a reading is put aside when a later one took its place
SUPERSEDED = "superseded"


class Newest(Struct, frozen=True):
    """The highest id that was read of each table.

    `but_readings`: of the log when more than a lone reading came last; how it was read, not what.
    """

    log: int = 0
    but_readings: int = 0
    reading: int = 0
    strike: int = 0
    look: int = 0
    event: int = 0
    decision: int = 0
    statement: int = 0
    mark: int = 0
    note: int = 0
    step: int = 0
    wave: int = 0
    wave_setting: int = 0
    power_step: int = 0
    choice: int = 0
    good: int = 0
    machine_note: int = 0
    soak_row: int = 0
    act: int = 0


class Rows(Struct, frozen=True):
    """What a case holds.

    `readings` by id, put aside or not; `aside` why, by reading id; `taken` by what procedures;
    `ever` all of a part or rail by its id or key, `of_part` and `of_rail` the standing ones, oldest
    first; `standing` the newest at each point, by the point's key; `looks`, `decisions` and `marks`
    the newest of each part and board; `maps` and `trees` as they are drawn, by rail; `notes` the
    newest of the recap by part's id, or board's name; `steps` of the rework that stand; `waves`
    every record, `wave_settings` what is said of each, by its id; `power_steps` and `power_choice`
    of first power; `power_good` the newest; `notes_said` all of the end of the work and `said`
    those that stand, by kind and key; `soak_rows` those that were not put aside; `practised` which
    unit a case of practice is, `acts` what was done in it.
    """

    case: Case
    sheet: Sheet
    sheet_version: int
    records: tuple[GroundRecord, ...] = ()
    records_state: tuple[int | None, int] = (None, -1)
    readings: Mapping[int, Reading] = field(default_factory=dict)
    aside: Mapping[int, str] = field(default_factory=dict)
    taken: frozenset[Procedure] = frozenset()
    ever: Mapping[int | str, tuple[Reading, ...]] = field(default_factory=dict)
    of_part: dict[int, tuple[Reading, ...]] = field(default_factory=dict)
    of_rail: dict[str, tuple[Reading, ...]] = field(default_factory=dict)
    standing: Mapping[str, Reading] = field(default_factory=dict)
    looks: Mapping[int, VisualInspection] = field(default_factory=dict)
    events: tuple[PowerEvent, ...] = ()
    decisions: Mapping[int, Decision] = field(default_factory=dict)
    statements: tuple[Statement, ...] = ()
    marks: Mapping[str, ProvenMark] = field(default_factory=dict)
    meters: Mapping[int, Meter] = field(default_factory=dict)
    maps: Mapping[str, StoredDrawing] = field(default_factory=dict)
    trees: Mapping[str, StoredDrawing] = field(default_factory=dict)
    notes: Mapping[int | str, Note] = field(default_factory=dict)
    all_steps: tuple[ReworkStep, ...] = ()
    steps: tuple[ReworkStep, ...] = ()
    waves: tuple[WaveRow, ...] = ()
    wave_settings: Mapping[int, Mapping[str, Any]] = field(default_factory=dict)
    power_steps: tuple[PowerStep, ...] = ()
    power_choice: Mapping[str, Any] = field(default_factory=dict)
    power_good: PowerGoodRow | None = None
    notes_said: tuple[MachineNote, ...] = ()
    said: Mapping[tuple[str, str], MachineNote] = field(default_factory=dict)
    all_soak_rows: tuple[SoakRow, ...] = ()
    soak_rows: tuple[SoakRow, ...] = ()
    practised: Practised | None = None
    acts: tuple[PracticeAct, ...] = ()
    newest: Newest = Newest()


def read_rows(connection: sqlite3.Connection, case: Case, known: Rows | None = None) -> Rows:
    """The case's rows; with `known`, an earlier state of them, only what was added is read."""
    version = sheets.latest_version(connection, case.sheet_id)
    if known is None:
        unit = practice.of_case(connection, case.id)
        sheet = sheets.load(connection, case.sheet_id)
        known = Rows(case, sheet, version, practised=unit)
    elif known.sheet_version != version:
        known = replace(known, sheet=sheets.load(connection, case.sheet_id), sheet_version=version)
    before = known
    known = _with_records(connection, replace(known, case=case), case)
    known, entries = _with_log(connection, _with_readings(connection, known, case.id), case.id)
    if _is_one_reading(before, known, entries):
        return _with_practice(connection, known, case.id)
    known = replace(known, newest=replace(known.newest, but_readings=known.newest.log))
    known = _with_power(connection, _with_the_rest(connection, known, case.id), case.id)
    return _with_practice(connection, _with_machine(connection, known, case.id), case.id)


def _with_log(
    connection: sqlite3.Connection, known: Rows, case_id: int
) -> tuple[Rows, Sequence[int]]:
    """How far the log was read, and the ids of the entries that came since."""
    entries = log.ids_after(connection, case_id, known.newest.log)
    last = entries[-1] if entries else known.newest.log
    return replace(known, newest=replace(known.newest, log=last)), entries


def _is_one_reading(before: Rows, now: Rows, entries: Sequence[int]) -> bool:
    """True where one thing was done since, and that was a reading: no other table has new rows."""
    return (
        now.case.revision == before.case.revision + 1
        and now.records_state == before.records_state
        and now.sheet_version == before.sheet_version
        and len(entries) == 1
        and len(now.readings) == len(before.readings) + 1
        and now.readings[now.newest.reading].log_id == entries[0]
    )


def _with_records(connection: sqlite3.Connection, known: Rows, case: Case) -> Rows:
    """Records of like units, read again when their type has new ones or the case another type."""
    state = records_state(connection, case)
    if state == known.records_state:
        return known
    records = ground_records.of_type(connection, case.unit_type_id, case.id)
    return replace(known, records=tuple(records), records_state=state)


def records_state(connection: sqlite3.Connection, case: Case) -> tuple[int | None, int]:
    """The case's type of unit, and how often records or maps of it changed."""
    type_id = case.unit_type_id
    return type_id, unit_types.revision(connection, type_id) if type_id is not None else 0


def _with_readings(connection: sqlite3.Connection, known: Rows, case_id: int) -> Rows:
    added = readings.of_case(connection, case_id, known.newest.reading)
    struck = readings.strikes(connection, case_id, known.newest.strike)
    if not added and not struck:
        return known
    by_id = {**known.readings, **{r.id: r for r in added}}
    aside = {**known.aside, **_put_aside(added, struck)}
    touched = [*added, *(by_id[i] for i in aside.keys() - known.aside.keys())]
    ever = _ever(known.ever, added)
    anew = {
        whose: tuple(r for r in ever[whose] if r.id not in aside)
        for whose in {_whose(r) for r in touched}
        if whose is not None
    }
    last = known.newest
    meters = known.meters
    if any(r.meter_id is not None and r.meter_id not in meters for r in added):
        meters = workshop_rows.meters(connection, listed=False)
    return replace(
        known,
        readings=by_id,
        aside=aside,
        taken=known.taken | {r.procedure for r in added},
        ever=ever,
        of_part=known.of_part | {i: own for i, own in anew.items() if isinstance(i, int)},
        of_rail=known.of_rail | {key: own for key, own in anew.items() if isinstance(key, str)},
        standing=_standing(known.standing, by_id, touched, aside),
        meters=meters,
        newest=replace(
            last,
            reading=added[-1].id if added else last.reading,
            strike=struck[-1].id if struck else last.strike,
        ),
    )


def _put_aside(added: Iterable[Reading], struck: Iterable[Strike]) -> dict[int, str]:
    aside = {r.supersedes: SUPERSEDED for r in added if r.supersedes is not None}
    return aside | {s.reading_id: s.reason for s in struck}


def _whose(reading: Reading) -> int | str | None:
    """What it is a reading of: a part by its id, a rail by its key, None for anything else."""
    return reading.target.part_id or reading.target.rail or None


def _ever(
    known: Mapping[int | str, tuple[Reading, ...]], added: Iterable[Reading]
) -> dict[int | str, tuple[Reading, ...]]:
    """All readings by what they are of, oldest first."""
    more: dict[int | str, list[Reading]] = {}
    for reading in added:
        whose = _whose(reading)
        if whose is not None:
            more.setdefault(whose, []).append(reading)
    return {**known, **{whose: (*known.get(whose, ()), *own) for whose, own in more.items()}}


def _standing(
    known: Mapping[str, Reading],
    by_id: Mapping[int, Reading],
    touched: Sequence[Reading],
    aside: Mapping[int, str],
) -> dict[str, Reading]:
    """The newest standing reading by point; points that lost theirs look for an older one."""
    readings = dict(known)
    lost = set()
    for reading in sorted(touched, key=lambda r: r.id):
        key = reading.key
        if reading.id not in aside:
            readings[key] = reading
        elif key in readings and readings[key].id in aside:
            del readings[key]
            lost.add(key)
    for key in lost - readings.keys():
        older = [r for r in by_id.values() if r.key == key and r.id not in aside]
        if older:
            readings[key] = older[-1]
    return readings


def _with_the_rest(connection: sqlite3.Connection, known: Rows, case_id: int) -> Rows:
    last = known.newest
    seen = looks.of_case(connection, case_id, last.look)
    events = power_events.of_case(connection, case_id, last.event)
    decided = decisions.of_case(connection, case_id, last.decision)
    all_statements = statements.of_case(connection, case_id, last.statement)
    marks = board_marks.of_case(connection, case_id, last.mark)
    notes = rework.notes_of(connection, case_id, last.note)
    steps = (*known.all_steps, *rework.steps_of(connection, case_id, last.step))
    struck = rework.struck_steps(connection, case_id) if steps else frozenset()
    return replace(
        known,
        looks={**known.looks, **{look.part_id: look for look in seen}} if seen else known.looks,
        events=(*known.events, *events),
        decisions=(
            {**known.decisions, **{d.part_id: d.decision for d in decided}}
            if decided
            else known.decisions
        ),
        statements=(*known.statements, *all_statements),
        marks={**known.marks, **{mark.board: mark for mark in marks}},
        maps=boards.maps_of(connection, case_id, known.case.unit_type_id),
        trees=boards.trees_of(connection, case_id),
        notes={**known.notes, **{_of_whom(note): note for note in notes}},
        all_steps=steps,
        steps=tuple(step for step in steps if step.id not in struck),
        newest=replace(
            last,
            look=_last(seen, last.look),
            event=_last(events, last.event),
            decision=_last(decided, last.decision),
            statement=_last(all_statements, last.statement),
            mark=_last(marks, last.mark),
            note=_last(notes, last.note),
            step=_last(steps, 0),
        ),
    )


def _with_power(connection: sqlite3.Connection, known: Rows, case_id: int) -> Rows:
    """Wave records and first power."""
    last = known.newest
    recorded = waves.of_case(connection, case_id, last.wave)
    settings = waves.settings_of(connection, case_id, last.wave_setting)
    happened = power_steps.of_case(connection, case_id, last.power_step)
    chosen = power_steps.choices_of(connection, case_id, last.choice)
    good = power_steps.goods_of(connection, case_id, last.good)
    if not (recorded or settings or happened or chosen or good):
        return known
    return replace(
        known,
        waves=(*known.waves, *recorded),
        wave_settings={**known.wave_settings, **{s.record_id: s.body for s in settings}},
        power_steps=(*known.power_steps, *happened),
        power_choice=chosen[-1].body if chosen else known.power_choice,
        power_good=good[-1] if good else known.power_good,
        newest=replace(
            last,
            wave=_last(recorded, last.wave),
            wave_setting=_last(settings, last.wave_setting),
            power_step=_last(happened, last.power_step),
            choice=_last(chosen, last.choice),
            good=_last(good, last.good),
        ),
    )


def _with_machine(connection: sqlite3.Connection, known: Rows, case_id: int) -> Rows:
    """What is said of the end of the work, and the soak."""
    last = known.newest
    told = machine_notes.of_case(connection, case_id, last.machine_note)
    added = soaks.of_case(connection, case_id, last.soak_row)
    rows = (*known.all_soak_rows, *added)
    struck = soaks.struck(connection, case_id) if rows else frozenset()
    if not told and len(rows) - len(struck) == len(known.soak_rows):
        return known
    stands = dict(known.said)
    for note in told:
        stands.pop((note.kind, note.key), None)  # one said again stands behind the others
        if note.body is not None:
            stands[note.kind, note.key] = note
    return replace(
        known,
        notes_said=(*known.notes_said, *told),
        said=stands,
        all_soak_rows=rows,
        soak_rows=tuple(row for row in rows if row.id not in struck),
        newest=replace(
            last,
            machine_note=_last(told, last.machine_note),
            soak_row=_last(added, last.soak_row),
        ),
    )


def _with_practice(connection: sqlite3.Connection, known: Rows, case_id: int) -> Rows:
    """What a hand did in a case of practice."""
    if known.practised is None:
        return known
    added = practice.acts_of(connection, case_id, known.newest.act)
    newest = replace(known.newest, act=_last(added, known.newest.act))
    return replace(known, acts=(*known.acts, *added), newest=newest)


def _last(added: Sequence[Any], known: int) -> int:
    """The highest id read so far."""
    last: int = added[-1].id if added else known
    return last


def _of_whom(note: Note) -> int | str:
    return note.board if note.part_id is None else note.part_id
