"""What the eye found at each part; the newest look stands."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from msgspec import Struct

from hale_rail.store.ids import new_uuid


class VisualInspection(Struct, frozen=True):
    """The findings of one look at a part, by code; none takes the last back."""

    id: int
    log_id: int
    part_id: int
    codes: tuple[str, ...]


def insert(
    connection: sqlite3.Connection, case_id: int, log_id: int, part_id: int, codes: Sequence[str]
) -> None:
    """Append a look."""
    cursor = connection.execute(
        "INSERT INTO look (uuid, case_id, log_id, part_id) VALUES (?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, part_id),
    )
    connection.executemany(
        "INSERT INTO look_finding (look_id, place, code) VALUES (?, ?, ?)",
        [(cursor.lastrowid, place, code) for place, code in enumerate(codes)],
    )


def of_case(connection: sqlite3.Connection, case_id: int, after: int = 0) -> list[VisualInspection]:
    """Looks of a case with ids above `after`, oldest first."""
    rows = connection.execute(
        "SELECT l.id, l.log_id, l.part_id, f.code FROM look AS l"
        " LEFT JOIN look_finding AS f ON f.look_id = l.id"
        " WHERE l.case_id = ? AND l.id > ? ORDER BY l.id, f.place",
        (case_id, after),
    )
    result: dict[int, tuple[int, int, list[str]]] = {}
    for row in rows:
        kept = result.setdefault(row["id"], (row["log_id"], row["part_id"], []))
        if row["code"]:
            kept[2].append(row["code"])
    return [
        VisualInspection(i, log_id, part, tuple(codes))
        for i, (log_id, part, codes) in result.items()
    ]
