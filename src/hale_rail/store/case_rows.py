"""Every row of a case as plain data, and back: what a bundle carries.

Ids are of one data folder, so a row names another by its place in its table, from 1 on. Columns and
what they refer to are asked of the database, so that a later column travels without a word here.
"""

from __future__ import annotations

import math
import sqlite3
from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct

from hale_rail.errors import InputError
from hale_rail.store import unit_types
from hale_rail.store.case_tables import APPENDED

Row = dict[str, Any]
Tables = dict[str, list[Row]]

_OF_CASE = "case_id = :case"
_OF_SHEET = "sheet_id = :sheet"
_OF_RAIL = "rail_id IN (SELECT id FROM rail WHERE sheet_id = :sheet)"
_OF_PART = "part_id IN (SELECT id FROM part WHERE sheet_id = :sheet)"
_OF_MARKING = f"marking_id IN (SELECT id FROM part_marking WHERE {_OF_PART})"
_OF_TYPE = "case_id = :case OR unit_type_id = :unit_type"
#: a drawing that was proven stays the case's when the case's type of unit changes
_DRAWING = f"{_OF_TYPE} OR id IN (SELECT document_id FROM drawing_check WHERE case_id = :case)"
#: of a type's maps of one rail the case uses its own, else the newest
_MAP = (
    "id IN (SELECT coalesce(max(CASE WHEN case_id = :case THEN id END), max(id)) FROM board_map"
    f" WHERE {_OF_TYPE} GROUP BY rail_key)"
)


def _own_or_newest(table: str) -> str:
    """Of a case's and its type's rows of one name: the case's own, else the newest."""
    order = "ORDER BY case_id = :case DESC, changed_at DESC, id DESC"
    return (
        f"id IN (SELECT id FROM (SELECT id, row_number() OVER (PARTITION BY name {order}) AS nth"
        f" FROM {table} WHERE {_OF_TYPE}) WHERE nth = 1)"
    )


_METER = "id IN (SELECT meter_id FROM reading WHERE case_id = :case)"
#: every table of a case in the order in which rows are put in, and which of its rows are the case's
TABLES: Mapping[str, str] = {
    "meter": _METER,
    "sheet": "id = :sheet",
    "sheet_version": _OF_SHEET,
    "rail": _OF_SHEET,
    "rail_marking": _OF_RAIL,
    "part": _OF_SHEET,
    "part_marking": _OF_PART,
    "part_rail": _OF_MARKING,
    "part_winding": _OF_MARKING,
    "bench_case": "id = :case",
    "log": _OF_CASE,
    "target": _OF_CASE,
    "reading": _OF_CASE,
    "reading_figure": "reading_id IN (SELECT id FROM reading WHERE case_id = :case)",
    **{table.name: _OF_CASE for table in APPENDED},
    "look_finding": "look_id IN (SELECT id FROM look WHERE case_id = :case)",
    "document": _DRAWING,
    "drawing_check": _OF_CASE,
    "ground_record": _OF_CASE,
    "board_map": _MAP,
    "attachment_tree": _OF_CASE,
    "unit_board": _own_or_newest("unit_board"),
    "part_place": _own_or_newest("part_place"),
}
#: what a workshop has of its own: a row with the same uuid is that row
_SHARED = ("meter", "document", "board_map", "unit_board", "part_place")
#: columns that do not travel: ids, which case, what the case counts, what belongs to its number
_LEFT = {
    "bench_case": {"number", "revision", "sheet_id"},
    "meter": {"is_listed"},
    "document": {"log_id"},
}
_ALWAYS_LEFT = {"id", "case_id", "sheet_id"}
_UNIT_TYPE = "unit_type_id"
#: what a meter's over-range is as JSON, which has no such number
_OVER = "over"


class _Shape(Struct, frozen=True):
    """A table: the columns that travel, which of them refer to what table, its key, all columns,
    and those of them that are numbers."""

    columns: tuple[str, ...]
    refers: Mapping[str, str]
    order: str
    names: frozenset[str]
    reals: frozenset[str]

    @property
    def has_id(self) -> bool:
        """True where rows have an id that others may name."""
        return "id" in self.names


def _shape(connection: sqlite3.Connection, table: str) -> _Shape:
    info = connection.execute(f"PRAGMA table_info({table})").fetchall()
    left = _ALWAYS_LEFT | _LEFT.get(table, set())
    refers = {
        row["from"]: row["table"]
        for row in connection.execute(f"PRAGMA foreign_key_list({table})")
        if row["table"] in TABLES and row["from"] not in left
    }
    keys = [row["name"] for row in sorted(info, key=lambda row: row["pk"]) if row["pk"]]
    names = [row["name"] for row in info]
    columns = tuple(name for name in names if name not in left)
    reals = frozenset(row["name"] for row in info if row["type"] == "REAL")
    return _Shape(columns, refers, ", ".join(keys), frozenset(names), reals)


def dump(connection: sqlite3.Connection, case_id: int) -> Tables:
    """Every row of a case, by table; what a column refers to as its place, types by name."""
    case = connection.execute("SELECT * FROM bench_case WHERE id = ?", (case_id,)).fetchone()
    own = {"case": case_id, "sheet": case["sheet_id"], "unit_type": case["unit_type_id"]}
    types = {t.id: t.name for t in unit_types.listed(connection)}
    places: dict[str, dict[int, int]] = {}
    tables: Tables = {}
    for table, where in TABLES.items():
        shape = _shape(connection, table)
        query = f"SELECT * FROM {table} WHERE {where} ORDER BY {shape.order}"
        rows = connection.execute(query, own).fetchall()
        if shape.has_id:
            places[table] = {row["id"]: place for place, row in enumerate(rows, 1)}
        tables[table] = [_out(row, shape, places, types) for row in rows]
    return tables


def _out(
    row: sqlite3.Row,
    shape: _Shape,
    places: Mapping[str, Mapping[int, int]],
    types: Mapping[int, str],
) -> Row:
    told = {}
    for name in shape.columns:
        value = row[name]
        if value is not None and name == _UNIT_TYPE:
            value = types[value]
        elif value is not None and name in shape.refers:
            value = places[shape.refers[name]][value]
        told[name] = _OVER if value == math.inf else value
    return told


def load(connection: sqlite3.Connection, tables: Tables, number: str) -> int:
    """Put a case's rows in under a number; returns its id.

    Raises InputError naming table and row for what cannot be; the transaction is the caller's.
    """
    return _Loading(connection, number).all(tables)


class _Loading:
    """One case on its way in: the ids that its rows were given, by table and place."""

    def __init__(self, connection: sqlite3.Connection, number: str) -> None:
        self.connection = connection
        self.number = number
        self.ids: dict[str, list[int]] = {}

    def all(self, tables: Tables) -> int:
        unknown = tables.keys() - TABLES.keys()
        if unknown:
            raise InputError(f"There is a table {sorted(unknown)[0][:40]} that is not known here.")
        for table in TABLES:
            self.ids[table] = []
            shape = _shape(self.connection, table)
            for place, row in enumerate(tables.get(table, []), 1):
                try:
                    self.ids[table].append(self._put(table, shape, row))
                except (sqlite3.Error, OverflowError, UnicodeError, InputError) as error:
                    raise InputError(f"{table}, row {place}: {error}") from error
        return self._one("bench_case")

    def _one(self, table: str) -> int:
        if len(self.ids[table]) != 1:
            raise InputError(f"{table} has one row, not {len(self.ids[table])}.")
        return self.ids[table][0]

    def _put(self, table: str, shape: _Shape, row: Row) -> int:
        unknown = row.keys() - set(shape.columns)
        if unknown:
            raise InputError(f"a column {sorted(unknown)[0][:40]} that is not known here")
        if table in _SHARED and (known := self._known(table, row)):
            return known
        values = {name: self._in(shape, name, row[name]) for name in shape.columns if name in row}
        values |= self._own(table, shape)
        names = ", ".join(values)
        marks = ", ".join("?" * len(values))
        cursor = self.connection.execute(
            f"INSERT INTO {table} ({names}) VALUES ({marks})", list(values.values())
        )
        return cursor.lastrowid or 0

    def _known(self, table: str, row: Row) -> int | None:
        result = self.connection.execute(
            f"SELECT id FROM {table} WHERE uuid = ?", (row.get("uuid"),)
        ).fetchone()
        return int(result["id"]) if result else None

    def _in(self, shape: _Shape, name: str, value: Any) -> Any:
        if value is None:
            return None
        if not isinstance(value, str | int | float) or isinstance(value, bool):
            raise InputError(f"{name} is neither text nor a number")
        if name == _UNIT_TYPE:
            return self._type(value)
        if name in shape.reals and value == _OVER:
            return math.inf
        if name not in shape.refers:
            return value
        known = self.ids.get(shape.refers[name], [])
        if not isinstance(value, int) or not 1 <= value <= len(known):
            raise InputError(f"{name} names a row that is not there")
        return known[value - 1]

    def _type(self, name: str | float) -> int:
        row = self.connection.execute("SELECT id FROM unit_type WHERE name = ?", (name,)).fetchone()
        if row is None:
            return unit_types.insert(self.connection, str(name))
        unit_types.count_change(self.connection, row["id"])
        return int(row["id"])

    def _own(self, table: str, shape: _Shape) -> Row:
        """The columns that are this folder's: which case, which sheet, the number."""
        if table == "bench_case":
            return {"number": self.number, "sheet_id": self._one("sheet")}
        if table == "meter":
            return {"is_listed": 0}
        own: Row = {}
        if "case_id" in shape.names:
            own["case_id"] = self._one("bench_case")
        if "sheet_id" in shape.names:
            own["sheet_id"] = self._one("sheet")
        if table == "document":
            own["log_id"] = self.ids["log"][0]
        return own


def case_of_uuid(connection: sqlite3.Connection, uuid: str) -> tuple[int, str] | None:
    """The id and number of the case with an identity, or None."""
    row = connection.execute("SELECT id, number FROM bench_case WHERE uuid = ?", (uuid,)).fetchone()
    return (int(row["id"]), str(row["number"])) if row else None


def numbers(connection: sqlite3.Connection) -> Sequence[str]:
    """Every case's number."""
    return [row["number"] for row in connection.execute("SELECT number FROM bench_case")]
