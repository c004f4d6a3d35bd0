"""The log of a case: everything done, in order, append-only. Its ids are the order of things."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from hale_rail.store.ids import new_uuid


@dataclass(frozen=True)
class Entry:
    """One entry of a case's log; `reading_id` where it is about a reading."""

    id: int
    at: str
    kind: str
    text: str
    reading_id: int | None


def append(connection: sqlite3.Connection, case_id: int, at: str, kind: str, text: str) -> int:
    """Add an entry; returns its id, to which what was done refers."""
    cursor = connection.execute(
        "INSERT INTO log (uuid, case_id, at, kind, text) VALUES (?, ?, ?, ?, ?)",
        (new_uuid(), case_id, at, kind, text),
    )
    return cursor.lastrowid or 0


def of_case(connection: sqlite3.Connection, case_id: int) -> list[Entry]:
    """Every entry, oldest first."""
    rows = connection.execute(
        "SELECT l.id, l.at, l.kind, l.text, r.id AS reading_id FROM log AS l"
        " LEFT JOIN reading AS r ON r.log_id = l.id WHERE l.case_id = ? ORDER BY l.id",
        (case_id,),
    )
    return [Entry(*row) for row in rows]
