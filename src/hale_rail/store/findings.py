"""Symptoms, results and beliefs of a case's diagnosis: appended, the newest stands."""

from __future__ import annotations

import sqlite3


def append(
    connection: sqlite3.Connection, case_id: int, kind: str, key: str, value: str, at: str
) -> None:
    connection.execute(
        "INSERT INTO finding (case_id, kind, key, value, found_at) VALUES (?, ?, ?, ?, ?)",
        (case_id, kind, key, value, at),
    )


def standing(connection: sqlite3.Connection, case_id: int) -> list[tuple[str, str, str]]:
    """(kind, key, value) that stand, in the order they were last said."""
    rows = connection.execute(
        "SELECT kind, key, value FROM finding WHERE id IN"
        " (SELECT max(id) FROM finding WHERE case_id = ? GROUP BY kind, key)"
        " AND value <> '' ORDER BY id",
        (case_id,),
    )
    return [(row["kind"], row["key"], row["value"]) for row in rows]
