"""Types of unit: units of one type are alike because a person said so."""

from __future__ import annotations

import sqlite3

from msgspec import Struct

from hale_rail.errors import InputError
from hale_rail.store.ids import new_uuid


class UnitType(Struct, frozen=True):
    """A type by its id and name."""

    id: int
    name: str


def insert(connection: sqlite3.Connection, name: str) -> int:
    """A new type; raises InputError when the name is taken."""
    try:
        cursor = connection.execute(
            "INSERT INTO unit_type (uuid, name) VALUES (?, ?)", (new_uuid(), name)
        )
    except sqlite3.IntegrityError as error:
        raise InputError(
            f"There is a pattern {name} already. Choose another name.", field="name"
        ) from error
    return cursor.lastrowid or 0


def listed(connection: sqlite3.Connection) -> list[UnitType]:
    """Every type, by name."""
    rows = connection.execute("SELECT id, name FROM unit_type ORDER BY name")
    return [UnitType(*row) for row in rows]


def revision(connection: sqlite3.Connection, unit_type_id: int | None) -> int:
    """How often records or maps of a type changed; 0 without a type."""
    row = connection.execute(
        "SELECT revision FROM unit_type WHERE id = ?", (unit_type_id,)
    ).fetchone()
    return int(row["revision"]) if row else 0


def count_change(connection: sqlite3.Connection, unit_type_id: int) -> None:
    """Note that there are new records or another map of a type."""
    connection.execute("UPDATE unit_type SET revision = revision + 1 WHERE id = ?", (unit_type_id,))
