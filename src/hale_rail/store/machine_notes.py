"""What is said of the end of the work: appended, the newest of a kind and key stands."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from hale_rail.store.ids import new_uuid


class MachineNote(Struct, frozen=True):
    """A note by kind and key; `body` its fields, None where it was taken back."""

    id: int
    log_id: int
    kind: str
    key: str
    body: Mapping[str, Any] | None
    at: str


def insert(
    connection: sqlite3.Connection,
    case_id: int,
    log_id: int,
    kind: str,
    key: str,
    body: Mapping[str, Any] | None,
) -> None:
    """Append a note; a body of None takes back what stands."""
    text = json.dumps(dict(body) if body is not None else None, ensure_ascii=False, allow_nan=False)
    connection.execute(
        "INSERT INTO machine_note (uuid, case_id, log_id, kind, key, body)"
        " VALUES (?, ?, ?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, kind, key, text),
    )


def of_case(connection: sqlite3.Connection, case_id: int, after: int = 0) -> list[MachineNote]:
    """Notes with ids above `after`, oldest first."""
    rows = connection.execute(
        "SELECT n.id, n.log_id, n.kind, n.key, n.body, l.at FROM machine_note AS n"
        " JOIN log AS l ON l.id = n.log_id WHERE n.case_id = ? AND n.id > ? ORDER BY n.id",
        (case_id, after),
    )
    return [_note(*row) for row in rows]


def _note(note_id: int, log_id: int, kind: str, key: str, body: str, at: str) -> MachineNote:
    return MachineNote(note_id, log_id, kind, key, json.loads(body), at)


def elsewhere(
    connection: sqlite3.Connection, case_id: int, kind: str
) -> list[tuple[str, MachineNote]]:
    """The newest notes of a kind in other cases, each with its case's number, newest first."""
    rows = connection.execute(
        "SELECT c.number, n.id, n.log_id, n.kind, n.key, n.body, l.at FROM machine_note AS n"
        " JOIN log AS l ON l.id = n.log_id JOIN bench_case AS c ON c.id = n.case_id"
        " WHERE n.kind = ? AND n.case_id <> ? AND n.body <> 'null' AND n.id = (SELECT max(id)"
        " FROM machine_note WHERE case_id = n.case_id AND kind = n.kind AND key = n.key)"
        " ORDER BY n.id DESC LIMIT 100",
        (kind, case_id),
    )
    return [(row[0], _note(*row[1:])) for row in rows]
