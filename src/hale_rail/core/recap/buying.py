"""Buying as an exact optimisation: for every position one part, and how many of each from whom.

Source: docs/formulas.md, “Buying”. Least parts and shipping, with price breaks, packs, minimum
quantities, what is at hand and on the lists, spares, and at most so many vendors; positions of one
bank get one part. A small penalty decides between near-equals and is not a part of the total.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from decimal import Decimal

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.recap.any_part import fit
from hale_rail.core.recap.market import BuyingResult, Market, Terms
from hale_rail.core.recap.matching import (
    MarketItem,
    Match,
    PositionGroup,
    groups_of,
    match,
    nearest,
    why_none,
)
from hale_rail.core.recap.offers import Drawer, Offer
from hale_rail.core.recap.optimise import line_by_line, optimise
from hale_rail.core.recap.orders import (
    BuyingPlan,
    ChosenItem,
    Content,
    Flag,
    OrderLine,
    StockLine,
    Unmet,
)
from hale_rail.core.recap.rated_parts import AnyNeeds


def plan(demand: Sequence[AnyNeeds], at: Market, terms: Terms) -> BuyingPlan:
    """The cheapest order that meets as many positions as can be met."""
    matches = match(groups_of(demand), at.items)
    return settled(matches, at, terms, optimise(matches, at, terms))


def settled(matches: Sequence[Match], at: Market, terms: Terms, result: BuyingResult) -> BuyingPlan:
    """The plan in exact money: who gets which pieces, what each vendor is sent, what stays open."""
    pieces = _Pieces(matches, at, result)
    order = [
        _kit(offer, qty, pieces) if offer.is_kit else _line(offer, qty, fitted, terms)
        for offer, qty, fitted in pieces.orders()
    ]
    goods: dict[str, Decimal] = {}
    for line in order:
        goods[line.offer.vendor] = goods.get(line.offer.vendor, Decimal(0)) + line.cost
    chosen = {
        needs.id: _item(at.items[place])
        for one, place in zip(matches, result.chosen, strict=True)
        if place is not None
        for needs in one.group.positions
    }
    return BuyingPlan(
        tuple(sorted(order, key=lambda line: line.offer.vendor)),
        tuple(StockLine(drawer, sum(c.values()), tuple(c)) for drawer, c in pieces.from_stock()),
        {name: at.vendor(name).shipping_for(cost) for name, cost in sorted(goods.items())},
        tuple(_unmet(matches, at, terms, result)),
        tuple(_flags(matches, at, terms, result, pieces)),
        chosen,
        result.gap,
        result.is_cut,
    )


def _item(item: MarketItem) -> ChosenItem:
    return ChosenItem(item.sku, item.build, item.where)


def _line(offer: Offer, qty: int, fitted: Counter[str], terms: Terms) -> OrderLine:
    price = offer.price_at(qty) or Decimal(0)
    count = sum(fitted.values())
    short = terms.spares_for(count, price) - (qty - count)
    return OrderLine(offer, qty, price, count, tuple(fitted), max(short, 0))


def _kit(offer: Offer, qty: int, pieces: _Pieces) -> OrderLine:
    """So many of a kit, with what of it is fitted; what is left over is not a wanted spare."""
    contents = pieces.out_of(offer)
    covers = tuple(dict.fromkeys(i for content in contents for i in content.covers))
    return OrderLine(offer, qty, offer.price_at(qty) or Decimal(0), qty, covers, contents=contents)


class _Left(Struct):
    """Pieces of a drawer or an offer that are not handed out yet."""

    key: tuple[str, int, int]
    qty: int


class _Pieces:
    """Which position is served from which drawer and offer: trusted drawers first."""

    def __init__(self, matches: Sequence[Match], at: Market, result: BuyingResult) -> None:
        self._at, self._found = at, result
        self._of: dict[tuple[str, int, int], Counter[str]] = {}
        for place in sorted({place for place in result.chosen if place is not None}):
            self._serve(place, matches)

    def _serve(self, place: int, matches: Sequence[Match]) -> None:
        """Hand one item's pieces out, position by position."""
        item, result = self._at.items[place], self._found
        left = [
            _Left(("stock", place, d), result.from_drawers.get((place, d), 0))
            for d in range(len(item.drawers))
        ]
        for o, offer in enumerate(item.offers):
            source, counts = ("kit", result.from_kits) if offer.kit else ("order", result.ordered)
            left.append(_Left((source, place, o), counts.get((place, o), 0)))
        for one, chosen in zip(matches, result.chosen, strict=True):
            for needs in one.group.positions if chosen == place else ():
                self._hand_out(needs, left)

    def _hand_out(self, needs: AnyNeeds, left: Sequence[_Left]) -> None:
        wanted = needs.qty
        for source in left:
            pieces = min(wanted, source.qty)
            if pieces:
                self._of.setdefault(source.key, Counter())[needs.id] += pieces
                source.qty -= pieces
                wanted -= pieces

    def orders(self) -> list[tuple[Offer, int, Counter[str]]]:
        """Every offer that is ordered, how many, and pieces by position."""
        return [
            (self._at.items[i].offers[o], qty, self._of.get(("order", i, o), Counter()))
            for (i, o), qty in sorted(self._found.ordered.items())
            if qty
        ]

    def out_of(self, kit: Offer) -> tuple[Content, ...]:
        """What is fitted out of a kit."""
        out = []
        for (source, i, o), counts in sorted(self._of.items()):
            offer = self._at.items[i].offers[o] if source == "kit" else None
            if offer and (offer.vendor, offer.kit) == (kit.vendor, kit.sku):
                out.append(Content(offer, sum(counts.values()), tuple(counts)))
        return tuple(out)

    def from_stock(self) -> list[tuple[Drawer, Counter[str]]]:
        """Every drawer that is used, and pieces by position."""
        return [
            (self._at.items[i].drawers[d], counts)
            for (source, i, d), counts in sorted(self._of.items())
            if source == "stock"
        ]


def _flags(
    matches: Sequence[Match], at: Market, terms: Terms, result: BuyingResult, pieces: _Pieces
) -> Iterable[Flag]:
    for one, place in zip(matches, result.chosen, strict=True):
        if place is not None and one.flagged[place]:
            for needs in one.group.positions:
                for text in fit(needs, at.items[place].build).texts:
                    yield Flag(needs.id, text)
    for offer, qty, counts in pieces.orders():
        short = 0 if offer.is_kit else _line(offer, qty, counts, terms).spares_short
        if short:
            yield Flag(list(counts)[-1], f"{offer.sku}: {short} of its spares not to be had")
    for drawer, counts in pieces.from_stock():
        if not drawer.is_trusted:
            for position in counts:
                text = f"{drawer.sku} from stock: {drawer.origin.words}, untested: test it first"
                yield Flag(position, text)


def _unmet(
    matches: Sequence[Match], at: Market, terms: Terms, result: BuyingResult
) -> Iterable[Unmet]:
    for one, place in zip(matches, result.chosen, strict=True):
        if place is None:
            reason, item = _why_unmet(one, at, terms)
            for needs in one.group.positions:
                yield Unmet(needs.id, reason, _item(item) if item else None)


def _why_unmet(one: Match, at: Market, terms: Terms) -> tuple[str, MarketItem | None]:
    """Why a group gets no part, and the part that comes nearest."""
    group: PositionGroup = one.group
    if not one.flagged:
        item = nearest(group, at.items)
        return why_none(group, item), item
    fitting = [at.items[place] for place in one.flagged]
    best = max(fitting, key=lambda i: i.to_be_had if i.to_be_had is not None else group.qty)
    most = best.to_be_had
    if most is not None and most < group.qty:
        held = "none" if not most else f"{most}"
        return f"{best.sku} ({best.where}) fits: {group.qty} wanted, {held} to be had", best
    if terms.max_vendors is not None:
        limit = "1 vendor" if terms.max_vendors == 1 else f"{terms.max_vendors} vendors"
        return f"{best.sku} ({best.where}) fits, but not from at most {limit}", best
    return f"{best.sku} ({best.where}) fits, but other positions take what is to be had", best


def from_alone(at: Market, vendor: str) -> Market:
    """The market with one vendor only; what is at hand stays."""
    items = tuple(
        replace(item, offers=[offer for offer in item.offers if offer.vendor == vendor])
        for item in at.items
    )
    return Market(tuple(i for i in items if i.offers or i.drawers), at.vendors)


def by_line(demand: Sequence[AnyNeeds], at: Market, terms: Terms) -> BuyingPlan:
    """What one buys who takes for each line what is cheapest there, and pays what is sent."""
    matches = match(groups_of(demand), at.items)
    return settled(matches, at, terms, line_by_line(matches, at, terms))
