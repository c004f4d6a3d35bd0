"""What an offer costs for a count, against every count that may be ordered; its terms."""

from __future__ import annotations

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.parts.families import Family
from hale_rail.core.recap.needs import Build, Mount
from hale_rail.core.recap.offers import Drawer, Offer, Origin, Vendor, completed

FILM = Build(Family.FILM, 1e-6)


@st.composite
def offers(draw: st.DrawFn) -> Offer:
    starts = sorted(draw(st.sets(st.sampled_from([1, 5, 10, 25]), min_size=1)))
    prices = [Decimal(draw(st.integers(1, 500))) / 100 for _ in starts]
    return Offer(
        "V",
        "S",
        FILM,
        tuple(zip(starts, prices, strict=True)),
        draw(st.integers(1, 12)),
        draw(st.integers(1, 7)),
        draw(st.none() | st.integers(0, 60)),
    )


def sold(offer: Offer, qty: int) -> bool:
    """A count that the vendor sends: by the terms themselves, one by one."""
    is_enough = qty >= offer.moq and qty >= offer.prices[0][0]
    return (
        is_enough and qty % offer.pack == 0 and (offer.available is None or qty <= offer.available)
    )


@given(offers(), st.integers(1, 40))
def test_the_cheapest_count_is_found(offer: Offer, wanted: int) -> None:
    """The price is that of the highest start reached, rising or falling, as the list has it."""
    tried = [
        (qty * next(p for start, p in reversed(offer.prices) if start <= qty), qty)
        for qty in range(wanted, 140)
        if sold(offer, qty)
    ]
    found = offer.order_for(wanted)
    if not tried:
        assert found is None
        return
    assert found is not None
    assert found[0] * found[1] == min(tried)[0]
    assert sold(offer, found[0])


@given(offers())
def test_the_fewest_and_the_most_are_sold(offer: Offer) -> None:
    counts = [qty for qty in range(1, 120) if sold(offer, qty)]
    if offer.most == 0:
        assert not counts
    else:
        assert min(counts) == offer.least
        assert offer.most in (None, max(counts))


SHIPPING = [("9.99", "4.90"), ("10.00", "0"), ("10.01", "0")]


@pytest.mark.parametrize(("goods", "cost"), SHIPPING)
def test_sending_is_free_from_the_threshold_on(goods: str, cost: str) -> None:
    vendor = Vendor("V", Decimal("4.90"), Decimal(10))
    assert vendor.shipping_for(Decimal(goods)) == Decimal(cost)
    assert Vendor("V", Decimal(3)).shipping_for(Decimal(10**6)) == 3


TRUST = [
    (Origin.NEW, False, True), (Origin.NEW, True, True), (Origin.OLD_STOCK, False, False),
    (Origin.OLD_STOCK, True, True), (Origin.SALVAGED, False, False), (Origin.SALVAGED, True, True),
]  # fmt: skip


@pytest.mark.parametrize(("origin", "is_tested", "is_trusted"), TRUST)
def test_what_is_not_new_is_trusted_once_it_was_tested(
    origin: Origin, is_tested: bool, is_trusted: bool
) -> None:
    assert Drawer("S", FILM, 1, origin, is_tested).is_trusted is is_trusted


def test_a_description_is_completed_by_another_and_never_overruled() -> None:
    told = Build(Family.FILM, 1e-6, 63.0, "", None, Mount.BOX, 10.0)
    other = Build(Family.FILM, 1e-6, 100.0, "X2", 105.0, Mount.RADIAL, 5.0, 4.0)
    assert completed(told, other) == Build(
        Family.FILM, 1e-6, 63.0, "X2", 105.0, Mount.BOX, 10.0, 4.0
    )
    assert completed(told, told) == told
