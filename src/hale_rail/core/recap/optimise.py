"""The mixed-integer model of an order, and the order that a person writes line by line.

Positions that may get the same parts are one class with a count, so that the solver does not try
each order of alike positions. Prices are those of all pieces from a quantity on: one binary a
price of an offer. Where not every position can be met, as many as can be are, then at least cost.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from decimal import Decimal

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.recap.market import BuyingResult, Market, Terms
from hale_rail.core.recap.matching import MarketItem, Match
from hale_rail.core.recap.model import LinearModel, Solution
from hale_rail.core.recap.offers import Offer

#: from so many parts on, only so many of the cheapest that serve the same positions are weighed
_MANY, _CHEAPEST = 3000, 8
#: what a flagged piece is worse by, in money: enough between near-equals
FLAG_PENALTY = 0.02
#: up to so many variables the best order is proven to the last; a larger one may be off by a share
_SMALL, _LARGE_GAP = 3000, 0.007
#: a bought piece is worse than one at hand by this, where nothing else tells them apart
_BOUGHT = 1e-4
#: a spare that cannot be had is missed by this, in money: it is bought wherever it can be
_SPARE_SHORT = 1000.0


class _Class(Struct):
    """Groups that may get the same parts with the same flags, of the same count of pieces."""

    members: list[int]
    qty: int
    flagged: dict[int, int]


class _Tier(Struct, frozen=True):
    """One price of an offer: its binary, pieces ordered (a count of packs) and pieces fitted."""

    offer: tuple[int, int]
    is_used: int
    packs: int
    fitted: int
    pack: int
    price: float


class _Buying:
    """The model of an order, and which variable is what."""

    def __init__(self, matches: Sequence[Match], at: Market, terms: Terms) -> None:
        self.at, self.terms, self.model = at, terms, LinearModel()
        self.classes = _classes(matches)
        self.wanted: dict[int, int] = defaultdict(int)
        self.gets: dict[tuple[int, int], int] = {}
        self.open: list[int] = []
        self.drawn: dict[tuple[int, int], int] = {}
        self.tiers: list[_Tier] = []
        self.short: list[int] = []
        self.vendors: dict[str, list[_Tier]] = defaultdict(list)
        self.contents: dict[tuple[int, int], int] = {}
        self._choose()
        for place in tuple(self.wanted):
            self._supply(place)
        self._open_kits()
        self._send()

    def _choose(self) -> None:
        """Every class gets its parts, or stays open."""
        for number, own in enumerate(self.classes):
            count = len(own.members)
            row: dict[int, float] = {}
            for place, flagged in own.flagged.items():
                gets = self.model.variable(FLAG_PENALTY * flagged, count)
                self.gets[number, place] = gets
                row[gets] = 1.0
                self.wanted[place] += count * own.qty
            left = self.model.variable(0.0, count)
            self.open.append(left)
            self.model.row({**row, left: 1.0}, count, count)

    def _supply(self, place: int) -> None:
        """What of a part is fitted comes from its drawers and offers."""
        item: MarketItem = self.at.items[place]
        balance: dict[int, float] = {}
        for number, own in enumerate(self.classes):
            if place in own.flagged:
                balance[self.gets[number, place]] = -float(own.qty)
        for d, drawer in enumerate(item.drawers):
            cost = 0.0 if drawer.is_trusted else FLAG_PENALTY
            self.drawn[place, d] = self.model.variable(cost, min(drawer.qty, self.wanted[place]))
            balance[self.drawn[place, d]] = 1.0
        for o, offer in enumerate(item.offers):
            if offer.kit:
                fitted = self.model.variable(_BOUGHT, self.wanted[place])
                self.contents[place, o] = fitted
                balance[fitted] = 1.0
                continue
            for tier in self._offer((place, o), offer):
                balance[tier.fitted] = 1.0
        self.model.row(balance, 0.0, 0.0)

    def _open_kits(self) -> None:
        """What is fitted out of a kit is bought with the whole of it."""
        inside: dict[tuple[str, str], list[tuple[Offer, int, int]]] = defaultdict(list)
        for (place, o), fitted in self.contents.items():
            offer = self.at.items[place].offers[o]
            inside[offer.vendor, offer.kit].append((offer, fitted, self.wanted[place]))
        kits = self.at.kits if inside else {}
        for name, parts in inside.items():
            key = kits.get(name)
            tiers: list[_Tier] = []
            if key is not None:
                self.wanted[key[0]] = max(-(-wanted // o.per_kit) for o, _, wanted in parts)
                tiers = self._offer(key, self.at.items[key[0]].offers[key[1]])
            for offer, fitted, _ in parts:
                bought = {tier.packs: -float(offer.per_kit * tier.pack) for tier in tiers}
                self.model.row({fitted: 1.0, **bought}, high=0.0)

    def _offer(self, key: tuple[int, int], offer: Offer) -> list[_Tier]:
        """The prices of an offer, at most one of them used."""
        wanted = self.wanted[key[0]]
        result = []
        for n, (start, price) in enumerate(offer.prices):
            ends = [later for later, _ in offer.prices[n + 1 :]]
            low = offer.whole_packs(max(start, offer.moq))
            high = self._most(offer, wanted, price, low)
            if ends:
                high = min(high, (ends[0] - 1) // offer.pack * offer.pack)
            if low <= high:
                result.append(self._tier(key, offer, float(price), low, high))
        if result:
            self.model.row({tier.is_used: 1.0 for tier in result}, high=1.0)
            self.tiers += result
            self.vendors[offer.vendor] += result
        return result

    def _most(self, offer: Offer, wanted: int, price: Decimal, low: int) -> int:
        """More than this of an offer serves nothing: not even to have it sent for nothing."""
        spares = 0 if offer.is_kit else self.terms.spares_for(wanted, price)
        most = max(offer.whole_packs(wanted + spares), low)
        vendor = self.at.vendor(offer.vendor)
        if vendor.free_above is not None and price > 0:
            most += offer.whole_packs(math.ceil(vendor.shipping / price))
        return most if offer.most is None else min(most, offer.most)

    def _tier(self, key: tuple[int, int], offer: Offer, price: float, low: int, high: int) -> _Tier:
        wanted = self.wanted[key[0]]
        model, pack = self.model, offer.pack
        tier = _Tier(
            key,
            model.variable(high=1),
            model.variable(price * pack, high // pack),
            model.variable(_BOUGHT, min(high, wanted)),
            pack,
            price,
        )
        model.row({tier.packs: pack, tier.is_used: -low}, low=0.0)
        model.row({tier.packs: pack, tier.is_used: -high}, high=0.0)
        model.row({tier.fitted: 1.0, tier.is_used: -1.0}, low=0.0)
        model.row({tier.fitted: 1.0, tier.packs: -pack}, high=0.0)
        has_spares = self.terms.spares and not offer.is_kit
        if has_spares and Decimal(str(price)) < self.terms.spares_below:
            share = float(self.terms.spares)
            short = model.variable(_SPARE_SHORT, wanted)
            self.short.append(short)
            model.row({tier.packs: pack, tier.fitted: -1.0 - share, short: 1.0}, low=0.0)
        return tier

    def _send(self) -> None:
        """Shipping a vendor, free where the goods there reach the threshold."""
        used = []
        for name, tiers in sorted(self.vendors.items()):
            vendor = self.at.vendor(name)
            ships = self.model.variable(float(vendor.shipping), 1)
            used.append(ships)
            for tier in tiers:
                self.model.row({tier.is_used: 1.0, ships: -1.0}, high=0.0)
            if vendor.free_above is not None and vendor.shipping:
                free = self.model.variable(-float(vendor.shipping), 1)
                self.model.row({free: 1.0, ships: -1.0}, high=0.0)
                goods = {tier.packs: tier.price * tier.pack for tier in tiers}
                self.model.row({**goods, free: -float(vendor.free_above)}, low=0.0)
        if self.terms.max_vendors is not None:
            self.model.row(dict.fromkeys(used, 1.0), high=self.terms.max_vendors)

    def solve(self) -> Solution | None:
        """All positions met at least cost, or as many as can be; None where none came in time."""
        model = self.model
        limit = self.terms.time_limit_s
        gap = 0.0 if len(model.costs) < _SMALL else _LARGE_GAP
        met = [left for left, own in zip(self.open, self.classes, strict=True) if own.flagged]
        highs = {left: model.highs[left] for left in met}
        for left in met:
            model.highs[left] = 0.0
        solution = model.solve(limit, gap)
        if solution is not None:
            return solution
        for left in met:
            model.highs[left] = highs[left]
        count = self._fewest(met)
        if count is None:
            return None
        model.row(dict.fromkeys(met, 1.0), high=float(count))
        return model.solve(limit, gap)

    def _fewest(self, met: Sequence[int]) -> int | None:
        """How many groups stay open at least, of those that a part fits."""
        model = self.model
        costs, model.costs = model.costs, [0.0] * len(model.costs)
        for left in met:
            model.costs[left] = 1.0
        fewest = model.solve(self.terms.time_limit_s)
        model.costs = costs
        return sum(fewest.whole(left) for left in met) if fewest else None

    def result(self, matches: Sequence[Match], solution: Solution) -> BuyingResult:
        """What the solver settled on, group by group."""
        chosen: list[int | None] = [None] * len(matches)
        for number, own in enumerate(self.classes):
            members = iter(own.members)
            for place in own.flagged:
                for _ in range(solution.whole(self.gets[number, place])):
                    chosen[next(members)] = place
        ordered: dict[tuple[int, int], int] = defaultdict(int)
        for tier in self.tiers:
            ordered[tier.offer] += tier.pack * solution.whole(tier.packs)
        result = {key: solution.whole(drawn) for key, drawn in self.drawn.items()}
        missed = _SPARE_SHORT * sum(solution.whole(short) for short in self.short)
        inside = {key: solution.whole(fitted) for key, fitted in self.contents.items()}
        gap = solution.gap_without(missed)
        return BuyingResult(chosen, dict(ordered), result, gap, from_kits=inside)


def _classes(matches: Sequence[Match]) -> list[_Class]:
    groups: dict[object, _Class] = {}
    for number, one in enumerate(matches):
        key = one.group.qty, tuple(one.flagged.items())
        own = groups.setdefault(key, _Class([], one.group.qty, one.flagged))
        own.members.append(number)
    return list(groups.values())


def optimise(matches: Sequence[Match], at: Market, terms: Terms) -> BuyingResult:
    """The cheapest way to buy; the line-by-line order where no model was solved in time."""
    if not any(one.flagged for one in matches):
        return BuyingResult([None] * len(matches), {}, {}, 0.0)
    few = _without_the_dear(matches, at)
    buying = _Buying(few, at, terms)
    solution = buying.solve()
    result = buying.result(few, solution) if solution else line_by_line(few, at, terms)
    return replace(result, is_cut=few is not matches)


def _without_the_dear(matches: Sequence[Match], at: Market) -> Sequence[Match]:
    """Of a very long list, the cheapest parts for each set of groups they serve, vendor by vendor.

    Parts at hand stay. Up to `_MANY` parts nothing is left out, so that the proof holds for all.
    """
    serves: dict[int, list[int]] = defaultdict(list)
    for number, one in enumerate(matches):
        for place in one.flagged:
            serves[place].append(number)
    if len(serves) <= _MANY:
        return matches
    alike: dict[object, list[int]] = defaultdict(list)
    kept: set[int] = set()
    for place, groups in serves.items():
        item = at.items[place]
        if item.drawers or len(item.offers) != 1 or item.offers[0].kit:
            kept.add(place)
            continue
        flags = tuple((number, matches[number].flagged[place]) for number in groups)
        alike[item.offers[0].vendor, flags].append(place)
    for (_, flags), places in alike.items():  # type: ignore[misc]
        counts = [matches[number].group.qty for number, __ in flags]
        for qty in {min(counts), sum(counts)}:
            kept.update(sorted(places, key=lambda p: _cost_of(at, p, qty))[:_CHEAPEST])
    return [
        Match(one.group, {p: n for p, n in one.flagged.items() if p in kept}) for one in matches
    ]


def _cost_of(at: Market, place: int, qty: int) -> tuple[bool, Decimal]:
    """What so many of a part cost; those that cannot be had in that number last."""
    line = at.items[place].offers[0].order_for(qty)
    return (False, line[0] * line[1]) if line else (True, Decimal(0))


def line_by_line(matches: Sequence[Match], at: Market, terms: Terms) -> BuyingResult:
    """What one buys who takes for each line what is cheapest there, and pays what is sent.

    Drawers first; then for each group, the largest first, the offer with the cheapest pieces.
    """
    drawers = {
        (i, d): drawer.qty
        for i, item in enumerate(at.items)
        for d, drawer in enumerate(item.drawers)
    }
    line: dict[tuple[int, int], int] = defaultdict(int)
    fitted: dict[tuple[int, int], int] = defaultdict(int)
    chosen: list[int | None] = [None] * len(matches)
    for number in sorted(range(len(matches)), key=lambda n: -matches[n].group.qty):
        one = matches[number]
        own = [key for key, left in drawers.items() if key[0] in one.flagged
               and left >= one.group.qty]  # fmt: skip
        if own:
            drawers[own[0]] -= one.group.qty
            line[own[0]] += one.group.qty
            chosen[number] = own[0][0]
            continue
        best = min(_lines(one, at, terms, fitted), default=None)
        if best is not None:
            chosen[number] = best[1][0]
            fitted[best[1]] += one.group.qty
    ordered = {key: _ordered(at, terms, key, n)[0] for key, n in fitted.items()}
    return BuyingResult(chosen, ordered, dict(line), None)


def _lines(
    one: Match, at: Market, terms: Terms, fitted: dict[tuple[int, int], int]
) -> list[tuple[Decimal, tuple[int, int]]]:
    """What a group's own line costs at each offer that has enough."""
    names = {at.items[i].offers[o].vendor for i, o in fitted}
    is_full = terms.max_vendors is not None and len(names) >= terms.max_vendors
    lines = []
    for place in one.flagged:
        for o, offer in enumerate(at.items[place].offers):
            if offer.kit:
                continue
            line = _ordered(at, terms, (place, o), fitted.get((place, o), 0) + one.group.qty)
            alone = offer.order_for(one.group.qty)
            if line[0] and alone and not (is_full and offer.vendor not in names):
                lines.append((alone[0] * alone[1], (place, o)))
    return lines


def _ordered(at: Market, terms: Terms, key: tuple[int, int], qty: int) -> tuple[int, Decimal]:
    """How many of an offer to order for so many fitted pieces, with spares; 0 where it has not."""
    offer = at.items[key[0]].offers[key[1]]
    plain = offer.order_for(qty)
    if plain is None:
        return 0, Decimal(0)
    return offer.order_for(qty + terms.spares_for(qty, plain[1])) or plain
