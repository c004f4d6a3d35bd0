"""Tables of a case to which rows are only added: one description each, and all that follows.

A table is described by the record of its row: each field is a column of the same name. Inserting,
reading a case's rows, reading those that came since, what travels in a bundle and what `case.rows`
holds follow from the description. Readings have more than one table and a module of their own.
"""

from __future__ import annotations

import json
import sqlite3
import types
import typing
from collections.abc import Callable, Hashable, Iterable, Mapping
from functools import cached_property
from typing import Any, Generic, Protocol, TypeVar

from msgspec import Struct

from hale_rail.core.coded_words import Coded
from hale_rail.store.ids import new_uuid


class AppendedRow(Struct, frozen=True, kw_only=True):
    """What every row has: its id, its entry in the log, and when that was made.

    The table gives all three; a row that is to be inserted has none of them.
    """

    id: int = 0
    log_id: int = 0
    at: str = ""


class HasFields(Protocol):
    """A row whose `body` has further fields by name."""

    @property
    def body(self) -> Mapping[str, Any] | None:
        """The fields, None where they were taken back."""


def fields_of(row: HasFields | None) -> Mapping[str, Any]:
    """The fields by name of a row, {} where there is none."""
    return row.body or {} if row else {}


R = TypeVar("R", bound=AppendedRow)
_AT = "(SELECT at FROM log WHERE log.id = log_id)"
_OWN = ("id", "log_id", "at")


class AppendOnly(Generic[R]):
    """A table: its name, and the record of a row.

    `newest_by`: what a later row takes the place of an earlier one by; `is_taken_back` True of a
    row that leaves nothing in that place. `looked_up`: the SQL of fields that are not columns of
    this table. `strikes`: the table whose rows put rows of this one aside.
    """

    def __init__(
        self,
        name: str,
        row: type[R],
        *,
        newest_by: Callable[[R], Hashable] | None = None,
        is_taken_back: Callable[[R], bool] | None = None,
        looked_up: Mapping[str, str] | None = None,
        strikes: AppendOnly[Strike] | None = None,
    ) -> None:
        self.name = name
        self.row = row
        self.newest_by = newest_by
        self.is_taken_back = is_taken_back
        self.strikes = strikes
        self._looked_up = {"at": _AT, **(looked_up or {})}

    def __repr__(self) -> str:
        return f"AppendOnly({self.name})"

    def insert(
        self, connection: sqlite3.Connection, case_id: int, log_id: int, row: R, **columns: Any
    ) -> int:
        """Append a row of a case; returns its id. `columns`: those that the record does not have.

        Raises ValueError for a number that JSON does not have, sqlite3.IntegrityError for what the
        table refuses.
        """
        given = {**columns, "case_id": case_id, "log_id": log_id}
        cursor = connection.execute(self._insert(given), self._values(row, given))
        return cursor.lastrowid or 0

    def insert_all(
        self, connection: sqlite3.Connection, rows: Iterable[tuple[R, Mapping[str, Any]]]
    ) -> None:
        """Append many rows in one go, each with the columns that the record does not have.

        `case_id` and `log_id` are among them; every row gives the same ones, in one order.
        """
        all_rows = list(rows)
        if all_rows:
            statement = self._insert(all_rows[0][1])
            connection.executemany(statement, [self._values(*one) for one in all_rows])

    def _insert(self, given: Mapping[str, Any]) -> str:
        names = ["uuid", *given, *(name for name in self._written if name not in given)]
        marks = ", ".join("?" * len(names))
        return f"INSERT INTO {self.name} ({', '.join(names)}) VALUES ({marks})"

    def _values(self, row: R, given: Mapping[str, Any]) -> list[Any]:
        own = [
            _column(getattr(row, name), is_json=is_json)
            for name, is_json in self._written.items()
            if name not in given
        ]
        return [new_uuid(), *given.values(), *own]

    @cached_property
    def _written(self) -> dict[str, bool]:
        """The fields that are columns of the table, and which of them are kept as JSON."""
        fields = self._fields.items()
        return {name: reader is _json for name, reader in fields if name not in self._looked_up}

    def of_case(self, connection: sqlite3.Connection, case_id: int, after: int = 0) -> list[R]:
        """The rows of a case with ids above `after`, oldest first."""
        return self.read(connection, "case_id = ? AND id > ?", case_id, after)

    def read(self, connection: sqlite3.Connection, where: str, *values: Any) -> list[R]:
        """The rows for which an SQL condition with its values is true, oldest first."""
        rows = connection.execute(f"{self._select} WHERE {where} ORDER BY id", values)
        return [self._read(row) for row in rows]

    @cached_property
    def _fields(self) -> dict[str, Callable[[Any], Any]]:
        """How each field of the record, but what every row has, is read of its column."""
        hints = typing.get_type_hints(self.row)
        return {
            name: _reader(hints[name]) for name in self.row.__struct_fields__ if name not in _OWN
        }

    @cached_property
    def _select(self) -> str:
        names = [*self._fields, *_OWN]
        columns = ", ".join(self._looked_up.get(name, name) for name in names)
        return f"SELECT {columns} FROM {self.name}"

    def _read(self, row: sqlite3.Row) -> R:
        *values, row_id, log_id, at = row
        read = (reader(value) for reader, value in zip(self._fields.values(), values, strict=True))
        return self.row(*read, id=row_id, log_id=log_id, at=at)


class Strike(AppendedRow, frozen=True):
    """A row of another table put aside, and why."""

    row_id: int
    reason: str


class Strikes(AppendOnly[Strike]):
    """The table of strikes against another table's rows, which its column `column` names."""

    def __init__(self, name: str, column: str) -> None:
        super().__init__(name, Strike, looked_up={"row_id": column})
        self.column = column

    def strike(
        self, connection: sqlite3.Connection, case_id: int, log_id: int, row_id: int, reason: str
    ) -> None:
        """Put a row aside; raises sqlite3.IntegrityError where it is aside already."""
        self.insert(connection, case_id, log_id, Strike(row_id, reason), **{self.column: row_id})


def _same(value: Any) -> Any:
    return value


def _json(value: str | None) -> Any:
    return None if value is None else json.loads(value)


def _reader(kind: Any) -> Callable[[Any], Any]:
    """How a field of a type is read of its column: as it is, by its code, or as JSON."""
    if typing.get_origin(kind) in (typing.Union, types.UnionType):
        kind = next(part for part in typing.get_args(kind) if part is not type(None))
    whole = typing.get_origin(kind) or kind
    if whole is tuple:
        return lambda value: tuple(json.loads(value))
    if not isinstance(whole, type) or issubclass(whole, Mapping | list):
        return _json
    if issubclass(whole, Coded):
        return whole
    return bool if whole is bool else _same


def _column(value: Any, *, is_json: bool) -> Any:
    if is_json:
        return json.dumps(value, ensure_ascii=False, allow_nan=False)
    return value.code if isinstance(value, Coded) else value
