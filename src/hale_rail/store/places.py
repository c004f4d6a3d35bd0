"""Boards of a unit and the places of its parts: the newest state of what a person drew.

A case's own go before those of other units of its type, of which the newest counts.
"""

from __future__ import annotations

import sqlite3

from hale_rail.core.places.place import SIDES, Board, Place, Side
from hale_rail.store import unit_types
from hale_rail.store.ids import new_uuid

_OWN_OR_TYPE = "WHERE case_id = ? OR unit_type_id = ? ORDER BY case_id = ?, changed_at, id"
_TABLES = ("unit_board", "part_place")


def boards_of(
    connection: sqlite3.Connection, case_id: int, unit_type_id: int | None
) -> dict[str, Board]:
    """The boards of a case, by name in small letters."""
    rows = connection.execute(
        f"SELECT name, width_mm, height_mm, is_measured FROM unit_board {_OWN_OR_TYPE}",
        (case_id, unit_type_id, case_id),
    )
    return {
        name.lower(): Board(name, width, height, bool(is_measured))
        for name, width, height, is_measured in rows
    }


def places_of(
    connection: sqlite3.Connection, case_id: int, unit_type_id: int | None
) -> dict[str, Place]:
    """Where parts stand, by the part's name in capitals; those that were taken off are not told."""
    rows = connection.execute(
        f"SELECT name, board, side, x_mm, y_mm FROM part_place {_OWN_OR_TYPE}",
        (case_id, unit_type_id, case_id),
    )
    newest = {name.upper(): Place(board, SIDES[side], x, y) for name, board, side, x, y in rows}
    return {name: place for name, place in newest.items() if place.board}


def owns_board(connection: sqlite3.Connection, case_id: int, name: str) -> bool:
    """True where a board was drawn in this very case."""
    query = "SELECT 1 FROM unit_board WHERE case_id = ? AND name = ?"
    return connection.execute(query, (case_id, name)).fetchone() is not None


def put_board(
    connection: sqlite3.Connection, case_id: int, unit_type_id: int | None, board: Board, at: str
) -> None:
    """Keep a board of a case, or its new size."""
    connection.execute(
        "INSERT INTO unit_board (uuid, case_id, unit_type_id, name, width_mm, height_mm,"
        " is_measured, changed_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?)"
        " ON CONFLICT (case_id, name) DO UPDATE SET unit_type_id = excluded.unit_type_id,"
        " width_mm = excluded.width_mm, height_mm = excluded.height_mm,"
        " is_measured = excluded.is_measured, changed_at = excluded.changed_at",
        (new_uuid(), case_id, unit_type_id, board.name, board.width_mm, board.height_mm,
         int(board.is_measured), at),
    )  # fmt: skip
    count_change(connection, unit_type_id)


def put_places(
    connection: sqlite3.Connection,
    case_id: int,
    unit_type_id: int | None,
    places: dict[str, Place | None],
    at: str,
) -> None:
    """Keep places by part's name; None takes a part off."""
    connection.executemany(
        "INSERT INTO part_place (uuid, case_id, unit_type_id, name, board, side, x_mm, y_mm,"
        " changed_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)"
        " ON CONFLICT (case_id, name) DO UPDATE SET unit_type_id = excluded.unit_type_id,"
        " board = excluded.board, side = excluded.side, x_mm = excluded.x_mm,"
        " y_mm = excluded.y_mm, changed_at = excluded.changed_at",
        [
            (new_uuid(), case_id, unit_type_id, name, *_columns(place), at)
            for name, place in places.items()
        ],
    )
    count_change(connection, unit_type_id)


def _columns(place: Place | None) -> tuple[str, str, float, float]:
    if place is None:
        return "", Side.TOP.code, 0.0, 0.0
    return place.board, place.side.code, place.x_mm, place.y_mm


def count_change(connection: sqlite3.Connection, unit_type_id: int | None) -> None:
    """Have the other units of a type read boards, places and photos again."""
    if unit_type_id is not None:
        unit_types.count_change(connection, unit_type_id)


def give_type(connection: sqlite3.Connection, case_id: int, unit_type_id: int) -> None:
    """Make a case's boards and places that are of no type those of a type."""
    for table in _TABLES:
        given = connection.execute(
            f"UPDATE {table} SET unit_type_id = ? WHERE case_id = ? AND unit_type_id IS NULL",
            (unit_type_id, case_id),
        )
        if given.rowcount:
            unit_types.count_change(connection, unit_type_id)
