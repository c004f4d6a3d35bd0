"""Cases and the bench page's line for each."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from hale_rail.errors import ConflictError, InputError, NotFoundError


@dataclass(frozen=True)
class Case:
    """A case as stored; `version` counts its edits."""

    id: int
    number: str
    machine: str
    symptom: str
    before: str
    sheet_id: int
    school: str
    tolerance: str
    opened_at: str
    closed_at: str | None
    version: int


def insert(
    connection: sqlite3.Connection,
    *,
    number: str,
    machine: str,
    symptom: str,
    before: str,
    sheet_id: int,
    school: str,
    tolerance: str,
    opened_at: str,
) -> int:
    """Open a case; raises InputError when the number is taken."""
    try:
        cursor = connection.execute(
            "INSERT INTO bench_case (number, machine, symptom, before, sheet_id, school, tolerance,"
            " opened_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
            (number, machine, symptom, before, sheet_id, school, tolerance, opened_at),
        )
    except sqlite3.IntegrityError as error:
        raise InputError(f"There is a case {number} already. Choose another number.") from error
    return cursor.lastrowid or 0


def by_number(connection: sqlite3.Connection, number: str) -> Case:
    """A case by its number; raises NotFoundError."""
    row = connection.execute("SELECT * FROM bench_case WHERE number = ?", (number,)).fetchone()
    if row is None:
        raise NotFoundError(f"There is no case {number}.")
    return Case(**dict(row))


def update(
    connection: sqlite3.Connection,
    case: Case,
    *,
    machine: str,
    symptom: str,
    before: str,
    school: str,
    tolerance: str,
    closed_at: str | None,
) -> None:
    """Edit a case; raises ConflictError when it changed since `case.version`."""
    cursor = connection.execute(
        "UPDATE bench_case SET machine = ?, symptom = ?, before = ?, school = ?, tolerance = ?,"
        " closed_at = ?, version = version + 1 WHERE id = ? AND version = ?",
        (machine, symptom, before, school, tolerance, closed_at, case.id, case.version),
    )
    if cursor.rowcount == 0:
        raise ConflictError("Another tab saved this case first. Your text is still here.")


def numbers(connection: sqlite3.Connection) -> list[str]:
    return [row["number"] for row in connection.execute("SELECT number FROM bench_case")]


def put_summary(
    connection: sqlite3.Connection,
    case_id: int,
    *,
    stage: str,
    energy: str,
    next_text: str,
    next_view: str,
    updated_at: str,
) -> None:
    """Rewrite the bench page's line for a case."""
    connection.execute(
        "INSERT INTO summary VALUES (?, ?, ?, ?, ?, ?) ON CONFLICT (case_id) DO UPDATE SET"
        " stage = excluded.stage, energy = excluded.energy, next_text = excluded.next_text,"
        " next_view = excluded.next_view, updated_at = excluded.updated_at",
        (case_id, stage, energy, next_text, next_view, updated_at),
    )


def search(
    connection: sqlite3.Connection, words: list[str], *, is_open: bool, limit: int, offset: int
) -> tuple[list[sqlite3.Row], int]:
    """Cases that hold every word in number, machine or texts, newest first, and how many."""
    where = ["(c.closed_at IS NULL) = ?"]
    values: list[object] = [int(is_open)]
    for word in words:
        pattern = "%" + word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%"
        columns = ("c.number", "c.machine", "c.symptom", "c.before")
        where.append("(" + " OR ".join(f"{column} LIKE ? ESCAPE '\\'" for column in columns) + ")")
        values += [pattern] * len(columns)
    source = "FROM summary AS s JOIN bench_case AS c ON c.id = s.case_id WHERE "
    source += " AND ".join(where)
    total = connection.execute(f"SELECT count(*) {source}", values).fetchone()[0]
    rows = connection.execute(
        "SELECT c.number, c.machine, c.symptom, c.closed_at, s.stage, s.energy, s.next_text,"
        f" s.next_view, s.updated_at {source} ORDER BY s.updated_at DESC, c.id DESC"
        " LIMIT ? OFFSET ?",
        [*values, limit, offset],
    ).fetchall()
    return rows, total
