"""What a person says of positions for the recap, and what was done at the board, step by step."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from hale_rail.store.ids import new_uuid


class Note(Struct, frozen=True):
    """What was said of a part, or (None) of a board: fields by name."""

    id: int
    part_id: int | None
    board: str
    body: Mapping[str, Any]


class ReworkStep(Struct, frozen=True):
    """One thing done at a position, or (`part_id` None) to the whole board."""

    id: int
    log_id: int
    part_id: int | None
    step: str
    note: str


def insert_note(
    connection: sqlite3.Connection,
    case_id: int,
    log_id: int,
    part_id: int | None,
    board: str,
    body: Mapping[str, Any],
) -> None:
    """Append what is said of a part or a board."""
    text = json.dumps(dict(body), ensure_ascii=False, allow_nan=False)
    connection.execute(
        "INSERT INTO recap_note (uuid, case_id, log_id, part_id, board, body)"
        " VALUES (?, ?, ?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, part_id, board, text),
    )


def notes_of(connection: sqlite3.Connection, case_id: int, after: int = 0) -> list[Note]:
    """What was said with ids above `after`, oldest first."""
    rows = connection.execute(
        "SELECT id, part_id, board, body FROM recap_note WHERE case_id = ? AND id > ? ORDER BY id",
        (case_id, after),
    )
    return [Note(row[0], row[1], row[2], json.loads(row[3])) for row in rows]


def insert_step(
    connection: sqlite3.Connection,
    case_id: int,
    log_id: int,
    part_id: int | None,
    step: str,
    note: str = "",
) -> int:
    """Append a step; returns its id."""
    cursor = connection.execute(
        "INSERT INTO rework_step (uuid, case_id, log_id, part_id, step, note)"
        " VALUES (?, ?, ?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, part_id, step, note),
    )
    return cursor.lastrowid or 0


def strike_step(
    connection: sqlite3.Connection, case_id: int, log_id: int, step_id: int, reason: str
) -> None:
    """Put a step aside; it stays in the table."""
    connection.execute(
        "INSERT INTO rework_strike (uuid, case_id, log_id, step_id, reason) VALUES (?, ?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, step_id, reason),
    )


def steps_of(connection: sqlite3.Connection, case_id: int, after: int = 0) -> list[ReworkStep]:
    """Steps with ids above `after`, oldest first, struck or not."""
    rows = connection.execute(
        "SELECT id, log_id, part_id, step, note FROM rework_step"
        " WHERE case_id = ? AND id > ? ORDER BY id",
        (case_id, after),
    )
    return [ReworkStep(*row) for row in rows]


def struck_steps(connection: sqlite3.Connection, case_id: int) -> frozenset[int]:
    """Ids of the steps that were put aside."""
    rows = connection.execute("SELECT step_id FROM rework_strike WHERE case_id = ?", (case_id,))
    return frozenset(row[0] for row in rows)
