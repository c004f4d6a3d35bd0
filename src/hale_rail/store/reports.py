"""Reports as they were issued."""

from __future__ import annotations

import sqlite3

from msgspec import Struct

from hale_rail.store.ids import new_uuid


class IssuedReport(Struct, frozen=True):
    """A report's content as JSON, and when it was issued."""

    id: int
    issued_at: str
    body: str


def insert(connection: sqlite3.Connection, case_id: int, log_id: int, body: str) -> None:
    """Keep a report as issued."""
    connection.execute(
        "INSERT INTO issued_report (uuid, case_id, log_id, body) VALUES (?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, body),
    )


def of_case(connection: sqlite3.Connection, case_id: int) -> list[IssuedReport]:
    """The reports of a case, newest first."""
    rows = connection.execute(
        "SELECT r.id, l.at, r.body FROM issued_report AS r JOIN log AS l ON l.id = r.log_id"
        " WHERE r.case_id = ? ORDER BY r.id DESC",
        (case_id,),
    )
    return [IssuedReport(*row) for row in rows]
