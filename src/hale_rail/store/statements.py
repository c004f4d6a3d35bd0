"""What the person says in the diagnosis: symptoms, results of tests, beliefs."""

from __future__ import annotations

import sqlite3

from msgspec import Struct

from hale_rail.store.ids import new_uuid


class Statement(Struct, frozen=True):
    """`kind` is symptom, result or belief; an empty value takes the last back."""

    id: int
    kind: str
    key: str
    value: str
    log_id: int = 0


def insert(
    connection: sqlite3.Connection, case_id: int, log_id: int, kind: str, key: str, value: str
) -> None:
    """Append a statement."""
    connection.execute(
        "INSERT INTO statement (uuid, case_id, log_id, kind, key, value) VALUES (?, ?, ?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, kind, key, value),
    )


def of_case(connection: sqlite3.Connection, case_id: int, after: int = 0) -> list[Statement]:
    """Statements of a case with ids above `after`, oldest first."""
    rows = connection.execute(
        "SELECT id, kind, key, value, log_id FROM statement WHERE case_id = ? AND id > ?"
        " ORDER BY id",
        (case_id, after),
    )
    return [Statement(*row) for row in rows]
