"""Positions against parts: which part may stand where, and for none the nearest miss and why."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Sequence

from msgspec import Struct, field
from msgspec.structs import replace

from hale_rail.core.recap.any_part import fit, level_of
from hale_rail.core.recap.findings import Level
from hale_rail.core.recap.needs import Build, Needs
from hale_rail.core.recap.offers import Drawer, Offer, Origin, completed
from hale_rail.core.recap.rated_parts import (
    AnyBuild,
    AnyNeeds,
    RatedBuild,
    RatedNeeds,
    missing_words,
)
from hale_rail.core.recap.substitutes import CAPACITANCE, SUPPRESSORS

#: wider than the rules' own slack, so that the edge of a band is theirs to judge
_EDGE = 1e-5


class MarketItem(Struct):
    """One part number, wherever it is to be had."""

    sku: str
    build: AnyBuild
    drawers: list[Drawer] = field(default_factory=list)
    offers: list[Offer] = field(default_factory=list)

    @property
    def at_hand(self) -> int:
        """Pieces in drawers."""
        return sum(drawer.qty for drawer in self.drawers)

    @property
    def to_be_had(self) -> int | None:
        """Pieces in drawers and on lists; None where a list does not say."""
        most = [offer.most for offer in self.offers]
        if None in most:
            return None
        return self.at_hand + sum(n or 0 for n in most)

    @property
    def where(self) -> str:
        """Whose list or drawer it is in."""
        return self.offers[0].vendor if self.offers else "stock"


class PositionGroup(Struct, frozen=True):
    """Positions that get one part: those of a bank, or one alone."""

    positions: tuple[AnyNeeds, ...]

    @property
    def qty(self) -> int:
        """Pieces in all."""
        return sum(needs.qty for needs in self.positions)


class Match(Struct, frozen=True):
    """A group with the parts that may be fitted there, and each one's flagged pieces.

    `flagged` by item's place in the list of items.
    """

    group: PositionGroup
    flagged: dict[int, int]


def items_of(offers: Iterable[Offer], stock: Iterable[Drawer]) -> list[MarketItem]:
    """Every part number with its drawers and offers, drawers first.

    One number that two lists describe alike, as far as each says, is one part.
    """
    items: list[MarketItem] = []
    by_sku: dict[str, list[MarketItem]] = {}
    for drawer in stock:
        if drawer.build.classes and drawer.origin is not Origin.NEW:
            items.append(MarketItem(drawer.sku, drawer.build, [drawer]))  # chosen by hand alone
            continue
        _item(drawer.sku, drawer.build, by_sku, items).drawers.append(drawer)
    for offer in offers:
        _item(offer.sku, offer.build, by_sku, items).offers.append(offer)
    for item in items:
        item.drawers.sort(key=lambda drawer: not drawer.is_trusted)
    return items


def _item(
    sku: str, build: AnyBuild, by_sku: dict[str, list[MarketItem]], items: list[MarketItem]
) -> MarketItem:
    """The part of a number that is described so, made when it is first met."""
    known = by_sku.setdefault(sku, [])
    item = next((i for i in known if _is_same(i.build, build)), None)
    if item is None:
        item = MarketItem(sku, build)
        known.append(item)
        items.append(item)
    item.build = completed(item.build, build)
    return item


def _is_same(one: AnyBuild, other: AnyBuild) -> bool:
    return completed(one, other) == completed(other, one)


def groups_of(demand: Iterable[AnyNeeds]) -> list[PositionGroup]:
    """Positions of one bank together at the place of its first; each other alone."""
    by_bank: dict[object, list[AnyNeeds]] = {}
    for needs in demand:
        by_bank.setdefault(needs.bank or (needs.id,), []).append(needs)
    return [PositionGroup(tuple(members)) for members in by_bank.values()]


def match(groups: Sequence[PositionGroup], items: Sequence[MarketItem]) -> list[Match]:
    """Every group against every part; positions that ask the same are asked once."""
    known: dict[AnyNeeds, list[Level]] = {}
    sorted_out = _Sorted(items)
    result = []
    for group in groups:
        levels = []
        for needs in group.positions:
            bare = replace(needs, id="", ref="", bank="", qty=1)
            if bare not in known:
                known[bare] = sorted_out.levels(bare)
            levels.append(known[bare])
        flagged = {
            place: sum(n.qty for n, lv in zip(group.positions, each, strict=True) if lv)
            for place, each in enumerate(zip(*levels, strict=True))
            if max(each) < Level.REFUSED
        }
        result.append(Match(group, flagged))
    return result


def is_by_hand(needs: AnyNeeds, item: MarketItem) -> bool:
    """True for an old or salvaged suppressor: no plan chooses it, a person may."""
    is_old = any(drawer.origin is not Origin.NEW for drawer in item.drawers)
    is_suppressor = isinstance(needs, Needs) and needs.role in SUPPRESSORS
    return is_suppressor and is_old and not item.offers


class _Sorted:
    """The parts by kind, capacitors in order of capacitance: few of a long list are asked."""

    def __init__(self, items: Sequence[MarketItem]) -> None:
        self._items = items
        self._by_ware: dict[str, list[int]] = {}
        farads: list[tuple[float, int]] = []
        for place, item in enumerate(items):
            if isinstance(item.build, RatedBuild):
                self._by_ware.setdefault(item.build.ware.code, []).append(place)
            else:
                farads.append((item.build.farad, place))
        farads.sort()
        self._farads = [farad for farad, _ in farads]
        self._order = [place for _, place in farads]

    def levels(self, needs: AnyNeeds) -> list[Level]:
        """How each part stands against a demand."""
        levels = [Level.REFUSED] * len(self._items)
        for place in self._possible_places(needs):
            item = self._items[place]
            if needs.sku == item.sku or (not needs.sku and not is_by_hand(needs, item)):
                levels[place] = level_of(needs, item.build)
        return levels

    def _possible_places(self, needs: AnyNeeds) -> Sequence[int]:
        """Places of the parts that may fit: of the kind, or in the role's band of capacitance."""
        if isinstance(needs, RatedNeeds):
            return self._by_ware.get(needs.ware.code, ())
        low, high = CAPACITANCE[needs.role]
        start = bisect_left(self._farads, needs.farad * (1 - low) * (1 - _EDGE))
        end = bisect_right(self._farads, needs.farad * (1 + high) * (1 + _EDGE))
        return self._order[start:end]


def nearest(group: PositionGroup, items: Sequence[MarketItem]) -> MarketItem | None:
    """The part that misses a group's demand by least; None where no part is of its kind."""
    first = group.positions[0]
    alike = [item for item in items if is_alike(first, item.build)]
    return min(
        [item for item in alike if item.sku == first.sku] or alike,
        key=lambda item: sum(fit(needs, item.build).miss for needs in group.positions),
        default=None,
    )


def is_alike(needs: AnyNeeds, build: AnyBuild) -> bool:
    """True for a part of the kind that is asked."""
    if isinstance(needs, RatedNeeds):
        return isinstance(build, RatedBuild) and build.ware is needs.ware
    return isinstance(build, Build)


def _none_alike(needs: AnyNeeds) -> str:
    """Why nothing is chosen where no list has a part of the kind."""
    if not isinstance(needs, RatedNeeds):
        return "no list and no drawer has a part"
    text = f"no list and no drawer has a {needs.ware.name}"
    return f"{text}; {missing_words(needs)}" if needs.missing else text


def why_none(group: PositionGroup, item: MarketItem | None) -> str:
    """Why no part may stand at a group's positions, with the nearest miss."""
    own = group.positions[0]
    if item is None:
        return _none_alike(own)
    if isinstance(own, RatedNeeds) and own.missing and not own.is_known_by_type:
        return missing_words(own)
    fits = [(needs, fit(needs, item.build)) for needs in group.positions]
    refused = [one for one in fits if not one[1].is_allowed]
    if not refused and is_by_hand(own, item):
        return f"{item.sku} is old or salvaged: across the mains or to earth only by hand"
    if not refused:
        return f"{item.sku} is not the part that was chosen for the others of its bank"
    needs, told = refused[0]
    is_bank = len(group.positions) > 1
    begin = "no one part fits the whole bank" if is_bank else "no part fits"
    of = f" (for {needs.ref or needs.id})" if is_bank else ""
    return f"{begin}; the nearest, {item.sku} ({item.where}){of}: {told.why}"
