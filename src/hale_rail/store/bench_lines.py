"""The bench page's line for a case: derived, kept so that the page need not compute it."""

from __future__ import annotations

import sqlite3

from msgspec import Struct
from msgspec.structs import astuple

#: states in which nothing can be done at a case now
SET_ASIDE = ("parts", "soaking")


class BenchLine(Struct, frozen=True):
    """Stage reached, energy state, and the one thing to do next, where and how pressing.

    `state`: `live`, `charged`, `stopped`, `parts`, `soaking`, or "" for a case that stands in none,
    with `state_text` in words; `until`: the day up to which it waits, or "".
    """

    stage: str
    energy: str
    next_text: str
    next_stage: str
    next_point: str = ""
    urgency: int = 0
    state: str = ""
    state_text: str = ""
    until: str = ""

    @property
    def is_set_aside(self) -> bool:
        """True for a case at which nothing can be done now: it waits, or soaks."""
        return self.state in SET_ASIDE


COLUMNS = BenchLine.__struct_fields__


def put(connection: sqlite3.Connection, case_id: int, revision: int, line: BenchLine) -> None:
    """Keep a line, unless a later revision's stands already."""
    names = ("revision", *COLUMNS)
    connection.execute(
        f"INSERT INTO bench_line (case_id, {', '.join(names)})"
        f" VALUES (?{', ?' * len(names)}) ON CONFLICT (case_id) DO UPDATE SET"
        f" {', '.join(f'{name} = excluded.{name}' for name in names)}"
        " WHERE excluded.revision >= bench_line.revision",
        (case_id, revision, *astuple(line)),
    )


def revision_of(connection: sqlite3.Connection, case_id: int) -> int | None:
    """The revision of the case that the kept line is of, None where none is kept."""
    row = connection.execute(
        "SELECT revision FROM bench_line WHERE case_id = ?", (case_id,)
    ).fetchone()
    return int(row[0]) if row else None


def drop_all(connection: sqlite3.Connection) -> None:
    """Forget every line: what they were computed with has changed. Who looks makes them again."""
    connection.execute("DELETE FROM bench_line")
