"""The rows of a soak: appended, put aside by a strike."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.soak.soak import Sample
from hale_rail.errors import InputError
from hale_rail.store import sheets
from hale_rail.store.ids import new_uuid


class SoakRow(Struct, frozen=True):
    """A row as stored: of which rail, and what was read (its moment in seconds since 1970)."""

    id: int
    log_id: int
    rail: str
    sample: Sample
    source: str


def insert(
    connection: sqlite3.Connection,
    case_id: int,
    sheet_id: int,
    log_id: int,
    rows: Sequence[tuple[str, Sample]],
    source: str,
) -> None:
    """Append rows by rail's key; raises NotFoundError for a rail the sheet has not."""
    ids = {key: sheets.rail_id(connection, sheet_id, key) for key in {key for key, _ in rows}}
    connection.executemany(
        "INSERT INTO soak_row (uuid, case_id, log_id, rail_id, at_s, volt, ripple_mv, celsius,"
        " source) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
        [
            (new_uuid(), case_id, log_id, ids[key], s.at_s, s.volt, s.ripple_mv, s.celsius, source)
            for key, s in rows
        ],
    )


def of_case(connection: sqlite3.Connection, case_id: int, after: int = 0) -> list[SoakRow]:
    """Rows with ids above `after`, as they were appended."""
    rows = connection.execute(
        "SELECT s.id, s.log_id, rail.key, s.at_s, s.volt, s.ripple_mv, s.celsius, s.source"
        " FROM soak_row AS s JOIN rail ON rail.id = s.rail_id"
        " WHERE s.case_id = ? AND s.id > ? ORDER BY s.id",
        (case_id, after),
    )
    return [SoakRow(r[0], r[1], r[2], Sample(*r[3:7]), r[7]) for r in rows]


def strike(
    connection: sqlite3.Connection, case_id: int, log_id: int, row_id: int, reason: str
) -> None:
    """Put a row aside; raises InputError when it is aside already."""
    try:
        connection.execute(
            "INSERT INTO soak_strike (uuid, case_id, log_id, row_id, reason)"
            " VALUES (?, ?, ?, ?, ?)",
            (new_uuid(), case_id, log_id, row_id, reason),
        )
    except sqlite3.IntegrityError as error:
        raise InputError("That row was struck out already.") from error


def struck(connection: sqlite3.Connection, case_id: int) -> frozenset[int]:
    """The ids of rows that were put aside."""
    rows = connection.execute("SELECT row_id FROM soak_strike WHERE case_id = ?", (case_id,))
    return frozenset(row[0] for row in rows)
