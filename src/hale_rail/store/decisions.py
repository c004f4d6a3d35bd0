"""What a person decided of parts; the newest about a part stands."""

from __future__ import annotations

import sqlite3

from msgspec import Struct

from hale_rail.core.parts.decisions import DECISIONS, Decision, DecisionKind
from hale_rail.store.ids import new_uuid


class Decided(Struct, frozen=True):
    """One decision about one part."""

    id: int
    part_id: int
    decision: Decision


def insert(
    connection: sqlite3.Connection,
    case_id: int,
    log_id: int,
    part_id: int,
    kind: DecisionKind,
    reason: str,
) -> None:
    """Append a decision."""
    connection.execute(
        "INSERT INTO decision (uuid, case_id, log_id, part_id, kind, reason)"
        " VALUES (?, ?, ?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, part_id, kind.code, reason),
    )


def of_case(connection: sqlite3.Connection, case_id: int, after: int = 0) -> list[Decided]:
    """Decisions of a case with ids above `after`, oldest first."""
    rows = connection.execute(
        "SELECT id, part_id, kind, reason, log_id FROM decision"
        " WHERE case_id = ? AND id > ? ORDER BY id",
        (case_id, after),
    )
    return [
        Decided(row["id"], row["part_id"], Decision(DECISIONS[row["kind"]], row["reason"],
                                                    row["log_id"]))
        for row in rows
    ]  # fmt: skip
