"""Cases of practice: which unit each is, and what a hand does that no other table has."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from hale_rail.store.ids import new_uuid

BLED, ENDED = "bled", "ended"


class Practised(Struct, frozen=True):
    """Which unit a case of practice is: a graded one by its place, else as it was drawn."""

    graded: int | None
    topology: str
    difficulty: str
    seed: int


class PracticeAct(Struct, frozen=True):
    """What was done: its place in the log, `bled` or `ended`, the moment, and its body."""

    id: int
    log_id: int
    kind: str
    at: str
    body: Mapping[str, Any]


class ListedPractice(Struct, frozen=True):
    """A case of practice as the page lists it; `ended` the review of one that is over."""

    number: str
    machine: str
    opened_at: str
    unit: Practised
    ended: Mapping[str, Any] | None


def insert(connection: sqlite3.Connection, case_id: int, log_id: int, unit: Practised) -> None:
    """Make a case one of practice."""
    connection.execute(
        "INSERT INTO practice (uuid, case_id, log_id, graded, topology, difficulty, seed)"
        " VALUES (?, ?, ?, ?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, unit.graded, unit.topology, unit.difficulty, unit.seed),
    )


def append(
    connection: sqlite3.Connection, case_id: int, log_id: int, kind: str, body: Mapping[str, Any]
) -> None:
    """Add what was done."""
    text = json.dumps(dict(body), ensure_ascii=False, allow_nan=False)
    connection.execute(
        "INSERT INTO practice_act (uuid, case_id, log_id, kind, body) VALUES (?, ?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, kind, text),
    )


def of_case(connection: sqlite3.Connection, case_id: int) -> Practised | None:
    """Which unit the case is, None where it is not practice."""
    row = connection.execute(
        "SELECT graded, topology, difficulty, seed FROM practice WHERE case_id = ?", (case_id,)
    ).fetchone()
    return Practised(*row) if row else None


def acts_of(connection: sqlite3.Connection, case_id: int, after: int = 0) -> list[PracticeAct]:
    """What was done with ids above `after`, oldest first."""
    rows = connection.execute(
        "SELECT a.id, a.log_id, a.kind, l.at, a.body FROM practice_act AS a"
        " JOIN log AS l ON l.id = a.log_id WHERE a.case_id = ? AND a.id > ? ORDER BY a.id",
        (case_id, after),
    )
    return [
        PracticeAct(i, log_id, kind, at, json.loads(body)) for i, log_id, kind, at, body in rows
    ]


def listed(connection: sqlite3.Connection) -> list[ListedPractice]:
    """Every case of practice, newest first."""
    rows = connection.execute(
        "SELECT c.number, c.machine, c.opened_at, p.graded, p.topology, p.difficulty, p.seed,"
        " (SELECT body FROM practice_act AS a WHERE a.case_id = c.id AND a.kind = 'ended'"
        " ORDER BY a.id LIMIT 1) FROM practice AS p JOIN bench_case AS c ON c.id = p.case_id"
        " ORDER BY c.id DESC"
    )
    return [
        ListedPractice(number, machine, at, Practised(*unit), json.loads(body) if body else None)
        for number, machine, at, *unit, body in rows
    ]
