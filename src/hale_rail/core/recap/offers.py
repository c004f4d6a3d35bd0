"""Where parts come from: drawers of the workshop, and what vendors offer at what price.

Money is decimal throughout: prices are added and multiplied exactly as they are printed.
"""

from __future__ import annotations

from decimal import Decimal
from typing import TypeVar

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.coded_words import Coded
from hale_rail.core.recap.rated_parts import KIT, AnyBuild, RatedBuild

#: quantities from which a list has a price of its own
TIERS = (1, 10, 100)


class Origin(Coded):
    """Where the parts of a drawer come from."""

    NEW = ("new", "new")
    OLD_STOCK = ("old-stock", "old stock")
    SALVAGED = ("salvaged", "salvaged")


ORIGINS = {origin.code: origin for origin in Origin}


class Vendor(Struct, frozen=True):
    """What sending costs; nothing where the goods reach `free_above` (None: it always costs)."""

    name: str
    shipping: Decimal = Decimal(0)
    free_above: Decimal | None = None

    def shipping_for(self, goods: Decimal) -> Decimal:
        """What sending goods of this price costs."""
        is_free = self.free_above is not None and goods >= self.free_above
        return Decimal(0) if is_free else self.shipping


class Drawer(Struct, frozen=True):
    """Pieces of one part at hand."""

    sku: str
    build: AnyBuild
    qty: int
    origin: Origin = Origin.NEW
    is_tested: bool = False
    #: the batch or the day it came, as written on the bag
    lot: str = ""

    @property
    def is_trusted(self) -> bool:
        """True for parts that may be fitted as they are; the others are tested first."""
        return self.is_tested or self.origin is Origin.NEW


class Offer(Struct, frozen=True):
    """A part on a vendor's list.

    `prices` (from how many, price a piece) rising; at least `moq`, in multiples of `pack`, at most
    `available` (None: the list does not say). A part that comes in a kit has no price of its own:
    `per_kit` pieces of it lie in each `kit`, a part number of the same vendor.
    """

    vendor: str
    sku: str
    build: AnyBuild
    prices: tuple[tuple[int, Decimal], ...]
    moq: int = 1
    pack: int = 1
    available: int | None = None
    kit: str = ""
    per_kit: int = 0

    @property
    def is_kit(self) -> bool:
        """True for a bag of several parts that is bought as one."""
        return isinstance(self.build, RatedBuild) and self.build.ware is KIT

    def price_at(self, qty: int) -> Decimal | None:
        """The price a piece of so many; None where the list sells no so few."""
        amounts = [price for start, price in self.prices if start <= qty]
        return amounts[-1] if amounts else None

    @property
    def least(self) -> int:
        """The fewest pieces that are sold."""
        return self.whole_packs(max(self.moq, self.prices[0][0]))

    @property
    def most(self) -> int | None:
        """The most pieces that are sold; None where the list does not say, 0 for none."""
        if self.available is None or self.kit:
            return None
        most = self.available // self.pack * self.pack
        return most if most >= self.least else 0

    def whole_packs(self, qty: int) -> int:
        """The next multiple of a pack."""
        return -(-qty // self.pack) * self.pack

    def order_for(self, qty: int) -> tuple[int, Decimal] | None:
        """How many to order for so many pieces, and the price a piece, at least cost; or None."""
        starts = [qty, self.least, *(start for start, _ in self.prices if start > qty)]
        tried = {self.whole_packs(max(start, qty, self.least)) for start in starts}
        most = self.most
        sold = [n for n in tried if most is None or n <= most]
        priced = [(n * price, n, price) for n in sold if (price := self.price_at(n)) is not None]
        if not priced:
            return None
        _, ordered, price = min(priced)
        return ordered, price


def completed(build: AnyBuild, other: AnyBuild) -> AnyBuild:
    """A part's description with what only another list of the same part says."""
    if isinstance(build, RatedBuild):
        if not isinstance(other, RatedBuild) or build.ware is not other.ware:
            return build
        return replace(build, ratings=_filled(build.ratings, other.ratings))
    return build if isinstance(other, RatedBuild) else _filled(build, other)


_Fields = TypeVar("_Fields", bound=Struct)


def _filled(one: _Fields, other: _Fields) -> _Fields:
    missing = {
        name: getattr(other, name)
        for name in one.__struct_fields__
        if getattr(one, name) in (None, "")
    }
    return replace(one, **missing)
