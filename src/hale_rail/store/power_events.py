"""Power applied and removed, and the guard passed by a written reason."""

from __future__ import annotations

import sqlite3

from msgspec import Struct

from hale_rail.store.ids import new_uuid


class PowerEvent(Struct, frozen=True):
    """`kind` is applied, removed or guard-passed; `source` or `reason` as the kind has it."""

    id: int
    log_id: int
    kind: str
    source: str | None
    reason: str
    at: str


def insert(
    connection: sqlite3.Connection,
    case_id: int,
    log_id: int,
    kind: str,
    source: str | None = None,
    reason: str = "",
) -> None:
    """Append an event."""
    connection.execute(
        "INSERT INTO power_event (uuid, case_id, log_id, kind, source, reason)"
        " VALUES (?, ?, ?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, kind, source, reason),
    )


def of_case(connection: sqlite3.Connection, case_id: int, after: int = 0) -> list[PowerEvent]:
    """Events of a case with ids above `after`, oldest first."""
    rows = connection.execute(
        "SELECT e.id, e.log_id, e.kind, e.source, e.reason, l.at FROM power_event AS e"
        " JOIN log AS l ON l.id = e.log_id WHERE e.case_id = ? AND e.id > ? ORDER BY e.id",
        (case_id, after),
    )
    return [PowerEvent(*row) for row in rows]
