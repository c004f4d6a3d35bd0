"""A plan and what it follows from as records: what is kept comes back, money included."""

from __future__ import annotations

import json
from decimal import Decimal
from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.parts.ratings import Ratings
from hale_rail.core.recap.buying import plan
from hale_rail.core.recap.market import Terms, market
from hale_rail.core.recap.needs import CLASSES, Build, Mount, Needs, Role
from hale_rail.core.recap.offers import Drawer, Offer, Origin, Vendor
from hale_rail.core.recap.orders import BuyingPlan
from hale_rail.core.recap.rated_parts import WARES, AnyBuild, AnyNeeds, RatedBuild, RatedNeeds
from hale_rail.formats.codec import from_text, plain, record_of, to_text
from hale_rail.formats.plans.plan_json import plan_json

number = st.none() | st.floats(0.001, 1e4)
money = st.decimals(0, 10**6, places=4)
builds = st.builds(
    Build, st.sampled_from(Family), st.floats(1e-12, 1), number, st.sampled_from(["", *CLASSES]),
    number, st.none() | st.sampled_from(Mount), number, number, number, number, number, number,
)  # fmt: skip
demands = st.builds(
    Needs, st.text(max_size=9), st.text(max_size=9), st.sampled_from(Role),
    st.sampled_from(Family), st.floats(1e-12, 1), number, st.sampled_from(["", *CLASSES]),
    st.none() | st.sampled_from(Mount), number, number, number, number, number,
    st.text(max_size=5), st.integers(1, 99), number, number,
    st.none() | st.sampled_from(Grade), st.booleans(), st.booleans(), st.booleans(),
    st.text(max_size=9),
)  # fmt: skip
offers = st.builds(
    Offer, st.text(max_size=9), st.text(max_size=9), builds,
    st.lists(st.tuples(st.integers(1, 100), money), min_size=1, max_size=3).map(tuple),
    st.integers(1, 99), st.integers(1, 99), st.none() | st.integers(0, 99),
)  # fmt: skip
drawers = st.builds(Drawer, st.text(max_size=9), builds, st.integers(0, 99),
                    st.sampled_from(Origin), st.booleans(), st.text(max_size=9))  # fmt: skip
vendors = st.builds(Vendor, st.text(max_size=9), money, st.none() | money)


def kept(value: object, kind: Any) -> Any:
    """What the store gives back of a record, and a script of its JSON."""
    assert record_of(json.loads(json.dumps(plain(value), allow_nan=False)), kind) == value
    return from_text(to_text(value), kind)


@given(demands, builds)
def test_a_position_and_a_part_come_back_as_they_were(needs: Needs, build: Build) -> None:
    assert kept(needs, AnyNeeds) == needs
    assert kept(build, AnyBuild) == build


@given(st.sampled_from(sorted(WARES)), number, st.text(max_size=9))
def test_a_part_that_is_not_a_capacitor_comes_back_with_its_kind(
    code: str, ampere: float | None, style: str
) -> None:
    rated = RatedBuild(WARES[code], Ratings(ampere=ampere, style=style))
    assert kept(rated, AnyBuild).ware is WARES[code]
    assert (
        kept(RatedNeeds("a", "F1", WARES[code], rated.ratings), AnyNeeds).ratings.ampere == ampere
    )


@given(st.lists(offers, max_size=3), st.lists(drawers, max_size=3), st.lists(vendors, max_size=3))
def test_lists_drawers_and_terms_come_back_with_exact_money(
    wanted: list[Offer], stock: list[Drawer], known: list[Vendor]
) -> None:
    assert kept(wanted, list[Offer]) == wanted
    assert kept(stock, list[Drawer]) == stock
    assert kept(known, list[Vendor]) == known


@given(st.none() | st.integers(1, 9), st.fractions(0, 1), money)
def test_what_is_asked_of_an_order_comes_back(
    most: int | None, spares: Fraction, below: Decimal
) -> None:
    terms = Terms(most, spares, below, 7.5)
    assert kept(terms, Terms) == terms


@pytest.mark.parametrize(
    ("text", "kind"),
    [
        ('{"type": "rated", "ware": "kettle", "ratings": {}}', AnyBuild),
        ('{"type": "tea", "farad": 1}', AnyBuild),
        ('{"type": "capacitor", "family": "wood", "farad": 1}', AnyBuild),
        ('{"max_vendors": 1, "spares": "a tenth"}', Terms),
        ("[]", Terms),
    ],
)
def test_what_is_not_a_record_is_refused(text: str, kind: Any) -> None:
    with pytest.raises(ValueError):
        from_text(text, kind)


def test_a_plan_is_told_with_money_as_numbers_outside_and_comes_back_inside() -> None:
    """The page adds decimals; a script reads JSON numbers that print as the prices did."""
    film = Build(Family.FILM, 1e-6, 63.0)
    demand = [Needs(n, n, Role.COUPLING, Family.FILM, 1e-6, 63.0, qty=3) for n in ("a", "b")]
    demand.append(Needs("z", "z", Role.SNUBBER, Family.CERAMIC, 1e-9, 63.0))
    stock = [Drawer("S", film, 2, Origin.SALVAGED, False, "box 3")]
    offer = Offer("V", "S", film, ((1, Decimal("0.1")), (10, Decimal("0.07"))))
    found = plan(demand, market([offer], stock, [Vendor("V", Decimal("2.50"))]), Terms())
    told, back = plan_json(found), kept(found, BuyingPlan)
    assert back == found
    assert told["total"] == 2.9
    assert str(back.total) == "2.90"
    assert told["order"][0] | {"covers": 0} == {
        "vendor": "V", "sku": "S", "qty": 4, "unit_price": 0.1, "cost": 0.4, "covers": 0,
        "spares": 0,
    }  # fmt: skip
    assert told["from_stock"] == [{"sku": "S", "qty": 2, "covers": ["a"]}]
    assert back.from_stock[0].drawer.lot == "box 3"
    assert set(told["order"][0]["covers"]) == {"a", "b"}
    assert told["unmet"][0]["nearest"] == back.open_positions["z"].nearest.sku == "S"
    assert [flag["id"] for flag in told["flags"]] == list(back.flags_by_position) == ["a"]
    assert set(back.chosen) == {"a", "b"}
    assert json.loads(json.dumps(told)) == told
