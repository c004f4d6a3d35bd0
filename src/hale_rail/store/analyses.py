"""Results of costly analyses, kept under the hash of their inputs."""

from __future__ import annotations

import sqlite3


def get(connection: sqlite3.Connection, key: str) -> str | None:
    """The result as JSON, or None while it was not computed."""
    row = connection.execute("SELECT result FROM analysis WHERE key = ?", (key,)).fetchone()
    return row["result"] if row else None


def put(connection: sqlite3.Connection, key: str, name: str, result: str, at: str) -> None:
    """Keep a result; the same inputs give the same one."""
    connection.execute(
        "INSERT OR REPLACE INTO analysis VALUES (?, ?, ?, ?)", (key, name, result, at)
    )
