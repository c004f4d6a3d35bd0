"""What must hold of the cheapest order whatever the market: more choice never costs more."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from fractions import Fraction

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from hale_rail.core.parts.families import Family
from hale_rail.core.recap.buying import by_line, from_alone, plan
from hale_rail.core.recap.market import Terms, market
from hale_rail.core.recap.needs import Build, Needs, Role
from hale_rail.core.recap.offers import Drawer, Offer, Vendor
from hale_rail.core.recap.orders import BuyingPlan

from ...sizes import examples

VALUES = (10e-9, 47e-9, 220e-9)
TERMS = Terms()


def part(farad: float) -> Build:
    return Build(Family.FILM, farad, 100.0)


@st.composite
def cases(draw: st.DrawFn) -> tuple[list[Needs], list[Offer], list[Vendor]]:
    demand = [
        Needs(f"p{n}", f"C{n}", Role.COUPLING, Family.FILM, draw(st.sampled_from(VALUES)), 63.0,
              qty=draw(st.integers(1, 12)))
        for n in range(draw(st.integers(1, 5)))
    ]  # fmt: skip
    offers = []
    for n in range(draw(st.integers(2, 8))):
        price = Decimal(draw(st.integers(10, 200))) / 100
        tiers = ((1, price), (10, (price * Decimal("0.8")).quantize(Decimal("0.001"))))
        offers.append(
            Offer(draw(st.sampled_from("ABC")), f"S{n}", part(draw(st.sampled_from(VALUES))),
                  tiers, draw(st.sampled_from([1, 1, 5])), draw(st.sampled_from([1, 1, 5])),
                  draw(st.sampled_from([None, None, 4, 30])))
        )  # fmt: skip
    vendors = [
        Vendor(name, Decimal(draw(st.integers(0, 600))) / 100,
               draw(st.none() | st.integers(1, 20).map(Decimal)))
        for name in "ABC"
    ]  # fmt: skip
    return demand, offers, vendors


def bought(
    demand: Sequence[Needs], offers: Sequence[Offer], vendors: Sequence[Vendor],
    stock: Sequence[Drawer] = (), terms: Terms = TERMS,
) -> BuyingPlan:  # fmt: skip
    return plan(demand, market(offers, stock, vendors), terms)


def worth(found: BuyingPlan) -> tuple[int, Decimal]:
    """How good a plan is: fewer open groups, then less money."""
    return len(found.unmet), found.total


Case = tuple[list[Needs], list[Offer], list[Vendor]]


@settings(max_examples=examples(40))
@given(cases(), st.randoms(use_true_random=False))
def test_the_order_of_rows_does_not_matter(case: Case, rng: object) -> None:
    demand, offers, vendors = case
    before = worth(bought(demand, offers, vendors))
    for rows in (demand, offers, vendors):
        rng.shuffle(rows)  # type: ignore[attr-defined]
    assert worth(bought(demand, offers, vendors)) == before


@settings(max_examples=examples(40))
@given(cases())
def test_another_offer_a_fuller_drawer_or_one_vendor_more_never_costs_more(case: Case) -> None:
    demand, offers, vendors = case
    less = bought(demand, offers[:-1], vendors)
    more = bought(demand, offers, vendors)
    assert worth(more) <= worth(less)
    stocked = bought(demand, offers, vendors, [Drawer("D", part(VALUES[0]), 6)])
    assert worth(stocked) <= worth(more)
    limits = [bought(demand, offers, vendors, (), Terms(max_vendors=n)) for n in (1, 2, 3)]
    assert worth(limits[0]) >= worth(limits[1]) >= worth(limits[2]) == worth(more)
    for n, found in enumerate(limits, 1):
        assert len(found.shipping) <= n


@settings(max_examples=examples(40))
@given(cases())
def test_other_ways_to_buy_the_same_are_never_better(case: Case) -> None:
    demand, offers, vendors = case
    at = market(offers, (), vendors)
    best = worth(plan(demand, at, TERMS))
    assert worth(by_line(demand, at, TERMS)) >= best
    for vendor in "ABC":
        alone = plan(demand, from_alone(at, vendor), TERMS)
        assert worth(alone) >= best
        assert set(alone.shipping) <= {vendor}


@settings(max_examples=examples(40))
@given(cases(), st.integers(2, 50))
def test_prices_in_another_unit_give_the_same_order(case: Case, factor: int) -> None:
    """Money scales: all prices, shipping and thresholds times a number, the total times it too."""
    demand, offers, vendors = case
    scaled = [replace(o, prices=tuple((n, p * factor) for n, p in o.prices)) for o in offers]
    dearer = [
        Vendor(v.name, v.shipping * factor, v.free_above and v.free_above * factor) for v in vendors
    ]
    plain, much = bought(demand, offers, vendors), bought(demand, scaled, dearer)
    assert len(plain.unmet) == len(much.unmet)
    assert much.total == plain.total * factor


@settings(max_examples=examples(40))
@given(cases(), st.integers(1, 50))
def test_spares_are_never_fewer_than_asked_unless_told(case: Case, percent: int) -> None:
    demand, offers, vendors = case
    terms = Terms(spares=Fraction(percent, 100))
    found = bought(demand, offers, vendors, (), terms)
    for line in found.order:
        wanted = terms.spares_for(line.fitted, line.unit_price)
        assert line.qty - line.fitted + line.spares_short >= wanted
        assert (line.spares_short > 0) == any(
            line.offer.sku in flag.text and "not to be had" in flag.text for flag in found.flags
        )
    assert worth(bought(demand, offers, vendors)) <= worth(found)


@settings(max_examples=examples(40))
@given(cases())
def test_every_line_keeps_to_its_offer_and_no_piece_is_lost(case: Case) -> None:
    demand, offers, vendors = case
    found = bought(demand, offers, vendors)
    for line in found.order:
        offer = line.offer
        assert line.qty % offer.pack == 0
        assert line.qty >= offer.moq
        assert offer.available is None or line.qty <= offer.available
        assert line.unit_price == offer.price_at(line.qty)
    by_part: dict[str, int] = {}
    for needs in demand:
        if needs.id in found.chosen:
            sku = found.chosen[needs.id].sku
            by_part[sku] = by_part.get(sku, 0) + needs.qty
    fitted: dict[str, int] = {}
    for line in found.order:
        fitted[line.offer.sku] = fitted.get(line.offer.sku, 0) + line.fitted
    assert fitted == by_part
    assert {one.position for one in found.unmet} == {n.id for n in demand} - set(found.chosen)
