"""Moves every time in a database that is not in use yet, such as the demo's before its first start.

A workshop's own rows are append-only; this is for a copy that nobody has worked in.
"""

from __future__ import annotations

import re
import sqlite3
from contextlib import closing
from datetime import datetime, timedelta
from pathlib import Path

from hale_rail.store.connections import connect

#: ISO 8601 in UTC as the program writes it, alone or within a JSON body
_TIME = re.compile(r"\b\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(?:\.\d+)?\+00:00")
_SOME_TIME = "*[0-9][0-9][0-9][0-9]-[0-9][0-9]-[0-9][0-9]T[0-9][0-9]:*"
#: when a change of layout was run stays true; columns in seconds since 1970, by table
_STAYS = ("migration",)
_SECONDS = {"soak_row": "at_s"}
#: columns that hold a day
_DAYS = {"case_wait": "until"}


def move_newest_to(path: Path, moment: str) -> None:
    """Move all times by as much as brings the newest entry of the log to `moment` (ISO 8601)."""
    with closing(connect(path)) as connection:
        newest = connection.execute("SELECT max(at) FROM log").fetchone()[0]
        by = datetime.fromisoformat(moment) - datetime.fromisoformat(newest)
        connection.create_function("moved", 1, lambda text: _moved(text, by), deterministic=True)
        connection.execute("BEGIN IMMEDIATE")
        triggers = connection.execute(
            "SELECT name, sql FROM sqlite_master WHERE type = 'trigger'"
        ).fetchall()
        for name, _ in triggers:
            connection.execute(f'DROP TRIGGER "{name}"')
        for table, column in _columns(connection):
            connection.execute(
                f'UPDATE "{table}" SET "{column}" = moved("{column}")'
                f' WHERE "{column}" GLOB ?', (_SOME_TIME,),
            )  # fmt: skip
        for table, column in _SECONDS.items():
            connection.execute(f"UPDATE {table} SET {column} = {column} + ?", (by.total_seconds(),))
        for table, column in _DAYS.items():
            connection.execute(
                f"UPDATE {table} SET {column} = date({column}, ?) WHERE {column} <> ''",
                (f"{by.days} days",),
            )
        connection.execute("DELETE FROM bench_line WHERE until <> ''")  # which names the day
        for _, sql in triggers:
            connection.execute(sql)
        connection.execute("COMMIT")


def _columns(connection: sqlite3.Connection) -> list[tuple[str, str]]:
    """The columns of text, by table."""
    return [
        (row[0], row[1])
        for row in connection.execute(
            "SELECT m.name, c.name FROM sqlite_master m JOIN pragma_table_info(m.name) c"
            " WHERE m.type = 'table' AND c.type = 'TEXT'"
        )
        if row[0] not in _STAYS
    ]


def _moved(text: str, by: timedelta) -> str:
    """The text with each time in it moved, as precise as it was."""

    def moved(match: re.Match[str]) -> str:
        precision = "microseconds" if "." in match[0] else "seconds"
        return (datetime.fromisoformat(match[0]) + by).isoformat(timespec=precision)

    return _TIME.sub(moved, text)
