"""An order as it was settled: what is bought, what comes from stock, what stays open."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal

from msgspec import Struct

from hale_rail.core.recap.offers import Drawer, Offer
from hale_rail.core.recap.rated_parts import AnyBuild


class Content(Struct, frozen=True):
    """A part that comes in a kit: so many of it are fitted, and where."""

    offer: Offer
    qty: int
    covers: tuple[str, ...]


class OrderLine(Struct, frozen=True):
    """So many of one part from one vendor, and the positions that they are for.

    `fitted` of them are; `spares_short` spare pieces were asked for and are not to be had;
    `contents`: what of a kit is fitted.
    """

    offer: Offer
    qty: int
    unit_price: Decimal
    fitted: int
    covers: tuple[str, ...]
    spares_short: int = 0
    contents: tuple[Content, ...] = ()

    @property
    def cost(self) -> Decimal:
        """What the line costs."""
        return self.qty * self.unit_price

    @property
    def spares(self) -> int:
        """Pieces that are not fitted."""
        return self.qty - self.fitted

    @property
    def skus(self) -> tuple[str, ...]:
        """The part numbers that it brings: its own, and those that lie in a kit."""
        return (self.offer.sku, *(content.offer.sku for content in self.contents))


class StockLine(Struct, frozen=True):
    """So many of one drawer, and the positions that they are for."""

    drawer: Drawer
    qty: int
    covers: tuple[str, ...]


class ChosenItem(Struct, frozen=True):
    """A part number, what it is, and whose list or drawer it is in."""

    sku: str
    build: AnyBuild
    where: str


class Unmet(Struct, frozen=True):
    """A position that stays without a part, by its id, why, and the part that comes nearest."""

    position: str
    reason: str
    nearest: ChosenItem | None


class Flag(Struct, frozen=True):
    """What is to be minded at a position, by its id, of the part chosen there."""

    position: str
    text: str


class BuyingPlan(Struct, frozen=True):
    """An order, what comes from stock, and what stays open.

    `gap` None: not proven (no model); `is_cut`: only the cheapest of a very long list were weighed.
    """

    order: tuple[OrderLine, ...]
    from_stock: tuple[StockLine, ...]
    shipping: Mapping[str, Decimal]
    unmet: tuple[Unmet, ...]
    flags: tuple[Flag, ...]
    chosen: Mapping[str, ChosenItem]
    gap: float | None = 0.0
    is_cut: bool = False

    @property
    def goods(self) -> Decimal:
        """What the parts cost."""
        return sum((line.cost for line in self.order), Decimal(0))

    @property
    def total(self) -> Decimal:
        """Parts and shipping."""
        return self.goods + sum(self.shipping.values(), Decimal(0))

    @property
    def open_positions(self) -> dict[str, Unmet]:
        """What stays without a part, by position."""
        return {one.position: one for one in self.unmet}

    @property
    def flags_by_position(self) -> dict[str, list[str]]:
        """What is to be minded, by position."""
        flags: dict[str, list[str]] = {}
        for flag in self.flags:
            flags.setdefault(flag.position, []).append(flag.text)
        return flags


def proof_words(gap: float | None, is_cut: bool) -> str:
    """How sure it is that no order is cheaper, and of which parts that holds."""
    if gap is None:
        return "line by line: no better order was found in time"
    words = f"at most {gap:.1%} above the cheapest" if gap else "proven the cheapest"
    return f"{words} of the parts weighed (the list is very long)" if is_cut else words
