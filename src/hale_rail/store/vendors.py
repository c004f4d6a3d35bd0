"""Where parts come from: vendors with their terms, the newest list of each, and the drawers."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from decimal import Decimal

from msgspec import Struct, field
from msgspec.structs import asdict

from hale_rail.core.parts.families import Family
from hale_rail.core.parts.ratings import Ratings
from hale_rail.core.recap.needs import MOUNTS, Build
from hale_rail.core.recap.offers import ORIGINS, Drawer, Offer, Vendor
from hale_rail.core.recap.rated_parts import WARES, AnyBuild, RatedBuild
from hale_rail.store.ids import new_uuid

#: what tells a capacitor of lists from other parts
_CAPACITOR = "capacitor"
_BUILD = ("kind", "ratings", "family", "farad", "volt", "safety_class", "temp_c", "mount",
          "pitch_mm", "diameter_mm", "height_mm", "esr_ohm", "ripple_a", "life_h")  # fmt: skip
_BUILD_COLUMNS = ", ".join(_BUILD)
_MARKS = ", ".join("?" * len(_BUILD))


class VendorRow(Struct, frozen=True):
    """A vendor as kept: terms in its currency, how its lists are read, how old its prices are.

    `rate`: what one of its currency costs in the workshop's, None while not known; `service`: where
    its live stock is told; `mapping`: a list's column by field; `priced_at` and `priced_from` of
    its newest list; `problem`: why the last refresh failed, "" where it did not.
    """

    terms: Vendor
    currency: str = ""
    rate: Decimal | None = None
    service: str = ""
    mapping: Mapping[str, str] = field(default_factory=dict)
    priced_at: str = ""
    priced_from: str = ""
    problem: str = ""
    id: int = 0

    @property
    def name(self) -> str:
        """Its name."""
        return self.terms.name


def vendors(connection: sqlite3.Connection) -> list[VendorRow]:
    """The listed vendors by name."""
    rows = connection.execute("SELECT * FROM vendor WHERE is_listed ORDER BY name")
    return [_vendor(row) for row in rows]


def _vendor(row: sqlite3.Row) -> VendorRow:
    free = row["free_above"]
    terms = Vendor(row["name"], Decimal(row["shipping"]), Decimal(free) if free else None)
    return VendorRow(
        terms,
        row["currency"],
        Decimal(row["rate"]) if row["rate"] else None,
        row["service"],
        json.loads(row["mapping"]),
        row["priced_at"] or "",
        row["priced_from"],
        row["refresh_problem"],
        row["id"],
    )


def put_vendors(connection: sqlite3.Connection, wanted: Sequence[VendorRow]) -> None:
    """Make this the list of vendors, by name; their lists and mappings stay."""
    connection.execute("UPDATE vendor SET is_listed = 0")
    for row in wanted:
        terms = row.terms
        connection.execute(
            "INSERT INTO vendor (uuid, name, shipping, free_above, currency, rate, service)"
            " VALUES (?, ?, ?, ?, ?, ?, ?) ON CONFLICT (name) DO UPDATE SET name = excluded.name,"
            " shipping = excluded.shipping, free_above = excluded.free_above,"
            " currency = excluded.currency, rate = excluded.rate, service = excluded.service,"
            " is_listed = 1",
            (
                new_uuid(), terms.name, str(terms.shipping),
                None if terms.free_above is None else str(terms.free_above),
                row.currency, None if row.rate is None else str(row.rate), row.service,
            ),
        )  # fmt: skip


def put_mapping(connection: sqlite3.Connection, vendor_id: int, mapping: Mapping[str, str]) -> None:
    """Remember how a vendor's lists are read."""
    text = json.dumps(dict(mapping), ensure_ascii=False)
    connection.execute("UPDATE vendor SET mapping = ? WHERE id = ?", (text, vendor_id))


def put_problem(connection: sqlite3.Connection, vendor_id: int, problem: str) -> None:
    """Note why a vendor's prices could not be refreshed; the old ones stay."""
    connection.execute("UPDATE vendor SET refresh_problem = ? WHERE id = ?", (problem, vendor_id))


def offers(
    connection: sqlite3.Connection, after: int = 0, most: int = 1_000_000
) -> list[tuple[int, Offer]]:
    """What the listed vendors offer by their newest lists, with the rows' ids, in their order.

    In each vendor's currency; rows with ids above `after`, at most so many at a time.
    """
    rows = connection.execute(
        "SELECT v.name AS vendor, o.* FROM offer AS o JOIN vendor AS v ON v.id = o.vendor_id"
        " WHERE v.is_listed AND o.id > ? ORDER BY o.id LIMIT ?",
        (after, most),
    )
    return [
        (
            row["id"],
            Offer(
                row["vendor"],
                row["sku"],
                _build(row),
                tuple((start, Decimal(price)) for start, price in json.loads(row["prices"])),
                row["moq"],
                row["pack"],
                row["available"],
                row["kit"],
                row["per_kit"],
            ),
        )
        for row in rows
    ]


def put_offers(
    connection: sqlite3.Connection, vendor_id: int, wanted: Iterable[Offer], at: str, source: str
) -> None:
    """Take a vendor's new list in place of the old one."""
    connection.execute("DELETE FROM offer WHERE vendor_id = ?", (vendor_id,))
    connection.executemany(
        f"INSERT INTO offer (vendor_id, sku, {_BUILD_COLUMNS}, prices, moq, pack, available,"
        f" kit, per_kit) VALUES (?, ?, {_MARKS}, ?, ?, ?, ?, ?, ?)",
        [
            (
                vendor_id, offer.sku, *_cells(offer.build),
                json.dumps([[start, str(price)] for start, price in offer.prices]),
                offer.moq, offer.pack, offer.available, offer.kit, offer.per_kit,
            )
            for offer in wanted
        ],
    )  # fmt: skip
    connection.execute(
        "UPDATE vendor SET priced_at = ?, priced_from = ?, refresh_problem = '' WHERE id = ?",
        (at, source, vendor_id),
    )


def drawers(connection: sqlite3.Connection) -> list[Drawer]:
    """What is in the drawers."""
    rows = connection.execute("SELECT * FROM drawer ORDER BY id")
    return [
        Drawer(
            row["sku"],
            _build(row),
            row["qty"],
            ORIGINS[row["origin"]],
            bool(row["is_tested"]),
            row["lot"],
        )
        for row in rows
    ]


def put_drawers(connection: sqlite3.Connection, wanted: Iterable[Drawer]) -> None:
    """Replace what is in the drawers."""
    connection.execute("DELETE FROM drawer")
    add_drawers(connection, wanted)


def add_drawers(connection: sqlite3.Connection, more: Iterable[Drawer]) -> None:
    """Put further drawers beside those that are there."""
    connection.executemany(
        f"INSERT INTO drawer (uuid, sku, {_BUILD_COLUMNS}, qty, origin, is_tested, lot)"
        f" VALUES (?, ?, {_MARKS}, ?, ?, ?, ?)",
        [
            (new_uuid(), d.sku, *_cells(d.build), d.qty, d.origin.code, int(d.is_tested), d.lot)
            for d in more
        ],
    )


def note_received(connection: sqlite3.Connection, sha256: str, at: str, pieces: int) -> bool:
    """Note that a filled-in order was read back; False when the same was read before."""
    done = connection.execute(
        "INSERT OR IGNORE INTO received VALUES (?, ?, ?)", (sha256, at, pieces)
    )
    return bool(done.rowcount)


def _cells(build: AnyBuild) -> tuple[object, ...]:
    if isinstance(build, RatedBuild):
        ratings = json.dumps(asdict(build.ratings), ensure_ascii=False)
        rated = {"kind": build.ware.code, "ratings": ratings, "safety_class": ""}
        return tuple(rated.get(name) for name in _BUILD)
    mount = build.mount.code if build.mount else None
    known = {"kind": _CAPACITOR, "ratings": None, "family": build.family.value, "mount": mount}
    return tuple(known[name] if name in known else getattr(build, name) for name in _BUILD)


def _build(row: sqlite3.Row) -> AnyBuild:
    if row["kind"] != _CAPACITOR:
        return RatedBuild(WARES[row["kind"]], Ratings(**json.loads(row["ratings"])))
    known = {name: row[name] for name in _BUILD if name not in ("kind", "ratings")}
    known |= {"family": Family(row["family"]), "mount": MOUNTS.get(row["mount"])}
    return Build(**known)
