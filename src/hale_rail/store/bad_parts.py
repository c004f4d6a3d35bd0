"""New parts that read bad before they were fitted, and how many of a source were taken in hand."""

from __future__ import annotations

import sqlite3

from msgspec import Struct

from hale_rail.store.append_only import AppendedRow, AppendOnly


class BadPart(Struct, frozen=True):
    """One that read bad: the case and the position it was for, its number, its source, why."""

    case: str
    ref: str
    sku: str
    source: str
    why: str
    at: str


class BadPartRow(AppendedRow, frozen=True):
    """One as it was laid aside: for which part."""

    part_id: int
    sku: str
    source: str
    why: str


BAD_PARTS = AppendOnly("bad_part", BadPartRow)


def listed(connection: sqlite3.Connection) -> list[BadPart]:
    """Every one, the newest first."""
    rows = connection.execute(
        "SELECT c.number, coalesce((SELECT m.ref FROM part_marking AS m WHERE m.part_id = b.part_id"
        " ORDER BY m.id DESC LIMIT 1), ''), b.sku, b.source, b.why, l.at"
        " FROM bad_part AS b JOIN bench_case AS c ON c.id = b.case_id"
        " JOIN log AS l ON l.id = b.log_id ORDER BY b.id DESC"
    )
    return [BadPart(*row) for row in rows]


def fitted_by_source(connection: sqlite3.Connection) -> dict[str, int]:
    """How many parts of each source were fitted by the rework."""
    rows = connection.execute(
        "SELECT json_extract(o.note, '$.source'), count(*) FROM rework_step AS o"
        " JOIN rework_step AS f ON f.part_id = o.part_id AND f.step = 'fitted' AND f.id > o.id"
        " WHERE o.step = 'out' AND o.note <> ''"
        " AND o.id NOT IN (SELECT step_id FROM rework_strike)"
        " AND f.id NOT IN (SELECT step_id FROM rework_strike)"
        " GROUP BY 1"
    )
    return {row[0]: row[1] for row in rows if row[0]}
