"""Cases of practice: which unit each is, and what a hand does that no other table has."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from hale_rail.store.append_only import AppendedRow, AppendOnly

BLED, ENDED = "bled", "ended"


class Practised(AppendedRow, frozen=True):
    """Which unit a case of practice is: a graded one by its place, else as it was drawn."""

    graded: int | None
    topology: str
    difficulty: str
    seed: int


class PracticeAct(AppendedRow, frozen=True):
    """What was done: `bled` or `ended`, and its body."""

    kind: str
    body: Mapping[str, Any]


class ListedPractice(Struct, frozen=True):
    """A case of practice as the page lists it; `ended` the review of one that is over."""

    number: str
    machine: str
    opened_at: str
    unit: Practised
    ended: Mapping[str, Any] | None


PRACTICE = AppendOnly("practice", Practised)
PRACTICE_ACTS = AppendOnly("practice_act", PracticeAct)


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
