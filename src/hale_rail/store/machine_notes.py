"""What is said of the end of the work: appended, the newest of a kind and key counts."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from typing import Any

from hale_rail.store.append_only import AppendedRow, AppendOnly


class MachineNote(AppendedRow, frozen=True):
    """A note by kind and key; `body` its fields, None where it was taken back."""

    kind: str
    key: str
    body: Mapping[str, Any] | None


MACHINE_NOTES = AppendOnly(
    "machine_note",
    MachineNote,
    newest_by=lambda row: (row.kind, row.key),
    is_taken_back=lambda row: row.body is None,
)


def elsewhere(
    connection: sqlite3.Connection, case_id: int, kind: str
) -> list[tuple[str, MachineNote]]:
    """The newest notes of a kind in other cases, each with its case's number, newest first."""
    rows = connection.execute(
        "SELECT c.number, n.kind, n.key, n.body, n.id, n.log_id, l.at FROM machine_note AS n"
        " JOIN log AS l ON l.id = n.log_id JOIN bench_case AS c ON c.id = n.case_id"
        " WHERE n.kind = ? AND n.case_id <> ? AND n.body <> 'null' AND n.id = (SELECT max(id)"
        " FROM machine_note WHERE case_id = n.case_id AND kind = n.kind AND key = n.key)"
        " ORDER BY n.id DESC LIMIT 100",
        (kind, case_id),
    )
    return [
        (number, MachineNote(kind, key, json.loads(body), id=note_id, log_id=log_id, at=at))
        for number, kind, key, body, note_id, log_id, at in rows
    ]
