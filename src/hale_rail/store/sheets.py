"""Sheets, their rails and stations."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable

from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.supply.sheet import Kind, Rail, Regulation, Sheet, Station, Topology
from hale_rail.errors import InputError, NotFoundError


def insert(connection: sqlite3.Connection, sheet: Sheet, is_pattern: bool = False) -> int:
    """Save a sheet; its stations get ids of their own."""
    cursor = connection.execute(
        "INSERT INTO sheet (name, topology, is_pattern) VALUES (?, ?, ?)",
        (sheet.name, sheet.topology.value, int(is_pattern)),
    )
    sheet_id = cursor.lastrowid or 0
    put_rails(connection, sheet_id, sheet.rails)
    insert_stations(connection, sheet_id, sheet.stations)
    return sheet_id


def put_rails(connection: sqlite3.Connection, sheet_id: int, rails: Iterable[Rail]) -> None:
    """Add rails behind a sheet's own, or correct those it has by that name."""
    for rail in rails:
        low, high = rail.tolerance or (None, None)
        connection.execute(
            "INSERT INTO rail (sheet_id, place, key, nominal_v, regulation, load_min_a, load_max_a,"
            " tolerance_low, tolerance_high, ripple_mv, ohm_isolated, ohm_attached)"
            " VALUES (?, (SELECT count(*) FROM rail WHERE sheet_id = ?), ?, ?, ?, ?, ?, ?, ?, ?,"
            " ?, ?) ON CONFLICT (sheet_id, key) DO UPDATE SET regulation = excluded.regulation,"
            " load_min_a = excluded.load_min_a, load_max_a = excluded.load_max_a,"
            " tolerance_low = excluded.tolerance_low, tolerance_high = excluded.tolerance_high,"
            " ripple_mv = excluded.ripple_mv",
            (sheet_id, sheet_id, rail.key, rail.nominal_v, rail.regulation.value, rail.load_min_a,
             rail.load_max_a, low, high, rail.ripple_mv, rail.ohm_isolated, rail.ohm_attached),
        )  # fmt: skip


def insert_stations(
    connection: sqlite3.Connection, sheet_id: int, stations: Iterable[Station]
) -> None:
    """Add stations to a sheet; their ids are given by the store."""
    for s in stations:
        low, high = s.tolerance or (None, None)
        connection.execute(
            "INSERT INTO station (sheet_id, ref, kind, line, place, value, volt, family, role,"
            " bank, board, safety_class, tolerance_low, tolerance_high, grade, year, is_primary,"
            " is_store, note, rails)"
            " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            (sheet_id, s.ref, s.kind.value, s.line, s.order, s.value, s.volt,
             s.family.value if s.family else None, s.role, s.bank, s.board, s.safety_class, low,
             high, s.grade.value, s.year, int(s.is_primary), int(s.is_store), s.note,
             "\n".join(s.rails)),
        )  # fmt: skip


def load(connection: sqlite3.Connection, sheet_id: int) -> Sheet:
    """Read a sheet whole; raises NotFoundError."""
    row = connection.execute("SELECT * FROM sheet WHERE id = ?", (sheet_id,)).fetchone()
    if row is None:
        raise NotFoundError(f"There is no sheet {sheet_id}.")
    rails = connection.execute(
        "SELECT * FROM rail WHERE sheet_id = ? ORDER BY place", (sheet_id,)
    ).fetchall()
    stations = connection.execute(
        "SELECT * FROM station WHERE sheet_id = ? ORDER BY id", (sheet_id,)
    ).fetchall()
    return Sheet(
        row["name"],
        Topology(row["topology"]),
        tuple(_rail(r) for r in rails),
        tuple(_station(s) for s in stations),
    )


def update_station(connection: sqlite3.Connection, s: Station) -> None:
    """Correct what is marked on a station, and where it stands."""
    low, high = s.tolerance or (None, None)
    connection.execute(
        "UPDATE station SET line = ?, place = ?, value = ?, volt = ?, family = ?, role = ?,"
        " bank = ?, safety_class = ?, tolerance_low = ?, tolerance_high = ?, grade = ?, year = ?,"
        " is_primary = ?, is_store = ?, rails = ? WHERE id = ?",
        (s.line, s.order, s.value, s.volt, s.family.value if s.family else None, s.role, s.bank,
         s.safety_class, low, high, s.grade.value, s.year, int(s.is_primary), int(s.is_store),
         "\n".join(s.rails), s.id),
    )  # fmt: skip


def delete_station(connection: sqlite3.Connection, station_id: int) -> None:
    """Take a station off its sheet; raises InputError while anything was recorded of it."""
    try:
        connection.execute("DELETE FROM station WHERE id = ?", (station_id,))
    except sqlite3.IntegrityError as error:
        raise InputError(
            "It has readings, photos or a decision, so it is on the unit: leave it out by decision."
        ) from error


def delete_rail(connection: sqlite3.Connection, sheet_id: int, key: str) -> None:
    """Take a rail off a sheet with the parts of its line; InputError as `delete_station`."""
    parts = connection.execute(
        "SELECT id FROM station WHERE sheet_id = ? AND line = ?", (sheet_id, key)
    ).fetchall()
    for row in parts:
        delete_station(connection, row["id"])
    connection.execute("DELETE FROM rail WHERE sheet_id = ? AND key = ?", (sheet_id, key))


def rename(connection: sqlite3.Connection, sheet_id: int, name: str) -> None:
    connection.execute("UPDATE sheet SET name = ? WHERE id = ?", (name, sheet_id))


def patterns(connection: sqlite3.Connection) -> list[sqlite3.Row]:
    """Every pattern: id, name, topology and its count of stations."""
    return connection.execute(
        "SELECT sheet.id, name, topology,"
        " (SELECT count(*) FROM station WHERE sheet_id = sheet.id) AS stations"
        " FROM sheet WHERE is_pattern = 1 ORDER BY name"
    ).fetchall()


def _pair(low: float | None, high: float | None) -> tuple[float, float] | None:
    return None if low is None or high is None else (low, high)


def _rail(row: sqlite3.Row) -> Rail:
    return Rail(
        row["key"],
        row["nominal_v"],
        Regulation(row["regulation"]),
        row["load_min_a"],
        row["load_max_a"],
        _pair(row["tolerance_low"], row["tolerance_high"]),
        row["ripple_mv"],
        row["ohm_isolated"],
        row["ohm_attached"],
    )


def _station(row: sqlite3.Row) -> Station:
    return Station(
        id=row["id"],
        ref=row["ref"],
        kind=Kind(row["kind"]),
        line=row["line"],
        order=row["place"],
        value=row["value"],
        volt=row["volt"],
        family=Family(row["family"]) if row["family"] else None,
        role=row["role"],
        bank=row["bank"],
        board=row["board"],
        safety_class=row["safety_class"],
        tolerance=_pair(row["tolerance_low"], row["tolerance_high"]),
        grade=Grade(row["grade"]),
        year=row["year"],
        is_primary=bool(row["is_primary"]),
        is_store=bool(row["is_store"]),
        note=row["note"],
        rails=tuple(row["rails"].split("\n")) if row["rails"] else (),
    )
