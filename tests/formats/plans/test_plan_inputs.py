"""A plan's inputs and result as JSON: what goes in comes out, money included."""

from __future__ import annotations

import json
from decimal import Decimal
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.recap.buying import plan
from hale_rail.core.recap.market import Terms, market
from hale_rail.core.recap.needs import CLASSES, Build, Mount, Needs, Role
from hale_rail.core.recap.offers import Drawer, Offer, Origin, Vendor
from hale_rail.formats.plans.plan_inputs import (
    build_json,
    build_of,
    needs_json,
    needs_of,
    sources_json,
    sources_of,
    terms_json,
    terms_of,
)
from hale_rail.formats.plans.plan_json import plan_json
from hale_rail.formats.plans.plan_page import plan_page

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
    st.none() | st.sampled_from(Grade), st.booleans(), st.booleans(), st.text(max_size=9),
)  # fmt: skip
offers = st.builds(
    Offer, st.text(max_size=9), st.text(max_size=9), builds,
    st.lists(st.tuples(st.integers(1, 100), money), min_size=1, max_size=3).map(tuple),
    st.integers(1, 99), st.integers(1, 99), st.none() | st.integers(0, 99),
)  # fmt: skip
drawers = st.builds(Drawer, st.text(max_size=9), builds, st.integers(0, 99),
                    st.sampled_from(Origin), st.booleans(), st.text(max_size=9))  # fmt: skip
vendors = st.builds(Vendor, st.text(max_size=9), money, st.none() | money)


def through_json(value: object) -> object:
    return json.loads(json.dumps(value, allow_nan=False))


@given(demands, builds)
def test_a_position_and_a_part_come_back_as_they_were(needs: Needs, build: Build) -> None:
    assert needs_of(through_json(needs_json(needs))) == needs  # type: ignore[arg-type]
    assert build_of(through_json(build_json(build))) == build  # type: ignore[arg-type]


@given(st.lists(offers, max_size=3), st.lists(drawers, max_size=3), st.lists(vendors, max_size=3))
def test_lists_drawers_and_terms_come_back_with_exact_money(
    wanted: list[Offer], stock: list[Drawer], known: list[Vendor]
) -> None:
    back = sources_of(through_json(sources_json(wanted, stock, known)))  # type: ignore[arg-type]
    assert back == (wanted, stock, known)


@given(st.none() | st.integers(1, 9), st.fractions(0, 1), money)
def test_what_is_asked_of_an_order_comes_back(
    most: int | None, spares: Fraction, below: Decimal
) -> None:
    terms = Terms(most, spares, below, 7.5)
    assert terms_of(through_json(terms_json(terms))) == terms  # type: ignore[arg-type]


def test_a_plan_is_told_with_money_as_numbers_outside_and_as_texts_inside() -> None:
    """The page adds decimals; a script reads JSON numbers that print as the prices did."""
    film = Build(Family.FILM, 1e-6, 63.0)
    demand = [Needs(n, n, Role.COUPLING, Family.FILM, 1e-6, 63.0, qty=3) for n in ("a", "b")]
    demand.append(Needs("z", "z", Role.SNUBBER, Family.CERAMIC, 1e-9, 63.0))
    stock = [Drawer("S", film, 2, Origin.SALVAGED, False, "box 3")]
    offer = Offer("V", "S", film, ((1, Decimal("0.1")), (10, Decimal("0.07"))))
    found = plan(demand, market([offer], stock, [Vendor("V", Decimal("2.50"))]), Terms())
    told, page = plan_json(found), plan_page(found)
    assert told["total"] == 2.9
    assert page["total"] == "2.90"
    assert told["order"][0] | {"covers": 0} == {
        "vendor": "V", "sku": "S", "qty": 4, "unit_price": 0.1, "cost": 0.4, "covers": 0,
        "spares": 0,
    }  # fmt: skip
    assert page["order"][0]["cost"] == "0.4"
    assert told["from_stock"] == [{"sku": "S", "qty": 2, "covers": ["a"]}]
    assert page["from_stock"][0]["lot"] == "box 3"
    assert set(told["order"][0]["covers"]) == {"a", "b"}
    assert told["unmet"][0]["nearest"] == "S"
    assert page["unmet"]["z"]["nearest"]["sku"] == "S"
    assert [flag["id"] for flag in told["flags"]] == ["a"]
    assert list(page["flags"]) == ["a"]
    assert set(page["chosen"]) == {"a", "b"}
    assert through_json(told) == told
    assert through_json(page) == page
