"""What the eye found at each part; the newest look counts."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from hale_rail.store.append_only import AppendedRow, AppendOnly


class VisualInspection(AppendedRow, frozen=True):
    """The findings of one look at a part, by code; none takes the last back."""

    part_id: int
    codes: tuple[str, ...]


_CODES = (
    "(SELECT json_group_array(code) FROM"
    " (SELECT code FROM look_finding WHERE look_id = look.id ORDER BY place))"
)
LOOKS = AppendOnly(
    "look", VisualInspection, newest_by=lambda row: row.part_id, looked_up={"codes": _CODES}
)


def insert(
    connection: sqlite3.Connection, case_id: int, log_id: int, part_id: int, codes: Sequence[str]
) -> None:
    """Append a look and its findings."""
    look_id = LOOKS.insert(connection, case_id, log_id, VisualInspection(part_id, tuple(codes)))
    connection.executemany(
        "INSERT INTO look_finding (look_id, place, code) VALUES (?, ?, ?)",
        [(look_id, place, code) for place, code in enumerate(codes)],
    )
