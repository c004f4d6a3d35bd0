"""The workshop's settings, meters and power resistors."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence

from hale_rail.core.parts.banks import Meter
from hale_rail.core.power.ready_loads import LOAD_KINDS, ReadyLoad
from hale_rail.core.safety.bleeding import PowerResistor
from hale_rail.store.ids import new_uuid

_METER_COLUMNS = "name, cap_hz, esr_hz, cap_share, esr_share, esr_ohm, lead_ohm, esr_min_farad"


def settings(connection: sqlite3.Connection) -> dict[str, str]:
    """Settings by key, those that were ever saved."""
    return {row["key"]: row["value"] for row in connection.execute("SELECT * FROM setting")}


def put_settings(connection: sqlite3.Connection, values: Mapping[str, str]) -> None:
    """Save settings by key."""
    connection.executemany(
        "INSERT INTO setting VALUES (?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value",
        list(values.items()),
    )


def buying(connection: sqlite3.Connection) -> dict[str, str]:
    """How the workshop buys, by key, what was ever saved."""
    return {row["key"]: row["value"] for row in connection.execute("SELECT * FROM buying")}


def put_buying(connection: sqlite3.Connection, values: Mapping[str, str]) -> None:
    """Save how the workshop buys, by key."""
    connection.executemany("INSERT OR REPLACE INTO buying VALUES (?, ?)", list(values.items()))


def resistors(connection: sqlite3.Connection) -> list[PowerResistor]:
    """The power resistors at hand."""
    rows = connection.execute("SELECT ohm, watt, kind, max_volt, qty FROM resistor ORDER BY id")
    return [PowerResistor(*row) for row in rows]


def put_resistors(connection: sqlite3.Connection, stock: Sequence[PowerResistor]) -> None:
    """Replace the list of power resistors."""
    connection.execute("DELETE FROM resistor")
    connection.executemany(
        "INSERT INTO resistor (ohm, watt, kind, max_volt, qty) VALUES (?, ?, ?, ?, ?)",
        [(r.ohm, r.watt, r.kind, r.max_volt, r.qty) for r in stock],
    )


def ready_loads(connection: sqlite3.Connection) -> list[ReadyLoad]:
    """The ready-made loads at hand."""
    rows = connection.execute("SELECT name, kind, volt, ampere, qty FROM ready_load ORDER BY id")
    return [ReadyLoad(name, LOAD_KINDS[kind], *rest) for name, kind, *rest in rows]


def put_ready_loads(connection: sqlite3.Connection, wanted: Sequence[ReadyLoad]) -> None:
    """Replace the list of ready-made loads."""
    connection.execute("DELETE FROM ready_load")
    connection.executemany(
        "INSERT INTO ready_load (name, kind, volt, ampere, qty) VALUES (?, ?, ?, ?, ?)",
        [(x.name, x.kind.code, x.volt, x.ampere, x.qty) for x in wanted],
    )


def meters(connection: sqlite3.Connection, *, listed: bool = True) -> dict[int, Meter]:
    """Meters by id: those in the workshop's list, or all that readings were ever taken with."""
    rows = connection.execute(
        f"SELECT id, {_METER_COLUMNS} FROM meter WHERE is_listed OR ? ORDER BY id",
        (int(not listed),),
    )
    return {
        row["id"]: Meter(
            cap_hz=row["cap_hz"],
            esr_hz=row["esr_hz"],
            cap_share=row["cap_share"],
            esr_share=row["esr_share"],
            esr_ohm=row["esr_ohm"],
            name=row["name"],
            lead_ohm=row["lead_ohm"],
            esr_min_farad=row["esr_min_farad"],
        )
        for row in rows
    }


def meter_named(connection: sqlite3.Connection, name: str) -> int:
    """The meter of an instrument's name; added beside the workshop's list where there is none."""
    wanted = Meter(name=name)
    for meter_id, meter in meters(connection, listed=False).items():
        if meter == wanted:
            return meter_id
    return _insert_meter(connection, wanted, is_listed=False)


def _insert_meter(connection: sqlite3.Connection, meter: Meter, *, is_listed: bool) -> int:
    cursor = connection.execute(
        f"INSERT INTO meter (uuid, {_METER_COLUMNS}, is_listed)"
        " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (new_uuid(), meter.name, meter.cap_hz, meter.esr_hz, meter.cap_share, meter.esr_share,
         meter.esr_ohm, meter.lead_ohm, meter.esr_min_farad, int(is_listed)),
    )  # fmt: skip
    return cursor.lastrowid or 0


def put_meters(connection: sqlite3.Connection, wanted: Sequence[Meter]) -> None:
    """Make this the list of meters; one described again is a new row, the old stays unlisted."""
    known = {meter: i for i, meter in meters(connection, listed=False).items()}
    connection.execute("UPDATE meter SET is_listed = 0")
    for meter in wanted:
        if meter in known:
            connection.execute("UPDATE meter SET is_listed = 1 WHERE id = ?", (known[meter],))
            continue
        _insert_meter(connection, meter, is_listed=True)
