"""What repaired units of a type read to ground when they were handed back."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from msgspec import Struct

from hale_rail.store.ids import new_uuid


class GroundRecord(Struct, frozen=True):
    """A sound reading in ohms of a rail (by key), and when it became a record."""

    rail: str
    condition: str
    ohm: float
    made_at: str


class Sound(Struct, frozen=True):
    """A sound reading to be kept as a record."""

    reading_id: int
    rail: str
    condition: str
    ohm: float


def insert(
    connection: sqlite3.Connection,
    case_id: int,
    unit_type_id: int,
    sounds: Sequence[Sound],
    at: str,
) -> None:
    """Keep a handed-back unit's sound readings."""
    connection.executemany(
        "INSERT INTO ground_record (uuid, case_id, unit_type_id, reading_id, rail_key, condition,"
        " ohm, made_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        [
            (new_uuid(), case_id, unit_type_id, s.reading_id, s.rail, s.condition, s.ohm, at)
            for s in sounds
        ],
    )


def of_type(
    connection: sqlite3.Connection, unit_type_id: int | None, but_case: int
) -> list[GroundRecord]:
    """Records of a type's other units, oldest first."""
    rows = connection.execute(
        "SELECT rail_key, condition, ohm, made_at FROM ground_record"
        " WHERE unit_type_id = ? AND case_id <> ? ORDER BY id",
        (unit_type_id, but_case),
    )
    return [GroundRecord(*row) for row in rows]
