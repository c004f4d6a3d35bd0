"""The log of a case: everything done, in order, append-only."""

from __future__ import annotations

import sqlite3


def append(
    connection: sqlite3.Connection,
    case_id: int,
    at: str,
    kind: str,
    text: str,
    reading_id: int | None = None,
) -> None:
    """Add an entry. Every change of a case adds one, so the newest id is the case's revision."""
    connection.execute(
        "INSERT INTO log (case_id, at, kind, text, reading_id) VALUES (?, ?, ?, ?, ?)",
        (case_id, at, kind, text, reading_id),
    )


def of_case(connection: sqlite3.Connection, case_id: int) -> list[sqlite3.Row]:
    """Every entry, oldest first."""
    return connection.execute(
        "SELECT * FROM log WHERE case_id = ? ORDER BY id", (case_id,)
    ).fetchall()


def revision(connection: sqlite3.Connection, case_id: int) -> int:
    """Id of the newest entry, 0 when there is none."""
    row = connection.execute("SELECT max(id) FROM log WHERE case_id = ?", (case_id,)).fetchone()
    return int(row[0] or 0)
