"""A case's rows, read once; after a change only what was added is read.

Everything but the case's own fields is appended, so rows that were read stay true: a later state is
the earlier one and the rows with higher ids.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from typing import Any, Generic, TypeVar

from msgspec import Struct, field
from msgspec.structs import replace

from hale_rail.core.parts.banks import Meter
from hale_rail.core.places.place import Board, Place
from hale_rail.core.procedures import Procedure
from hale_rail.core.supply.sheet import Sheet
from hale_rail.store import boards, ground_records, log, places, readings, sheets, unit_types
from hale_rail.store import workshop as workshop_rows
from hale_rail.store.append_only import AppendedRow, AppendOnly, Strike, Strikes
from hale_rail.store.board_views import LikeView, like_views
from hale_rail.store.boards import StoredDrawing
from hale_rail.store.case_tables import APPENDED
from hale_rail.store.cases import Case
from hale_rail.store.ground_records import GroundRecord
from hale_rail.store.readings import READING_STRIKES, Reading
from hale_rail.store.reports import ISSUED_REPORTS

#: why a reading is put aside when a later one took its place
SUPERSEDED = "superseded"
#: a report's body is long, and read for its own page alone; strikes are read with what they strike
_TABLES = tuple(
    table for table in APPENDED if table is not ISSUED_REPORTS and not isinstance(table, Strikes)
)


R = TypeVar("R", bound=AppendedRow)


class TableRows(Struct, Generic[R], frozen=True):
    """The rows of one table, oldest first: `all` of them, those that are `active`, not put aside.

    `newest` by what the table says, the one that was said last behind the others; `last` and
    `last_strike`: how far the table, and its strikes, were read.
    """

    all: tuple[R, ...] = ()
    active: tuple[R, ...] = ()
    newest: Mapping[Any, R] = field(default_factory=dict)
    last: int = 0
    last_strike: int = 0


_NO_ROWS: TableRows[Any] = TableRows()


class Rows(Struct, frozen=True):
    """What a case holds.

    `readings` by id, put aside or not; `aside` why, by reading id; `procedures` that were used;
    `ever` all of a part or rail by its id or key, `of_part` and `of_rail` the standing ones, oldest
    first; `standing` the newest at each point, by the point's key; `maps` and `trees` as they are
    drawn, by rail; `boards` by name in small letters, `places` by part's name in capitals,
    `like_views` photos of boards of other units of its type; `tables` the rows of every other table
    by its name. How far it was read: `last_log`, `last_reading`, `last_strike`; `but_readings` of
    the log when more than a lone reading came last.
    """

    case: Case
    sheet: Sheet
    sheet_version: int
    records: tuple[GroundRecord, ...] = ()
    records_state: tuple[int | None, int] = (None, -1)
    readings: Mapping[int, Reading] = field(default_factory=dict)
    aside: Mapping[int, str] = field(default_factory=dict)
    procedures: frozenset[Procedure] = frozenset()
    ever: Mapping[int | str, tuple[Reading, ...]] = field(default_factory=dict)
    of_part: dict[int, tuple[Reading, ...]] = field(default_factory=dict)
    of_rail: dict[str, tuple[Reading, ...]] = field(default_factory=dict)
    standing: Mapping[str, Reading] = field(default_factory=dict)
    meters: Mapping[int, Meter] = field(default_factory=dict)
    maps: Mapping[str, StoredDrawing] = field(default_factory=dict)
    trees: Mapping[str, StoredDrawing] = field(default_factory=dict)
    boards: Mapping[str, Board] = field(default_factory=dict)
    places: Mapping[str, Place] = field(default_factory=dict)
    like_views: tuple[LikeView, ...] = ()
    tables: Mapping[str, TableRows[Any]] = field(default_factory=dict)
    last_log: int = 0
    but_readings: int = 0
    last_reading: int = 0
    last_strike: int = 0

    def all(self, table: AppendOnly[R]) -> tuple[R, ...]:
        """Every row of a table, put aside or not, oldest first."""
        return self._of(table).all

    def active(self, table: AppendOnly[R]) -> tuple[R, ...]:
        """The rows of a table that were not put aside, oldest first."""
        return self._of(table).active

    def newest(self, table: AppendOnly[R]) -> Mapping[Any, R]:
        """The newest row of each thing that a table tells of, by that thing."""
        return self._of(table).newest

    def last(self, table: AppendOnly[R]) -> R | None:
        """The last row of a table that was not put aside, None where there is none."""
        active = self._of(table).active
        return active[-1] if active else None

    def _of(self, table: AppendOnly[R]) -> TableRows[R]:
        return self.tables.get(table.name, _NO_ROWS)


def read_rows(connection: sqlite3.Connection, case: Case, known: Rows | None = None) -> Rows:
    """The case's rows; with `known`, an earlier state of them, only what was added is read."""
    version = sheets.latest_version(connection, case.sheet_id)
    if known is None:
        known = Rows(case, sheets.load(connection, case.sheet_id), version)
    elif known.sheet_version != version:
        known = replace(known, sheet=sheets.load(connection, case.sheet_id), sheet_version=version)
    before = known
    known = _with_records(connection, replace(known, case=case), case)
    known, entries = _with_log(connection, _with_readings(connection, known, case.id), case.id)
    if _is_one_reading(before, known, entries):
        return known
    return replace(
        known,
        tables={t.name: _read_on(connection, t, known.tables, case.id) for t in _TABLES},
        maps=boards.maps_of(connection, case.id, case.unit_type_id),
        trees=boards.trees_of(connection, case.id),
        boards=places.boards_of(connection, case.id, case.unit_type_id),
        places=places.places_of(connection, case.id, case.unit_type_id),
        like_views=like_views(connection, case.id, case.unit_type_id),
        but_readings=known.last_log,
    )


def _read_on(
    connection: sqlite3.Connection,
    table: AppendOnly[R],
    tables: Mapping[str, TableRows[Any]],
    case_id: int,
) -> TableRows[R]:
    """A table's rows as they were known, and what was added to them."""
    known: TableRows[R] = tables.get(table.name, _NO_ROWS)
    added = table.of_case(connection, case_id, known.last)
    strikes = table.strikes
    struck = strikes.of_case(connection, case_id, known.last_strike) if strikes else []
    if not added and not struck:
        return known
    aside = {strike.row_id for strike in struck}
    return TableRows(
        (*known.all, *added),
        tuple(row for row in (*known.active, *added) if row.id not in aside),
        _newest(table, known.newest, added),
        added[-1].id if added else known.last,
        struck[-1].id if struck else known.last_strike,
    )


def _newest(table: AppendOnly[R], known: Mapping[Any, R], added: Iterable[R]) -> Mapping[Any, R]:
    if table.newest_by is None:
        return known
    newest = dict(known)
    for row in added:
        key = table.newest_by(row)
        newest.pop(key, None)  # what was said again moves to the end
        if not (table.is_taken_back and table.is_taken_back(row)):
            newest[key] = row
    return newest


def _with_log(
    connection: sqlite3.Connection, known: Rows, case_id: int
) -> tuple[Rows, Sequence[int]]:
    """How far the log was read, and the ids of the entries that came since."""
    entries = log.ids_after(connection, case_id, known.last_log)
    return replace(known, last_log=entries[-1] if entries else known.last_log), entries


def _is_one_reading(before: Rows, now: Rows, entries: Sequence[int]) -> bool:
    """True where one thing was done since, and that was a reading: no other table has new rows."""
    return (
        now.case.revision == before.case.revision + 1
        and now.records_state == before.records_state
        and now.sheet_version == before.sheet_version
        and len(entries) == 1
        and len(now.readings) == len(before.readings) + 1
        and now.readings[now.last_reading].log_id == entries[0]
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
    added = readings.of_case(connection, case_id, known.last_reading)
    struck = READING_STRIKES.of_case(connection, case_id, known.last_strike)
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
    meters = known.meters
    if any(r.meter_id is not None and r.meter_id not in meters for r in added):
        meters = workshop_rows.meters(connection, listed=False)
    return replace(
        known,
        readings=by_id,
        aside=aside,
        procedures=known.procedures | {r.procedure for r in added},
        ever=ever,
        of_part=known.of_part | {i: own for i, own in anew.items() if isinstance(i, int)},
        of_rail=known.of_rail | {key: own for key, own in anew.items() if isinstance(key, str)},
        standing=_standing(known.standing, by_id, touched, aside),
        meters=meters,
        last_reading=added[-1].id if added else known.last_reading,
        last_strike=struck[-1].id if struck else known.last_strike,
    )


def _put_aside(added: Iterable[Reading], struck: Iterable[Strike]) -> dict[int, str]:
    aside = {r.supersedes: SUPERSEDED for r in added if r.supersedes is not None}
    return aside | {s.row_id: s.reason for s in struck}


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
