"""What each board's own polarity mark means, once it was asked and proven."""

from __future__ import annotations

import sqlite3

from msgspec import Struct

from hale_rail.core.parts.polarity import MARKS_BY_CODE, BoardMark
from hale_rail.store.ids import new_uuid


class ProvenMark(Struct, frozen=True):
    """What a board (by its connector, "" the supply's) prints, and on what that was proven."""

    id: int
    board: str
    mark: BoardMark
    proven_on: str


def insert(
    connection: sqlite3.Connection,
    case_id: int,
    log_id: int,
    board: str,
    mark: BoardMark,
    proven_on: str,
) -> None:
    """Append what a board's mark means."""
    connection.execute(
        "INSERT INTO board_mark (uuid, case_id, log_id, board, mark, proven_on)"
        " VALUES (?, ?, ?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, board, mark.code, proven_on),
    )


def of_case(connection: sqlite3.Connection, case_id: int, after: int = 0) -> list[ProvenMark]:
    """Marks of a case with ids above `after`, oldest first; the newest of a board stands."""
    rows = connection.execute(
        "SELECT id, board, mark, proven_on FROM board_mark"
        " WHERE case_id = ? AND id > ? ORDER BY id",
        (case_id, after),
    )
    return [ProvenMark(r["id"], r["board"], MARKS_BY_CODE[r["mark"]], r["proven_on"]) for r in rows]
