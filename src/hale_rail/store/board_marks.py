"""What each board's polarity mark means: appended, the newest stands."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass


@dataclass(frozen=True)
class BoardMark:
    """A board ("" the supply's own), its mark, and the original part that proved it."""

    board: str
    mark: str
    proven_on: str


def append(
    connection: sqlite3.Connection, case_id: int, board: str, mark: str, proven_on: str, at: str
) -> None:
    connection.execute(
        "INSERT INTO board_mark (case_id, board, mark, proven_on, said_at) VALUES (?, ?, ?, ?, ?)",
        (case_id, board, mark, proven_on, at),
    )


def standing(connection: sqlite3.Connection, case_id: int) -> dict[str, BoardMark]:
    """The mark of each board that was asked for."""
    rows = connection.execute(
        "SELECT board, mark, proven_on FROM board_mark WHERE case_id = ? ORDER BY id", (case_id,)
    )
    return {row["board"]: BoardMark(*row) for row in rows}
