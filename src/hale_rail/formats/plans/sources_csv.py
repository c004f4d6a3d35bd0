"""Reads and writes the workshop's drawers and vendors as lists of the workshop's page."""

from __future__ import annotations

import re
from collections.abc import Callable
from decimal import Decimal

from hale_rail.core.errors import InputError
from hale_rail.core.recap.offers import Drawer, Vendor
from hale_rail.formats.plans.order_files import build_cells
from hale_rail.formats.plans.plan_csv import STOCK_COLUMNS, read_drawer
from hale_rail.formats.tables.fields import Fields, in_file, read_list
from hale_rail.formats.tables.money import read_price

DRAWER_COLUMNS = STOCK_COLUMNS
DRAWER_HEADINGS = ("part", "pieces", "origin", "tested", "lot", "family", "value", "V", "class",
                   "°C", "mount", "pitch mm", "Ø mm", "high mm", "ESR Ω", "ripple A",
                   "life h", "other ratings")  # fmt: skip
VENDOR_COLUMNS = ("vendor", "shipping", "free_above", "currency", "rate", "service")
VENDOR_HEADINGS = ("vendor", "shipping", "free from", "currency", "one costs here",
                   "live stock at")  # fmt: skip
_SERVICE = re.compile(r"https?://[^\s/]+(/\S*)?")


def read_drawer_list(text: str, named: Callable[[int], str] = in_file) -> list[Drawer]:
    """Every drawer; raises InputError with the line that cannot be used."""
    needed = ("sku", "qty", "family", "value")
    return read_list(text, "Drawers", needed, lambda _, f: read_drawer(f), named)


def drawer_cells(drawer: Drawer) -> tuple[str, ...]:
    """A drawer as a row of the list."""
    tested = "yes" if drawer.is_tested else "no"
    return (
        drawer.sku,
        str(drawer.qty),
        drawer.origin.code,
        tested,
        drawer.lot,
        *build_cells(drawer.build),
    )


#: a vendor with what is kept beside its terms: currency, rate, service
VendorLine = tuple[Vendor, str, Decimal | None, str]


def read_vendor_list(text: str, named: Callable[[int], str] = in_file) -> list[VendorLine]:
    """Every vendor; raises InputError with the line that cannot be used."""
    return read_list(text, "Vendors", ("vendor",), _vendor, named)


def vendor_cells(line: VendorLine) -> tuple[str, ...]:
    """A vendor as a row of the list."""
    vendor, currency, rate, service = line
    free = "" if vendor.free_above is None else str(vendor.free_above)
    return (vendor.name, str(vendor.shipping), free, currency, str(rate or ""), service)


def _vendor(_: int, fields: Fields) -> VendorLine:
    if not fields["vendor"]:
        raise InputError("vendor is needed")
    currency = fields.get("currency", "").upper()
    if len(currency) > 8:
        raise InputError(f"currency “{currency[:20]}” is too long")
    service = fields.get("service", "")
    if service and not _SERVICE.fullmatch(service):
        raise InputError(f"“{service[:40]}” is not an address: http://…")
    shipping = _price(fields, "shipping")
    rate = _price(fields, "rate")
    if rate is not None and rate <= 0:
        raise InputError("one costs here: above 0")
    return (
        Vendor(fields["vendor"], shipping or Decimal(0), _price(fields, "free_above")),
        currency,
        rate,
        service,
    )


def _price(fields: Fields, name: str) -> Decimal | None:
    text = fields.get(name, "")
    try:
        return read_price(text) if text else None
    except InputError as error:
        raise InputError(f"{name}: {error}") from error
