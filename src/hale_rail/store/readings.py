"""Readings, strikes and decisions: appended, never changed."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from hale_rail.errors import InputError, NotFoundError


@dataclass(frozen=True)
class Reading:
    """A reading as stored (SI); `struck` the reason it was put aside, "superseded", or ""."""

    id: int
    case_id: int
    station_id: int | None
    rail_key: str
    quantity: str
    setting: str
    polarity: str
    typed: str
    value: float
    high: float
    digit: float
    ampere: float | None
    taken_at: str
    supersedes: int | None
    struck: str = ""


def insert(
    connection: sqlite3.Connection,
    *,
    case_id: int,
    station_id: int | None,
    rail_key: str,
    quantity: str,
    setting: str,
    polarity: str,
    typed: str,
    value: float,
    high: float,
    digit: float,
    ampere: float | None,
    taken_at: str,
    supersedes: int | None,
) -> int:
    """Append a reading; returns its id."""
    cursor = connection.execute(
        "INSERT INTO reading (case_id, station_id, rail_key, quantity, setting, polarity, typed,"
        " value, high, digit, ampere, taken_at, supersedes)"
        " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (case_id, station_id, rail_key, quantity, setting, polarity, typed, value, high, digit,
         ampere, taken_at, supersedes),
    )  # fmt: skip
    return cursor.lastrowid or 0


def of_case(connection: sqlite3.Connection, case_id: int) -> list[Reading]:
    """Every reading of a case, oldest first, struck and superseded ones marked as such."""
    rows = connection.execute(
        "SELECT r.*, CASE WHEN s.id IS NOT NULL THEN s.reason"
        " WHEN later.id IS NOT NULL THEN 'superseded' ELSE '' END AS struck"
        " FROM reading AS r LEFT JOIN strike AS s ON s.reading_id = r.id"
        " LEFT JOIN reading AS later ON later.supersedes = r.id"
        " WHERE r.case_id = ? ORDER BY r.id",
        (case_id,),
    )
    return [Reading(*row) for row in rows]


def ground_records(
    connection: sqlite3.Connection, sheet_id: int
) -> dict[tuple[str, str, str], float]:
    """Ohms to ground by (rail, setting, polarity) that like units read when they were handed back.

    Like units have a sheet of the same name; the newest reading of each stands.
    """
    rows = connection.execute(
        "SELECT r.rail_key, r.setting, r.polarity, r.value FROM sheet AS own"
        " JOIN sheet AS other ON other.name = own.name AND other.id <> own.id"
        " JOIN bench_case AS c ON c.sheet_id = other.id AND c.closed_at IS NOT NULL"
        " JOIN current_reading AS r ON r.case_id = c.id AND r.quantity = 'ground'"
        " WHERE own.id = ? ORDER BY r.id",
        (sheet_id,),
    )
    return {(row[0], row[1], row[2]): row[3] for row in rows}


def latest_at(
    connection: sqlite3.Connection,
    case_id: int,
    station_id: int | None,
    rail_key: str,
    quantity: str,
    setting: str,
    polarity: str,
) -> int | None:
    """Id of the reading that stands at a point, or None."""
    row = connection.execute(
        "SELECT max(id) FROM current_reading WHERE case_id = ? AND station_id IS ? AND rail_key = ?"
        " AND quantity = ? AND setting = ? AND polarity = ?",
        (case_id, station_id, rail_key, quantity, setting, polarity),
    ).fetchone()
    return row[0] if row[0] is None else int(row[0])


def strike(
    connection: sqlite3.Connection, case_id: int, reading_id: int, reason: str, at: str
) -> Reading:
    """Put a reading aside; raises NotFoundError, or InputError when it is aside already."""
    row = connection.execute(
        "SELECT * FROM reading WHERE id = ? AND case_id = ?", (reading_id, case_id)
    ).fetchone()
    if row is None:
        raise NotFoundError("There is no such reading in this case.")
    try:
        connection.execute(
            "INSERT INTO strike (reading_id, reason, struck_at) VALUES (?, ?, ?)",
            (reading_id, reason, at),
        )
    except sqlite3.IntegrityError as error:
        raise InputError("That reading was struck out already.") from error
    return Reading(*row)


def decide(
    connection: sqlite3.Connection,
    case_id: int,
    station_id: int,
    kind: str,
    reason: str,
    at: str,
) -> None:
    """Append a decision about a part."""
    connection.execute(
        "INSERT INTO decision (case_id, station_id, kind, reason, decided_at)"
        " VALUES (?, ?, ?, ?, ?)",
        (case_id, station_id, kind, reason, at),
    )


def decisions(connection: sqlite3.Connection, case_id: int) -> dict[int, sqlite3.Row]:
    """The latest decision about each station of a case."""
    rows = connection.execute(
        "SELECT * FROM decision WHERE case_id = ? ORDER BY id", (case_id,)
    ).fetchall()
    return {row["station_id"]: row for row in rows}
