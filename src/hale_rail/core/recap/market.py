"""Where parts may come from, what is asked of an order, and what a way of buying settles on."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from decimal import Decimal
from fractions import Fraction

from msgspec import Struct

from hale_rail.core.recap.matching import MarketItem, items_of
from hale_rail.core.recap.offers import Drawer, Offer, Vendor

#: spares are bought of parts below this price each
SPARES_BELOW = Decimal("1.00")
TIME_LIMIT_S = 30.0


class Terms(Struct, frozen=True):
    """What a person asks of an order.

    `max_vendors` None: any number; `spares` as a share of what is fitted, on parts below
    `spares_below` a piece.
    """

    max_vendors: int | None = None
    spares: Fraction = Fraction(0)
    spares_below: Decimal = SPARES_BELOW
    time_limit_s: float = TIME_LIMIT_S

    def spares_for(self, qty: int, price: Decimal) -> int:
        """Spare pieces for so many that are fitted."""
        if price >= self.spares_below or not self.spares:
            return 0
        return -(-(qty * self.spares.numerator) // self.spares.denominator)


class Market(Struct, frozen=True):
    """Where parts may come from."""

    items: tuple[MarketItem, ...]
    vendors: Mapping[str, Vendor]

    @property
    def kits(self) -> dict[tuple[str, str], tuple[int, int]]:
        """Where each kit is offered, as (item, offer) place by vendor and part number."""
        return {
            (offer.vendor, offer.sku): (i, o)
            for i, item in enumerate(self.items)
            for o, offer in enumerate(item.offers)
            if offer.is_kit
        }

    def vendor(self, name: str) -> Vendor:
        """A vendor; one of whom no terms are known sends for nothing."""
        return self.vendors.get(name) or Vendor(name)


def market(
    offers: Iterable[Offer], stock: Iterable[Drawer] = (), vendors: Iterable[Vendor] = ()
) -> Market:
    """The lists and drawers as one market."""
    return Market(tuple(items_of(offers, stock)), {vendor.name: vendor for vendor in vendors})


class BuyingResult(Struct, frozen=True):
    """What a way of buying settled on.

    `chosen`: the place of the item that each group gets (None: none); `ordered` pieces by (item,
    offer) place, `from_drawers` pieces by (item, drawer) place, `from_kits` pieces by (item, offer)
    place of a part that lies in kits; `is_cut`: only the cheapest of a very long list were weighed.
    """

    chosen: Sequence[int | None]
    ordered: Mapping[tuple[int, int], int]
    from_drawers: Mapping[tuple[int, int], int]
    gap: float | None
    is_cut: bool = False
    from_kits: Mapping[tuple[int, int], int] = {}
