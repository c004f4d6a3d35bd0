"""Maps of boards and attachment trees: the newest state of what a person drew."""

from __future__ import annotations

import sqlite3

from msgspec import Struct

from hale_rail.errors import ConflictError
from hale_rail.store import unit_types
from hale_rail.store.ids import new_uuid


class StoredDrawing(Struct, frozen=True):
    """A map or a tree as stored: of a rail, as JSON, with the count of its changes.

    `case_id`: the case that it was drawn in.
    """

    id: int
    case_id: int
    rail: str
    body: str
    version: int


_COLUMNS = "id, case_id, rail_key, body, version"


def maps_of(
    connection: sqlite3.Connection, case_id: int, unit_type_id: int | None
) -> dict[str, StoredDrawing]:
    """The maps of a case by rail: its own, else the newest of its type of unit."""
    rows = connection.execute(
        f"SELECT {_COLUMNS} FROM board_map WHERE case_id = ? OR unit_type_id = ?"
        " ORDER BY case_id = ?, id",
        (case_id, unit_type_id, case_id),
    )
    return {row["rail_key"]: StoredDrawing(*row) for row in rows}


def put_map(
    connection: sqlite3.Connection,
    case_id: int,
    unit_type_id: int | None,
    known: StoredDrawing | None,
    rail: str,
    body: str,
    at: str,
) -> None:
    """Keep a map: a new one of the case, or a change of the known one, wherever it was drawn."""
    if known is None:
        connection.execute(
            "INSERT INTO board_map (uuid, case_id, unit_type_id, rail_key, body, changed_at)"
            " VALUES (?, ?, ?, ?, ?, ?)",
            (new_uuid(), case_id, unit_type_id, rail, body, at),
        )
        return
    changed = connection.execute(
        "UPDATE board_map SET body = ?, version = version + 1, changed_at = ?,"
        " unit_type_id = ifnull(?, unit_type_id) WHERE id = ? AND version = ?",
        (body, at, unit_type_id, known.id, known.version),
    )
    if not changed.rowcount:
        raise ConflictError("Another tab changed this map first. Reload it, then draw on.")


def give_type(connection: sqlite3.Connection, case_id: int, unit_type_id: int) -> None:
    """Make the maps that a case drew, and that are of no type, those of a type."""
    given = connection.execute(
        "UPDATE board_map SET unit_type_id = ? WHERE case_id = ? AND unit_type_id IS NULL",
        (unit_type_id, case_id),
    )
    if given.rowcount:
        unit_types.count_change(connection, unit_type_id)


def trees_of(connection: sqlite3.Connection, case_id: int) -> dict[str, StoredDrawing]:
    """The attachment trees of a case that a person changed, by rail."""
    rows = connection.execute(
        f"SELECT {_COLUMNS} FROM attachment_tree WHERE case_id = ?", (case_id,)
    )
    return {row["rail_key"]: StoredDrawing(*row) for row in rows}


def put_tree(connection: sqlite3.Connection, case_id: int, rail: str, body: str, at: str) -> None:
    """Keep a tree of a rail."""
    connection.execute(
        "INSERT INTO attachment_tree (uuid, case_id, rail_key, body, changed_at)"
        " VALUES (?, ?, ?, ?, ?) ON CONFLICT (case_id, rail_key)"
        " DO UPDATE SET body = excluded.body, version = version + 1, changed_at = ?",
        (new_uuid(), case_id, rail, body, at, at),
    )
