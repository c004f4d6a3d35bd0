"""Drawers, vendors, their price lists, and orders that came in."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from hale_rail import clock
from hale_rail.case.recap.sourcing import sources
from hale_rail.case.workshop.workshop import Buying, workshop
from hale_rail.core.recap.offers import Drawer
from hale_rail.core.recap.rated_parts import KIT, RatedBuild
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.plans.order_files import ReadBack, read_back
from hale_rail.formats.plans.price_lists import (
    ALL_WORDS,
    RowRead,
    check_mapping,
    guessed,
    offers_of,
    read_rows,
)
from hale_rail.formats.tables.sheets import ListTable, open_table
from hale_rail.formats.units.unlike_rows import Unlike, unlike
from hale_rail.store import vendors as rows
from hale_rail.store import workshop as workshop_rows
from hale_rail.store.database import Store
from hale_rail.store.kept_files import write_for_good
from hale_rail.store.vendors import VendorRow

#: of a vendor's name, so much stands on the bag of what it sent
_LONGEST_VENDOR = 28
MOST_BYTES = 32 * 1024 * 1024
_FOLDER = "uploads"


class PriceListReading(Struct, frozen=True):
    """A price list as it would be taken: its columns, how they are read, and every row of it."""

    vendor: VendorRow
    token: str
    name: str
    table: ListTable
    mapping: Mapping[str, str]
    rows: tuple[RowRead, ...]

    @property
    def problems(self) -> tuple[RowRead, ...]:
        """Rows that could not be read, with why."""
        return tuple(row for row in self.rows if row.problem)

    @property
    def unlike(self) -> tuple[Unlike, ...]:
        """Figures that stand a thousandfold apart from the rows beside them."""
        return unlike(self.rows)

    @property
    def count(self) -> int:
        """Rows that were read."""
        return len(self.rows) - len(self.problems)


def save_vendors(store: Store, wanted: Sequence[VendorRow]) -> None:
    """Replace the list of vendors; what is known of those that stay, stays."""
    names = [row.name.lower() for row in wanted]
    twice = next((row.name for row in wanted if names.count(row.name.lower()) > 1), "")
    if twice:
        raise InputError(f"{twice} is listed twice.")
    with store.write() as connection:
        rows.put_vendors(connection, wanted)


def save_drawers(store: Store, wanted: Sequence[Drawer]) -> None:
    """Replace what is in the drawers."""
    with store.write() as connection:
        rows.put_drawers(connection, wanted)


def save_buying(store: Store, wanted: Buying) -> None:
    """Save how the workshop buys."""
    values = {
        "currency": wanted.currency,
        "max_vendors": str(wanted.max_vendors or ""),
        "spares": str(wanted.spares),
        "spares_below": str(wanted.spares_below),
    }
    with store.write() as connection:
        workshop_rows.put_buying(connection, values)


def look_at_list(store: Store, vendor: str, name: str, data: bytes) -> PriceListReading:
    """Read a vendor's list by what is remembered and guessed of it; nothing is changed.

    The file is put by until it is taken. Raises InputError for a file that is not one.
    """
    row = vendor_of(store, vendor)
    if len(data) > MOST_BYTES:
        raise InputError(f"{name} is larger than {MOST_BYTES >> 20} MB.", field="list")
    table = open_table(data, name, ALL_WORDS)
    token = hashlib.sha256(data).hexdigest()
    _sweep(store)
    write_for_good(_path(store, token), data)
    mapping = guessed(table.headings, row.mapping)
    return _read(store, row, (token, name), table, mapping)


def read_list_by(
    store: Store, vendor: str, token: str, name: str, typed: Mapping[str, str]
) -> PriceListReading:
    """The list that was put by, read by a mapping that a person chose."""
    row = vendor_of(store, vendor)
    path = _path(store, token)
    if not path.exists():
        raise InputError("That list is no longer here: choose the file again.", field="list")
    table = open_table(path.read_bytes(), name, ALL_WORDS, typed.get("sheet", ""))
    was_other = table.sheets and typed.get("sheet_read", table.sheet) != table.sheet
    chosen = {name: typed.get(name, "") for name in guessed(table.headings, {})}
    mapping = guessed(table.headings, row.mapping) if was_other else chosen
    return _read(store, row, (token, name), table, mapping)


def take_list(store: Store, reading: PriceListReading) -> int:
    """Take a list in place of the vendor's old one, and remember its columns; how many rows.

    Raises InputError where a needed column is not chosen, or no row could be read.
    """
    mapping = check_mapping(reading.mapping, reading.table.headings)
    offers = offers_of(reading.rows)
    if not offers:
        raise InputError("Not one row could be read: the old list stays.", field="list")
    with store.write() as connection:
        rows.put_mapping(connection, reading.vendor.id, mapping)
        rows.put_offers(connection, reading.vendor.id, offers, clock.now(), reading.name)
    _path(store, reading.token).unlink(missing_ok=True)
    return len(offers)


def _read(
    store: Store,
    row: VendorRow,
    file: tuple[str, str],
    table: ListTable,
    mapping: Mapping[str, str],
) -> PriceListReading:
    """Every row of a list (its token and name in `file`) by a mapping, in the vendor's currency."""
    currency = row.currency or workshop(store).buying.currency
    rows = read_rows(table, mapping, row.name, currency)
    return PriceListReading(row, *file, table, mapping, tuple(rows))


def vendor_of(store: Store, name: str) -> VendorRow:
    """A listed vendor; raises NotFoundError."""
    row = sources(store).row(name)
    if row is None:
        raise NotFoundError("There is no such vendor on the list.")
    return row


def _path(store: Store, token: str) -> Path:
    if len(token) != 64 or not token.isalnum():
        raise InputError("That list is no longer here: choose the file again.", field="list")
    return store.folder / _FOLDER / token


def _sweep(store: Store) -> None:
    """Throw away lists that were looked at and never taken."""
    kept = sorted((store.folder / _FOLDER).glob("*"), key=lambda path: path.stat().st_mtime)
    for path in kept[:-4]:
        path.unlink(missing_ok=True)


def _unpacked(store: Store, answer: ReadBack) -> ReadBack:
    """What was received with every kit part by part, as the lists have it."""
    inside = [offer for offer in sources(store).offers if offer.kit]
    drawers: list[Drawer] = []
    for drawer in answer.drawers:
        if not isinstance(drawer.build, RatedBuild) or drawer.build.ware is not KIT:
            drawers.append(drawer)
            continue
        own = [offer for offer in inside if offer.kit == drawer.sku]
        parts = [offer for offer in own if drawer.lot in ("", offer.vendor)]
        if not parts:
            text = f"No list says what lies in {drawer.sku}: write its parts in its place."
            raise InputError(text, field="order")
        drawers += [Drawer(o.sku, o.build, drawer.qty * o.per_kit, lot=drawer.lot) for o in parts]
    return replace(answer, drawers=tuple(drawers))


def take_received(store: Store, text: str) -> ReadBack:
    """Put what a filled-in order says was received into the drawers, all or nothing.

    Raises InputError for a file without its heading, with a row that cannot be used, without a
    piece received, or that was read back before.
    """
    answer = _unpacked(store, read_back(text))
    if answer.wrong:
        line, why = answer.wrong[0]
        more = f" ({len(answer.wrong)} such rows)" if len(answer.wrong) > 1 else ""
        raise InputError(f"Line {line}: {why}{more}. Nothing was imported.", field="order")
    if not answer.drawers:
        raise InputError("No row has a count in “received”.", field="order")
    sha256 = hashlib.sha256(text.encode()).hexdigest()
    with store.write() as connection:
        if not rows.note_received(connection, sha256, clock.now(), answer.pieces):
            raise InputError("This very file was read back before: nothing was added.",
                             field="order")  # fmt: skip
        day = clock.now()[:10]
        came = [replace(d, lot=f"{d.lot[:_LONGEST_VENDOR]} {day}".strip()) for d in answer.drawers]
        rows.add_drawers(connection, came)
    return answer
