"""The log of a case: everything done, in order, append-only. Its ids are the order of things."""

from __future__ import annotations

import sqlite3
from contextvars import ContextVar

from msgspec import Struct

from hale_rail.store.ids import new_uuid

#: the bench whose hand makes the entries of this thread: the name of a person or a place
BENCH: ContextVar[str] = ContextVar("bench", default="")
LONGEST_BENCH = 40


class LogEntry(Struct, frozen=True):
    """One entry of a case's log; `reading_id` where it is about a reading, `bench` who made it."""

    id: int
    at: str
    kind: str
    text: str
    reading_id: int | None
    bench: str


_ENTRIES = (
    "SELECT l.id, l.at, l.kind, l.text, r.id AS reading_id, l.bench FROM log AS l"
    " LEFT JOIN reading AS r ON r.log_id = l.id"
)


def append(connection: sqlite3.Connection, case_id: int, at: str, kind: str, text: str) -> int:
    """Add an entry; returns its id, to which what was done refers."""
    cursor = connection.execute(
        "INSERT INTO log (uuid, case_id, at, kind, text, bench) VALUES (?, ?, ?, ?, ?, ?)",
        (new_uuid(), case_id, at, kind, text, BENCH.get()),
    )
    return cursor.lastrowid or 0


def of_case(connection: sqlite3.Connection, case_id: int) -> list[LogEntry]:
    """Every entry, oldest first."""
    rows = connection.execute(f"{_ENTRIES} WHERE l.case_id = ? ORDER BY l.id", (case_id,))
    return [LogEntry(*row) for row in rows]


def page_of(
    connection: sqlite3.Connection, case_id: int, most: int, before: int = 0
) -> list[LogEntry]:
    """The newest entries, newest first, at most so many; older than `before` if given."""
    rows = connection.execute(
        f"{_ENTRIES} WHERE l.case_id = ? AND (? = 0 OR l.id < ?) ORDER BY l.id DESC LIMIT ?",
        (case_id, before, before, most),
    )
    return [LogEntry(*row) for row in rows]


def count(connection: sqlite3.Connection, case_id: int, after: int = 0) -> int:
    """How many entries a case has, after one of them if given."""
    query = "SELECT count(*) FROM log WHERE case_id = ? AND id > ?"
    return int(connection.execute(query, (case_id, after)).fetchone()[0])


def after(connection: sqlite3.Connection, case_id: int, entry_id: int, most: int) -> list[LogEntry]:
    """The last entries newer than one, oldest first, at most so many."""
    rows = connection.execute(
        f"{_ENTRIES} WHERE l.case_id = ? AND l.id > ? ORDER BY l.id DESC LIMIT ?",
        (case_id, entry_id, most),
    )
    return [LogEntry(*row) for row in reversed(rows.fetchall())]


def ids_after(connection: sqlite3.Connection, case_id: int, entry_id: int) -> list[int]:
    """Ids of a case's entries that came after one, oldest first."""
    rows = connection.execute(
        "SELECT id FROM log WHERE case_id = ? AND id > ? ORDER BY id", (case_id, entry_id)
    )
    return [row[0] for row in rows]


def newest(connection: sqlite3.Connection, number: str) -> int:
    """The id of the newest entry of a case by its number, 0 where there is none."""
    row = connection.execute(
        "SELECT max(id) FROM log WHERE case_id = (SELECT id FROM bench_case WHERE number = ?)",
        (number,),
    ).fetchone()
    return row[0] or 0
