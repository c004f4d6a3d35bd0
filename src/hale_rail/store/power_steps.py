"""First power: what was chosen, the steps as they were walked, and what power good did."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from hale_rail.store.ids import new_uuid


class PowerStep(Struct, frozen=True):
    """Something that happened to a step: `begun`, `done`, `stopped` or `cleared`."""

    id: int
    log_id: int
    step: str
    what: str
    note: str
    at: str

    @property
    def stop(self) -> tuple[str, str] | None:
        """A stop condition's code and what was seen, of a step that was stopped."""
        code, _, seen = self.note.partition(":")
        return (code, seen) if self.what == "stopped" else None


class PowerChoice(Struct, frozen=True):
    """What was chosen: fields by name."""

    id: int
    body: Mapping[str, Any]


class PowerGoodRow(Struct, frozen=True):
    """Seconds until the power-good line went high, None where it stayed low or `volt` tells it."""

    id: int
    after_s: float | None
    volt: float | None = None


def insert_good(
    connection: sqlite3.Connection,
    case_id: int,
    log_id: int,
    after_s: float | None,
    volt: float | None = None,
) -> None:
    """Append what the power-good line did."""
    connection.execute(
        "INSERT INTO power_good (uuid, case_id, log_id, after_s, volt) VALUES (?, ?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, after_s, volt),
    )


def goods_of(connection: sqlite3.Connection, case_id: int, after: int = 0) -> list[PowerGoodRow]:
    """What the power-good line did with ids above `after`, oldest first."""
    rows = connection.execute(
        "SELECT id, after_s, volt FROM power_good WHERE case_id = ? AND id > ? ORDER BY id",
        (case_id, after),
    )
    return [PowerGoodRow(*row) for row in rows]


def insert(
    connection: sqlite3.Connection, case_id: int, log_id: int, step: str, what: str, note: str = ""
) -> None:
    """Append what happened to a step."""
    connection.execute(
        "INSERT INTO power_step (uuid, case_id, log_id, step, what, note)"
        " VALUES (?, ?, ?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, step, what, note),
    )


def insert_choice(
    connection: sqlite3.Connection, case_id: int, log_id: int, body: Mapping[str, Any]
) -> None:
    """Append what is chosen."""
    text = json.dumps(dict(body), ensure_ascii=False, allow_nan=False)
    connection.execute(
        "INSERT INTO power_choice (uuid, case_id, log_id, body) VALUES (?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, text),
    )


def of_case(connection: sqlite3.Connection, case_id: int, after: int = 0) -> list[PowerStep]:
    """What happened with ids above `after`, oldest first."""
    rows = connection.execute(
        "SELECT p.id, p.log_id, p.step, p.what, p.note, l.at FROM power_step AS p"
        " JOIN log AS l ON l.id = p.log_id WHERE p.case_id = ? AND p.id > ? ORDER BY p.id",
        (case_id, after),
    )
    return [PowerStep(*row) for row in rows]


def choices_of(connection: sqlite3.Connection, case_id: int, after: int = 0) -> list[PowerChoice]:
    """What was chosen with ids above `after`, oldest first."""
    rows = connection.execute(
        "SELECT id, body FROM power_choice WHERE case_id = ? AND id > ? ORDER BY id",
        (case_id, after),
    )
    return [PowerChoice(row[0], json.loads(row[1])) for row in rows]
