"""Where the workshop's parts come from: drawers, and vendors' lists in the workshop's currency."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from hale_rail.case.workshop import Buying, workshop
from hale_rail.core.recap.offers import Drawer, Offer, Vendor
from hale_rail.store import vendors as rows
from hale_rail.store.database import Store
from hale_rail.store.vendors import VendorRow


@dataclass(frozen=True)
class Sources:
    """Vendors with their terms and offers in the workshop's currency, and the drawers.

    `left_out`: vendors whose currency has no rate, so that their prices mean nothing here.
    """

    buying: Buying
    vendors: tuple[VendorRow, ...]
    terms: tuple[Vendor, ...]
    offers: tuple[Offer, ...]
    stock: tuple[Drawer, ...]
    left_out: tuple[str, ...]

    @property
    def is_empty(self) -> bool:
        """True where no list and no drawer has a part."""
        return not (self.offers or self.stock)

    def row(self, name: str) -> VendorRow | None:
        """A vendor by name, or None."""
        return next((row for row in self.vendors if row.name.lower() == name.lower()), None)


def sources(store: Store) -> Sources:
    """What a plan may draw on."""
    connection = store.read()
    buying = workshop(store).buying
    known = rows.vendors(connection)
    rates = {row.name: rate_of(row, buying.currency) for row in known}
    return Sources(
        buying,
        tuple(known),
        tuple(_converted(row.terms, rate) for row in known if (rate := rates[row.name])),
        tuple(
            _offer(offer, rate)
            for offer in rows.offers(connection)
            if (rate := rates[offer.vendor])
        ),
        tuple(drawer for drawer in rows.drawers(connection) if drawer.qty),
        tuple(name for name, rate in rates.items() if not rate),
    )


def rate_of(row: VendorRow, currency: str) -> Decimal | None:
    """What one of a vendor's currency costs in the workshop's; None while that is not known."""
    if not row.currency or row.currency == currency:
        return Decimal(1)
    return row.rate


def _converted(vendor: Vendor, rate: Decimal) -> Vendor:
    free = vendor.free_above
    return Vendor(vendor.name, vendor.shipping * rate, None if free is None else free * rate)


def _offer(offer: Offer, rate: Decimal) -> Offer:
    if rate == 1:
        return offer
    return replace(offer, prices=tuple((start, price * rate) for start, price in offer.prices))


def with_parts(found: Sources) -> Sequence[str]:
    """Names of the vendors that offer something."""
    return sorted({offer.vendor for offer in found.offers})
