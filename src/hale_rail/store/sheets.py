"""Sheets with their versions: rails and parts keep their identity, their markings are rows."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from typing import Any

from msgspec import Struct

from hale_rail.core.behind.pins import read_pins, write_pins
from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.parts.kinds import by_code
from hale_rail.core.parts.markings import Winding, WindingMarking
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import REGULATIONS, TOPOLOGIES, Rail, Sheet
from hale_rail.errors import NotFoundError
from hale_rail.store.ids import new_uuid

_PART_COLUMNS = (
    "ref", "line", "place", "role", "bank", "board", "year", "is_primary", "note", "value", "volt",
    "tolerance_low", "tolerance_high", "family", "safety_class", "grade", "material",
    "bleeder_for", "fuse_speed", "chip",
)  # fmt: skip
_RAIL_COLUMNS = (
    "nominal_v", "regulation", "load_min_a", "load_max_a", "tolerance_low", "tolerance_high",
    "ripple_mv", "ohm_isolated", "ohm_attached", "trimmer", "guards", "current",
)  # fmt: skip


class SheetPattern(Struct, frozen=True):
    """A sheet to start cases from, and the type of unit it is of."""

    id: int
    name: str
    topology: str
    unit_type_id: int | None
    parts: int

    @property
    def topology_words(self) -> str:
        """Its topology as one says it."""
        return TOPOLOGIES[self.topology].words


def insert(
    connection: sqlite3.Connection,
    sheet: Sheet,
    at: str,
    *,
    is_pattern: bool = False,
    unit_type_id: int | None = None,
) -> int:
    """Save a sheet as its first version; its parts and rails get identities of their own."""
    cursor = connection.execute(
        "INSERT INTO sheet (uuid, name, topology, mains_v, mains_hz, year, is_pattern,"
        " unit_type_id, purpose, is_self_loaded) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (new_uuid(), sheet.name, sheet.topology.code, sheet.mains_v, sheet.mains_hz, sheet.year,
         int(is_pattern), unit_type_id, sheet.purpose, int(sheet.is_self_loaded)),
    )  # fmt: skip
    sheet_id = cursor.lastrowid or 0
    version = new_version(connection, sheet_id, at)
    put_rails(connection, sheet_id, version, sheet.rails)
    add_parts(connection, sheet_id, version, sheet.parts)
    return sheet_id


def new_version(connection: sqlite3.Connection, sheet_id: int, at: str) -> int:
    """Begin the sheet's next version; returns its number."""
    number = latest_version(connection, sheet_id) + 1
    connection.execute(
        "INSERT INTO sheet_version (sheet_id, number, made_at) VALUES (?, ?, ?)",
        (sheet_id, number, at),
    )
    return number


def latest_version(connection: sqlite3.Connection, sheet_id: int) -> int:
    """The number of the sheet's newest version; 0 before the first."""
    row = connection.execute(
        "SELECT max(number) AS number FROM sheet_version WHERE sheet_id = ?", (sheet_id,)
    ).fetchone()
    return int(row["number"] or 0)


def put_rails(
    connection: sqlite3.Connection, sheet_id: int, version: int, rails: Iterable[Rail]
) -> None:
    """Add rails behind a sheet's own, or mark again those it has by that key."""
    for rail in rails:
        connection.execute(
            "INSERT OR IGNORE INTO rail (uuid, sheet_id, key, place) VALUES (?, ?, ?,"
            " (SELECT count(*) FROM rail WHERE sheet_id = ?))",
            (new_uuid(), sheet_id, rail.key, sheet_id),
        )
        _mark_rail(connection, rail_id(connection, sheet_id, rail.key), version, rail)


def order_rails(
    connection: sqlite3.Connection, sheet_id: int, version: int, rails: Iterable[Rail]
) -> None:
    """Mark the places of a sheet's rails from this version on."""
    for place, rail in enumerate(rails):
        _mark_rail(connection, rail_id(connection, sheet_id, rail.key), version, rail, place=place)


def remove_rail(connection: sqlite3.Connection, sheet_id: int, version: int, rail: Rail) -> None:
    """Take a rail off in this version."""
    _mark_rail(connection, rail_id(connection, sheet_id, rail.key), version, rail, is_removed=True)


def rail_id(connection: sqlite3.Connection, sheet_id: int, key: str) -> int:
    """The identity of a rail; raises NotFoundError."""
    row = connection.execute(
        "SELECT id FROM rail WHERE sheet_id = ? AND key = ?", (sheet_id, key)
    ).fetchone()
    if row is None:
        raise NotFoundError(f"There is no rail {key} on this unit.")
    return int(row["id"])


def _mark_rail(
    connection: sqlite3.Connection,
    rail: int,
    version: int,
    marked: Rail,
    *,
    is_removed: bool = False,
    place: int | None = None,
) -> None:
    """A rail's marking in a version; without a place it keeps the one it had."""
    low, high = marked.tolerance or (None, None)
    connection.execute(
        "INSERT INTO rail_marking (rail_id, version, is_removed, marked_place,"
        f" {', '.join(_RAIL_COLUMNS)}) VALUES (?, ?, ?, ifnull(?, (SELECT marked_place FROM"
        " rail_marking WHERE rail_id = ? ORDER BY version DESC LIMIT 1))"
        f"{', ?' * len(_RAIL_COLUMNS)})",
        (rail, version, int(is_removed), place, rail, marked.nominal_v, marked.regulation.code,
         marked.load_min_a, marked.load_max_a, low, high, marked.ripple_mv, marked.ohm_isolated,
         marked.ohm_attached, marked.trimmer, marked.guards, "ac" if marked.is_ac else "dc"),
    )  # fmt: skip


def add_parts(
    connection: sqlite3.Connection, sheet_id: int, version: int, parts: Iterable[Part]
) -> list[int]:
    """Add parts; returns the ids that the store gives them."""
    ids = []
    for part in parts:
        cursor = connection.execute(
            "INSERT INTO part (uuid, sheet_id, kind) VALUES (?, ?, ?)",
            (new_uuid(), sheet_id, part.kind.code),
        )
        ids.append(cursor.lastrowid or 0)
        mark_part(connection, ids[-1], version, part)
    return ids


def mark_part(
    connection: sqlite3.Connection,
    part_id: int,
    version: int,
    part: Part,
    *,
    is_removed: bool = False,
) -> None:
    """What is marked on a part from this version on, or that it was taken off."""
    cursor = connection.execute(
        f"INSERT INTO part_marking (part_id, version, is_removed, {', '.join(_PART_COLUMNS)})"
        f" VALUES (?, ?, ?{', ?' * len(_PART_COLUMNS)})",
        (part_id, version, int(is_removed), *_part_values(part)),
    )
    marking_id = cursor.lastrowid
    connection.executemany(
        "INSERT INTO part_rail VALUES (?, ?, ?)",
        [(marking_id, place, key) for place, key in enumerate(_rails_of(part))],
    )
    windings = part.marking.windings if isinstance(part.marking, WindingMarking) else ()
    connection.executemany(
        "INSERT INTO part_winding VALUES (?, ?, ?, ?)",
        [(marking_id, place, w.line, w.ohm) for place, w in enumerate(windings)],
    )


def _part_values(part: Part) -> tuple[object, ...]:
    low, high = part.tolerance or (None, None)
    cap = part.capacitor
    return (
        part.ref, part.line, part.order, part.role, part.bank, part.board, part.year,
        None if part.is_primary is None else int(part.is_primary), part.note, part.value, part.volt,
        low, high, part.family.value if part.family else None, part.safety_class or None,
        cap.grade.value if cap else None,
        getattr(part.marking, "material", "") or None, part.bleeder_for or None,
        getattr(part.marking, "speed", ""), _chip_text(part),
    )  # fmt: skip


def _rails_of(part: Part) -> tuple[str, ...]:
    return part.chip.rails if part.chip else part.rails


def _chip_text(part: Part) -> str:
    """What is known of a chip beside its rails, as JSON; "" for nothing."""
    chip = part.chip
    known = {
        "package": chip.package, "bits": list(chip.bits), "active": chip.active,
        "pins": write_pins(chip.pins),
    } if chip else {}  # fmt: skip
    filled = {name: value for name, value in known.items() if value}
    return json.dumps(filled) if filled else ""


def load(connection: sqlite3.Connection, sheet_id: int, version: int | None = None) -> Sheet:
    """Read a sheet whole, as it is now or as it was in a version; raises NotFoundError."""
    row = connection.execute("SELECT * FROM sheet WHERE id = ?", (sheet_id,)).fetchone()
    if row is None:
        raise NotFoundError(f"There is no sheet {sheet_id}.")
    number = version or latest_version(connection, sheet_id)
    return Sheet(
        row["name"],
        TOPOLOGIES[row["topology"]],
        tuple(_rails(connection, sheet_id, number)),
        tuple(_parts(connection, sheet_id, number)),
        row["mains_v"],
        row["mains_hz"],
        row["year"],
        row["purpose"],
        bool(row["is_self_loaded"]),
    )


def _rails(connection: sqlite3.Connection, sheet_id: int, version: int) -> list[Rail]:
    rows = connection.execute(
        "SELECT r.key, r.uuid, m.*, max(m.version) FROM rail AS r"
        " JOIN rail_marking AS m ON m.rail_id = r.id"
        " WHERE r.sheet_id = ? AND m.version <= ? GROUP BY r.id"
        " ORDER BY ifnull(m.marked_place, r.place), r.place",
        (sheet_id, version),
    )
    return [
        Rail(
            row["key"], row["nominal_v"], REGULATIONS[row["regulation"]], row["load_min_a"],
            row["load_max_a"], _tolerance(row), row["ripple_mv"], row["ohm_isolated"],
            row["ohm_attached"], row["uuid"], row["trimmer"], row["guards"],
            row["current"] == "ac",
        )
        for row in rows
        if not row["is_removed"]
    ]  # fmt: skip


def _parts(connection: sqlite3.Connection, sheet_id: int, version: int) -> list[Part]:
    rows = connection.execute(
        "SELECT p.uuid, p.kind, m.*, max(m.version) FROM part AS p"
        " JOIN part_marking AS m ON m.part_id = p.id"
        " WHERE p.sheet_id = ? AND m.version <= ? GROUP BY p.id ORDER BY p.id",
        (sheet_id, version),
    ).fetchall()
    rails: dict[int, list[str]] = {}
    windings: dict[int, list[Winding]] = {}
    of_sheet = (
        " JOIN part_marking AS m ON m.id = marking_id JOIN part AS p ON p.id = m.part_id"
        " WHERE p.sheet_id = ? ORDER BY marking_id, x.place"
    )
    for row in connection.execute(f"SELECT x.* FROM part_rail AS x{of_sheet}", (sheet_id,)):
        rails.setdefault(row["marking_id"], []).append(row["rail_key"])
    for row in connection.execute(f"SELECT x.* FROM part_winding AS x{of_sheet}", (sheet_id,)):
        windings.setdefault(row["marking_id"], []).append(Winding(row["line"], row["ohm"]))
    return [
        _part(row, tuple(rails.get(row["id"], ())), tuple(windings.get(row["id"], ())))
        for row in rows
        if not row["is_removed"]
    ]


def _part(row: sqlite3.Row, rails: tuple[str, ...], windings: tuple[Winding, ...]) -> Part:
    kind = by_code(row["kind"])
    known = {
        "value": row["value"],
        "volt": row["volt"],
        "tolerance": _tolerance(row),
        "family": Family(row["family"]) if row["family"] else None,
        "safety_class": row["safety_class"],
        "grade": Grade(row["grade"]) if row["grade"] else None,
        "material": row["material"],
        "bleeder_for": row["bleeder_for"],
        "speed": row["fuse_speed"] or None,
        "rails": rails,
        "windings": windings,
        **_chip(row["chip"], rails),
    }
    return Part(
        row["part_id"], row["ref"], kind, row["line"], row["place"], kind.marking.of(known),
        row["role"], row["bank"], row["board"], row["year"],
        None if row["is_primary"] is None else bool(row["is_primary"]), row["note"], row["uuid"],
    )  # fmt: skip


def _chip(text: str, rails: Sequence[str]) -> dict[str, Any]:
    known: dict[str, Any] = json.loads(text) if text else {}
    if "bits" in known:
        known["bits"] = tuple(known["bits"])
    if "pins" in known:
        known["pins"] = read_pins(known["pins"], _pin_rails(known["pins"]) or rails)
    return known


def _pin_rails(text: str) -> list[str]:
    """The rails that written supply pins name: a rail may have been taken off the sheet since."""
    lines = (line.partition(" supply ") for line in text.splitlines())
    return list(dict.fromkeys(rail for _, found, rail in lines if found))


def _tolerance(row: sqlite3.Row) -> tuple[float, float] | None:
    low, high = row["tolerance_low"], row["tolerance_high"]
    return None if low is None or high is None else (low, high)


def describe(
    connection: sqlite3.Connection, sheet_id: int, year: int | None, purpose: str, *, alone: bool
) -> None:
    """Say when a unit was made, what it was opened for, and whether it is its own load."""
    connection.execute(
        "UPDATE sheet SET year = ?, purpose = ?, is_self_loaded = ? WHERE id = ?",
        (year, purpose, int(alone), sheet_id),
    )


def put_type(connection: sqlite3.Connection, sheet_id: int, unit_type_id: int, name: str) -> None:
    """Say of which type of unit a sheet is; the sheet takes the name too."""
    connection.execute(
        "UPDATE sheet SET unit_type_id = ?, name = ? WHERE id = ?", (unit_type_id, name, sheet_id)
    )


def patterns(connection: sqlite3.Connection) -> list[SheetPattern]:
    """Every pattern, by name."""
    rows = connection.execute(
        "SELECT s.id, s.name, s.topology, s.unit_type_id,"
        " (SELECT count(*) FROM current_part AS p WHERE p.sheet_id = s.id) AS parts"
        " FROM sheet AS s WHERE s.is_pattern = 1 ORDER BY s.name"
    )
    return [SheetPattern(*row) for row in rows]
