"""The bench page's line for a case: derived, kept so that the page need not compute it."""

from __future__ import annotations

import sqlite3

from msgspec import Struct


class BenchLine(Struct, frozen=True):
    """Stage reached, energy state, and the one thing to do next, where."""

    stage: str
    energy: str
    next_text: str
    next_stage: str
    next_point: str = ""


def put(connection: sqlite3.Connection, case_id: int, revision: int, line: BenchLine) -> None:
    """Keep a line, unless a later revision's stands already."""
    connection.execute(
        "INSERT INTO bench_line VALUES (?, ?, ?, ?, ?, ?, ?) ON CONFLICT (case_id) DO UPDATE SET"
        " revision = excluded.revision, stage = excluded.stage, energy = excluded.energy,"
        " next_text = excluded.next_text, next_stage = excluded.next_stage,"
        " next_point = excluded.next_point WHERE excluded.revision >= bench_line.revision",
        (case_id, revision, line.stage, line.energy, line.next_text, line.next_stage,
         line.next_point),
    )  # fmt: skip


def revision_of(connection: sqlite3.Connection, case_id: int) -> int | None:
    """The revision of the case that the kept line is of, None where none is kept."""
    row = connection.execute(
        "SELECT revision FROM bench_line WHERE case_id = ?", (case_id,)
    ).fetchone()
    return int(row[0]) if row else None


def drop_all(connection: sqlite3.Connection) -> None:
    """Forget every line: what they were computed with has changed. Who looks makes them again."""
    connection.execute("DELETE FROM bench_line")
