"""The workshop's settings, as text by key."""

from __future__ import annotations

import sqlite3


def all_of(connection: sqlite3.Connection) -> dict[str, str]:
    return {row["key"]: row["value"] for row in connection.execute("SELECT * FROM setting")}


def put(connection: sqlite3.Connection, key: str, value: str) -> None:
    connection.execute(
        "INSERT INTO setting VALUES (?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value",
        (key, value),
    )
