"""Cases: their own fields, and which are on the bench."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from hale_rail.errors import ConflictError, InputError, NotFoundError
from hale_rail.store.bench_lines import BenchLine
from hale_rail.store.ids import new_uuid


@dataclass(frozen=True)
class Case:
    """A case as stored; `version` counts edits of its texts, `revision` everything done to it."""

    id: int
    uuid: str
    number: str
    machine: str
    symptom: str
    before: str
    sheet_id: int
    unit_type_id: int | None
    school: str
    tolerance: str
    opened_at: str
    closed_at: str | None
    outcome: str | None
    version: int
    revision: int
    touched_at: str


@dataclass(frozen=True)
class Fields:
    """What a person writes of a case; `unit_type_id` None: not known to be like another."""

    machine: str
    symptom: str
    before: str
    school: str
    tolerance: str
    unit_type_id: int | None = None


def insert(
    connection: sqlite3.Connection, number: str, fields: Fields, sheet_id: int, opened_at: str
) -> int:
    """Open a case; raises InputError when the number is taken."""
    try:
        cursor = connection.execute(
            "INSERT INTO bench_case (uuid, number, machine, symptom, before, school, tolerance,"
            " unit_type_id, sheet_id, opened_at, touched_at)"
            " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            (new_uuid(), number, fields.machine, fields.symptom, fields.before, fields.school,
             fields.tolerance, fields.unit_type_id, sheet_id, opened_at, opened_at),
        )  # fmt: skip
    except sqlite3.IntegrityError as error:
        if "number" not in str(error):
            raise
        raise InputError(
            f"There is a case {number} already. Choose another number.", field="number"
        ) from error
    return cursor.lastrowid or 0


def by_number(connection: sqlite3.Connection, number: str) -> Case:
    """A case by its number; raises NotFoundError."""
    row = connection.execute("SELECT * FROM bench_case WHERE number = ?", (number,)).fetchone()
    if row is None:
        raise NotFoundError(f"There is no case {number}.")
    return Case(*row)


def update(connection: sqlite3.Connection, case: Case, fields: Fields) -> None:
    """Edit a case; raises ConflictError when it changed since `case.version`."""
    cursor = connection.execute(
        "UPDATE bench_case SET machine = ?, symptom = ?, before = ?, school = ?, tolerance = ?,"
        " unit_type_id = ?, version = version + 1 WHERE id = ? AND version = ?",
        (fields.machine, fields.symptom, fields.before, fields.school, fields.tolerance,
         fields.unit_type_id, case.id, case.version),
    )  # fmt: skip
    if cursor.rowcount == 0:
        raise ConflictError("Another tab saved this case first. Your text is still here.")


def close(
    connection: sqlite3.Connection, case_id: int, closed_at: str | None, outcome: str | None
) -> None:
    """Hand a case back, or (both None) take it to the bench again."""
    connection.execute(
        "UPDATE bench_case SET closed_at = ?, outcome = ?, version = version + 1 WHERE id = ?",
        (closed_at, outcome, case_id),
    )


def touch(connection: sqlite3.Connection, case_id: int, at: str) -> None:
    """Count one more thing done to a case."""
    connection.execute(
        "UPDATE bench_case SET revision = revision + 1, touched_at = ? WHERE id = ?", (at, case_id)
    )


def newest_numbers(connection: sqlite3.Connection) -> list[str]:
    """Numbers taken, in the order the cases were opened."""
    rows = connection.execute("SELECT number FROM bench_case ORDER BY id")
    return [row["number"] for row in rows]


@dataclass(frozen=True)
class Found:
    """A case as the bench lists it; `line` None while the kept one is behind the case."""

    number: str
    machine: str
    symptom: str
    line: BenchLine | None


def search(
    connection: sqlite3.Connection, words: list[str], *, is_open: bool, limit: int, offset: int
) -> tuple[list[Found], int]:
    """Cases that hold every word in number, machine or texts, newest action first, and how many."""
    where = ["(c.closed_at IS NULL) = ?"]
    values: list[object] = [int(is_open)]
    for word in words:
        pattern = "%" + word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%"
        columns = ("c.number", "c.machine", "c.symptom", "c.before")
        where.append("(" + " OR ".join(f"{column} LIKE ? ESCAPE '\\'" for column in columns) + ")")
        values += [pattern] * len(columns)
    condition = " AND ".join(where)
    total = connection.execute(
        f"SELECT count(*) FROM bench_case AS c WHERE {condition}", values
    ).fetchone()[0]
    rows = connection.execute(
        "SELECT c.number, c.machine, c.symptom, c.revision, b.revision AS line_revision,"
        " b.stage, b.energy, b.next_text, b.next_stage, b.next_point"
        f" FROM bench_case AS c LEFT JOIN bench_line AS b ON b.case_id = c.id WHERE {condition}"
        " ORDER BY c.touched_at DESC, c.id DESC LIMIT ? OFFSET ?",
        [*values, limit, offset],
    )
    found = []
    for row in rows:
        is_fresh = row["line_revision"] == row["revision"]
        line = (row["stage"], row["energy"], row["next_text"], row["next_stage"], row["next_point"])
        kept = BenchLine(*line) if is_fresh else None
        found.append(Found(row["number"], row["machine"], row["symptom"], kept))
    return found, total
