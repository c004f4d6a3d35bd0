"""The cheapest order: against brute force on small instances, and each term of the trade alone."""

from __future__ import annotations

import random
from collections.abc import Sequence
from decimal import Decimal
from fractions import Fraction
from itertools import product
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from hale_rail.core.parts.families import Family
from hale_rail.core.recap import optimise
from hale_rail.core.recap.buying import plan, settled
from hale_rail.core.recap.market import Market, Terms, market
from hale_rail.core.recap.matching import groups_of, match
from hale_rail.core.recap.needs import Build, Needs, Role
from hale_rail.core.recap.offers import Drawer, Offer, Origin, Vendor
from hale_rail.core.recap.optimise import line_by_line
from hale_rail.core.recap.orders import BuyingPlan, proof_words

from ...sizes import examples

#: two values that do not stand in for one another, and one in between that may stand for the first
SMALL, LARGE = Build(Family.FILM, 10e-9, 100.0), Build(Family.FILM, 47e-9, 100.0)
BETWEEN = Build(Family.FILM, 11e-9, 100.0)


def wants(name: str, build: Build = SMALL, qty: int = 1, bank: str = "") -> Needs:
    return Needs(name, name, Role.COUPLING, build.family, build.farad, 100.0, qty=qty, bank=bank)


def sells(vendor: str, sku: str, *prices: str, build: Build = SMALL, **more: Any) -> Offer:
    tiers = tuple(zip((1, 10, 100), map(Decimal, prices), strict=False))
    return Offer(vendor, sku, build, tiers, **more)


def bought(found: BuyingPlan) -> dict[str, int]:
    return {line.offer.sku: line.qty for line in found.order}


def cheapest_by_trying(demand: Sequence[Needs], at: Market, terms: Terms) -> tuple[int, Decimal]:
    """Every choice of a part a group and of a count an offer: (groups open, least money)."""
    matches = match(groups_of(demand), at.items)
    offers = [(i, o) for i, item in enumerate(at.items) for o in item.offers]
    best = (len(matches) + 1, Decimal(0))
    for chosen in product(*[(None, *one.flagged) for one in matches]):
        need: dict[int, int] = {}
        for one, place in zip(matches, chosen, strict=True):
            if place is not None:
                need[place] = need.get(place, 0) + one.group.qty
        left = {i: max(n - at.items[i].at_hand, 0) for i, n in need.items()}
        used = [(i, o) for i, o in offers if left.get(i)]
        for counts in product(*[range(left[i], left[i] + 14) for i, _ in used]):
            cost = _cost(used, counts, left, at, terms)
            if cost is not None:
                best = min(best, (sum(place is None for place in chosen), cost))
    return best


def _cost(
    used: Sequence[tuple[int, Offer]], counts: Sequence[int], left: dict[int, int], at: Market,
    terms: Terms,
) -> Decimal | None:  # fmt: skip
    got: dict[int, int] = {}
    goods: dict[str, Decimal] = {}
    for (i, offer), n in zip(used, counts, strict=True):
        if n and (n < offer.moq or n % offer.pack or (offer.available or n) < n):
            return None
        if n:
            price = next(p for start, p in reversed(offer.prices) if n >= start)
            if n < left[i] + terms.spares_for(left[i], price):
                return None
            goods[offer.vendor] = goods.get(offer.vendor, Decimal(0)) + n * price
            got[i] = got.get(i, 0) + n
    if any(got.get(i, 0) < n for i, n in left.items()):
        return None
    if terms.max_vendors is not None and len(goods) > terms.max_vendors:
        return None
    sent = Decimal(0)
    for name, cost in goods.items():
        vendor = at.vendor(name)
        is_free = vendor.free_above is not None and cost >= vendor.free_above
        sent += Decimal(0) if is_free else vendor.shipping
    return sum(goods.values(), Decimal(0)) + sent


def cents(least: int, most: int) -> st.SearchStrategy[Decimal]:
    return st.integers(least, most).map(lambda n: Decimal(n) / 100)


@st.composite
def small_markets(draw: st.DrawFn) -> tuple[list[Needs], Market, Terms]:
    demand = [
        wants(f"p{n}", draw(st.sampled_from([SMALL, LARGE])), draw(st.integers(1, 3)))
        for n in range(draw(st.integers(1, 3)))
    ]
    if draw(st.booleans()):
        demand = [replace(needs, bank="b") if needs.farad < 20e-9 else needs for needs in demand]
    offers = []
    for n in range(draw(st.integers(1, 4))):
        price = draw(cents(30, 300))
        cheaper = max(price - draw(cents(0, 40)), Decimal("0.25"))
        offers.append(
            Offer(
                draw(st.sampled_from("AB")),
                f"S{n}",
                draw(st.sampled_from([SMALL, LARGE, BETWEEN])),
                ((1, price), (draw(st.integers(2, 5)), cheaper)),
                draw(st.integers(1, 3)),
                draw(st.integers(1, 2)),
                draw(st.sampled_from([None, None, 2, 6])),
            )
        )
    stock = [Drawer("D", SMALL, draw(st.integers(0, 2)))]
    vendors = [Vendor(v, draw(cents(0, 150)), draw(st.none() | cents(5, 500))) for v in "AB"]
    is_plenty = all(offer.available is None for offer in offers)
    share = draw(st.sampled_from([0, 10, 30, 50])) if is_plenty else 0
    most = draw(st.sampled_from([None, 1]))
    return demand, market(offers, stock, vendors), Terms(most, Fraction(share, 100))


@settings(max_examples=examples(60), deadline=None)
@given(small_markets())
def test_no_order_is_cheaper_than_the_one_found(case: tuple[list[Needs], Market, Terms]) -> None:
    demand, at, terms = case
    found = plan(demand, at, terms)
    open_groups = {needs.bank or needs.id for needs in demand if needs.id in found.open_positions}
    fewest, least = cheapest_by_trying(demand, at, terms)
    assert len(open_groups) == fewest
    assert found.total == least
    assert found.gap == 0
    matches = match(groups_of(demand), at.items)
    by_line = settled(matches, at, terms, line_by_line(matches, at, terms))
    if not by_line.unmet:
        assert by_line.total >= found.total
    for each in (found, by_line):
        _is_whole(each, demand)


def _is_whole(found: BuyingPlan, demand: Sequence[Needs]) -> None:
    """Every position is covered by one part number or named as open; no piece is counted twice."""
    covered = {c for line in (*found.order, *found.from_stock) for c in line.covers}
    open_ids = {one.position for one in found.unmet}
    assert covered | open_ids == {needs.id for needs in demand}
    assert not covered & open_ids
    pieces = sum(line.fitted for line in found.order) + sum(line.qty for line in found.from_stock)
    assert pieces == sum(needs.qty for needs in demand if needs.id in covered)
    assert all(line.qty >= line.fitted for line in found.order)
    money = [found.total, found.goods, *found.shipping.values()]
    money += [sum_ for line in found.order for sum_ in (line.cost, line.unit_price)]
    assert all(isinstance(sum_, Decimal) for sum_ in money)


Case = tuple[list[Needs], list[Offer], list[Drawer], list[Vendor], Terms]
ALONE = [Vendor("A", Decimal("4.00"), Decimal("10.00")), Vendor("B", Decimal("3.00"))]
ROWS: list[tuple[str, Case, dict[str, int], str]] = [
    ("ten are cheaper than nine",
     ([wants("a", qty=9)], [sells("B", "S", "1.00", "0.80")], [], [], Terms()),
     {"S": 10}, "8.00"),
    ("whole packs", ([wants("a", qty=7)], [sells("B", "S", "0.10", pack=5)], [], [], Terms()),
     {"S": 10}, "1.00"),
    ("the least that is sold",
     ([wants("a")], [sells("B", "S", "0.10", moq=25)], [], [], Terms()), {"S": 25}, "2.50"),
    ("filled up until it is sent for nothing",
     ([wants("a", qty=8)], [sells("A", "S", "1.00")], [], ALONE, Terms()), {"S": 10}, "10.00"),
    ("shipping decides for one vendor",
     ([wants("a"), wants("b", LARGE)],
      [sells("A", "A1", "0.50"), sells("A", "A2", "0.90", build=LARGE),
       sells("B", "B2", "0.10", build=LARGE)], [], ALONE, Terms()),
     {"A1": 1, "A2": 1}, "5.40"),
    ("a bank gets one part, though its members alone would be cheaper otherwise",
     ([wants("a", bank="k"), wants("b", BETWEEN, bank="k")],
      [sells("B", "S", "0.30"), sells("B", "T", "0.20", build=replace(BETWEEN, farad=8.5e-9))],
      [], [], Terms()), {"S": 2}, "0.60"),
    ("what is at hand comes first",
     ([wants("a", qty=2)], [sells("B", "S", "0.10")], [Drawer("D", SMALL, 2)], [], Terms()),
     {}, "0.00"),
    ("one part number from the drawer and from a list",
     ([wants("a", qty=3)], [sells("B", "S", "0.10")], [Drawer("S", SMALL, 2)], [], Terms()),
     {"S": 1}, "0.10"),
    ("spares are rounded up, on cheap parts only",
     ([wants("a", qty=11), wants("b", LARGE, qty=11)],
      [sells("B", "S", "0.99"), sells("B", "L", "1.00", build=LARGE)], [], [],
      Terms(spares=Fraction(1, 10))), {"S": 13, "L": 11}, "23.87"),
    ("thirty get three spares, not four",
     ([wants("a", qty=30)], [sells("B", "S", "0.10")], [], [], Terms(spares=Fraction(1, 10))),
     {"S": 33}, "3.30"),
    ("a flag decides between near-equals",
     ([Needs("a", "a", Role.START_UP, Family.ALUMINIUM, 1e-4, 16.0)],
      [sells("B", "F", "0.50", build=Build(Family.ALUMINIUM, 1e-4, 63.0, temp_c=105.0)),
       sells("B", "G", "0.51", build=Build(Family.ALUMINIUM, 1e-4, 25.0, temp_c=105.0))], [], [],
      Terms()), {"G": 1}, "0.51"),
]  # fmt: skip


@pytest.mark.parametrize(("case", "order", "total"), [r[1:] for r in ROWS],
                         ids=[r[0] for r in ROWS])  # fmt: skip
def test_a_term_of_the_trade(case: Case, order: dict[str, int], total: str) -> None:
    demand, offers, stock, vendors, terms = case
    found = plan(demand, market(offers, stock, vendors), terms)
    assert bought(found) == order
    assert found.total == Decimal(total)
    assert not found.unmet
    _is_whole(found, demand)


def test_old_stock_is_used_and_flagged_until_it_is_tested() -> None:
    for origin, is_tested, is_flagged in (
        (Origin.OLD_STOCK, False, True), (Origin.SALVAGED, False, True),
        (Origin.OLD_STOCK, True, False), (Origin.NEW, False, False),
    ):  # fmt: skip
        stock = [Drawer("D", SMALL, 5, origin, is_tested)]
        found = plan([wants("a")], market([], stock), Terms())
        assert [line.qty for line in found.from_stock] == [1]
        assert any("test it first" in flag.text for flag in found.flags) == is_flagged


OPEN = [
    ([sells("B", "S", "0.10", available=2)], Terms(), "3 wanted, 2 to be had", "S"),
    ([sells("B", "S", "0.10", available=0)], Terms(), "3 wanted, none to be had", "S"),
    ([sells("B", "S", "0.10", build=LARGE)], Terms(), "no part fits; the nearest, S (B): 370", "S"),
    ([], Terms(), "no list and no drawer", None),
]


@pytest.mark.parametrize(("offers", "terms", "reason", "sku"), OPEN)
def test_a_position_without_a_part_is_named_and_the_rest_is_planned(
    offers: list[Offer], terms: Terms, reason: str, sku: str | None
) -> None:
    rest = [wants("z", Build(Family.CERAMIC, 1e-9, 50.0)), wants("a", qty=3)]
    stock = [Drawer("K", Build(Family.CERAMIC, 1e-9, 100.0), 1)] if offers else []
    found = plan(rest, market(offers, stock), terms)
    unmet = next(one for one in found.unmet if one.position == "a")
    assert reason in unmet.reason
    assert (unmet.nearest.sku if unmet.nearest else None) == sku
    assert [line.covers for line in found.from_stock] == ([("z",)] if offers else [])


def test_within_a_limit_of_vendors_as_many_positions_as_can_be_are_met() -> None:
    demand = [wants("a"), wants("b"), wants("c", LARGE)]
    offers = [sells("A", "A1", "9.00"), sells("B", "B2", "0.10", build=LARGE)]
    found = plan(demand, market(offers), Terms(max_vendors=1))
    assert bought(found) == {"A1": 2}
    assert [(one.position, "at most 1 vendor" in one.reason) for one in found.unmet] == [
        ("c", True)
    ]


def test_a_spare_that_is_not_to_be_had_is_told_and_rules_nothing_out() -> None:
    offers = [sells("B", "S", "0.10", available=10)]
    found = plan([wants("a", qty=10)], market(offers), Terms(spares=Fraction(1, 10)))
    assert bought(found) == {"S": 10}
    assert [flag.text for flag in found.flags] == ["S: 1 of its spares not to be had"]


def test_lists_that_describe_a_number_differently_are_two_parts() -> None:
    told = sells("A", "S", "0.50", build=replace(SMALL, height_mm=10.0))
    silent, other = sells("B", "S", "0.50"), sells("B", "S", "0.50", build=LARGE)
    assert len(market([told, silent]).items) == 1
    assert market([silent, told]).items[0].build.height_mm == 10.0
    assert len(market([told, other]).items) == 2


def test_a_very_long_list_gives_the_same_order_as_a_short_one() -> None:
    """What is left out of it is dearer than what serves the same positions from the same vendor."""
    rng = random.Random(3)
    demand = [wants(f"p{n}", build, n + 1) for n, build in enumerate((SMALL, LARGE, SMALL))]
    cheap = [sells(v, f"{v}{n}", "0.30", "0.20", build=b)
             for v in "AB" for n, b in enumerate((SMALL, LARGE))]  # fmt: skip
    dear = [
        sells(rng.choice("AB"), f"X{n}", f"0.{rng.randint(31, 99)}",
              build=rng.choice((SMALL, LARGE, BETWEEN)))
        for n in range(4000)
    ]  # fmt: skip
    vendors = [Vendor("A", Decimal(2)), Vendor("B", Decimal(1), Decimal(5))]
    short, long = (plan(demand, market(o, (), vendors), Terms()) for o in (cheap, dear + cheap))
    assert long.total == short.total == Decimal("2.80")
    assert {line.offer.vendor for line in long.order} == {"B"}
    assert not long.unmet


@pytest.mark.parametrize(
    ("most", "is_cut", "words"),
    [
        (3, False, "proven the cheapest"),
        (2, True, "proven the cheapest of the parts weighed (the list is very long)"),
    ],
)
def test_of_a_very_long_list_the_proof_is_of_the_parts_weighed(
    monkeypatch: pytest.MonkeyPatch, most: int, is_cut: bool, words: str
) -> None:
    monkeypatch.setattr(optimise, "_MANY", most)
    monkeypatch.setattr(optimise, "_CHEAPEST", 1)
    offers = [sells("Mill", f"M{cents}", f"0.{cents}") for cents in (30, 20, 40)]
    found = plan([wants("C1")], market(offers), Terms())
    assert (bought(found), found.is_cut) == ({"M20": 1}, is_cut)
    assert proof_words(found.gap, found.is_cut) == words
