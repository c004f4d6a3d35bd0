"""What was asked outside any case: the last questions, as they were typed."""

from __future__ import annotations

import sqlite3

#: questions that are kept
KEPT = 20


def keep(connection: sqlite3.Connection, text: str, at: str) -> None:
    """Keep a question as the newest; one asked again moves up, and the oldest goes."""
    connection.execute("DELETE FROM asked WHERE text = ?", (text,))
    connection.execute("INSERT INTO asked (at, text) VALUES (?, ?)", (at, text))
    connection.execute(
        "DELETE FROM asked WHERE id NOT IN (SELECT id FROM asked ORDER BY id DESC LIMIT ?)", (KEPT,)
    )


def newest(connection: sqlite3.Connection) -> list[str]:
    """The questions kept, the newest first."""
    rows = connection.execute("SELECT text FROM asked ORDER BY id DESC LIMIT ?", (KEPT,))
    return [row["text"] for row in rows]
