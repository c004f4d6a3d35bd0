"""Test points: their addresses, what is understood at each, and the order of walking."""

from __future__ import annotations

import math

import pytest

from hale_rail.core.errors import InputError, QuantityError, RangeError
from hale_rail.core.parts.families import Family
from hale_rail.core.supply.points import (
    Point,
    Quantity,
    next_undone,
    parse_key,
    quantities,
    understand,
)
from hale_rail.core.supply.sheet import Kind, Rail, Regulation, Station

CAP = Station(7, "C7", Kind.CAPACITOR, "main", 1, 100e-6, 10.0, Family.ALUMINIUM, is_store=True)
RAIL = Rail("+5 V", 5.0, Regulation.MAIN)
Q = Quantity


@pytest.mark.parametrize(
    "point",
    [
        Point(Q.ESR, 7, setting="in circuit"),
        Point(Q.STORE, 7),
        Point(Q.RAIL, None, "−12 V", "in the machine"),
        Point(Q.GROUND, None, "+5 V", "isolated", "reversed"),
    ],
)
def test_an_address_leads_back_to_its_point(point: Point) -> None:
    assert parse_key(point.key) == point


@pytest.mark.parametrize(
    "key",
    ["", "7", "7~esr~in circuit", "7~nonsense~~", "x~esr~in circuit~", "7~esr~sideways~",
     "r+5 V~ground~isolated~upside"],
)  # fmt: skip
def test_an_address_of_nothing_is_refused(key: str) -> None:
    with pytest.raises(InputError):
        parse_key(key)


@pytest.mark.parametrize(
    ("quantity", "text", "value"),
    [
        (Q.ESR, "0R56", 0.56),
        (Q.CAPACITANCE, "97", 97e-6),
        (Q.CAPACITANCE, "OL", math.inf),
        (Q.LEAKAGE, "12u", 12e-6),
        (Q.LEAKAGE, "OL", math.inf),
        (Q.RESISTANCE, "short", 0.0),
        (Q.STORE, "-3.2", -3.2),
        (Q.INJECT, "0.4 V 120 mA", 0.4 / 0.12),
        (Q.INJECT, "0.31V/780m", 0.31 / 0.78),
        (Q.LOOK, "Bulge, leak", 0.0),
        (Q.FORWARD, "543", 0.543),
        (Q.FORWARD, "0.543", 0.543),
        (Q.FORWARD, "43m", 0.043),
        (Q.REVERSE, "1", 1.0),
        (Q.REVERSE, "OL", math.inf),
        (Q.BATTERY, "3.6", 3.6),
    ],
)
def test_understood(quantity: Quantity, text: str, value: float) -> None:
    typed = understand(Point(quantity, 7), text, CAP, None)
    assert typed.value == pytest.approx(value)
    assert typed.echo


@pytest.mark.parametrize(
    ("quantity", "text", "error"),
    [
        (Q.ESR, "100n F", QuantityError),
        (Q.ESR, "-0.2", RangeError),
        (Q.CAPACITANCE, "5 F", RangeError),
        (Q.CAPACITANCE, "200 mF", RangeError),  # 2000 times what is marked
        (Q.STORE, "900", RangeError),  # 900 V across a 10 V part
        (Q.STORE, "OL", QuantityError),
        (Q.INJECT, "5 V 1 A", RangeError),
        (Q.INJECT, "0.4 V", QuantityError),
        (Q.LOOK, "shiny", QuantityError),
        (Q.LEAKAGE, "12", RangeError),
        (Q.FORWARD, "543 V", RangeError),
        (Q.FORWARD, "-0.5", RangeError),
        (Q.BATTERY, "3k6", RangeError),
        (Q.BATTERY, "OL", QuantityError),
    ],
)
def test_refused(quantity: Quantity, text: str, error: type[InputError]) -> None:
    with pytest.raises(error):
        understand(Point(quantity, 7), text, CAP, None)


def test_a_rail_far_off_the_sheet_is_questioned() -> None:
    point = Point(Q.RAIL, None, "+5 V", "dummy")
    assert understand(point, "4.8..5.2", None, RAIL).high == 5.2
    with pytest.raises(RangeError, match="Check the range"):
        understand(point, "900", None, RAIL)


@pytest.mark.parametrize(
    ("station", "first"),
    [
        (CAP, Q.ESR),
        (Station(1, "C1", Kind.CAPACITOR, "main", 1, 1e-7, 63.0, Family.FILM), Q.CAPACITANCE),
        (Station(1, "C1", Kind.CAPACITOR, "main", 1, 4.7e-7, 63.0, Family.ALUMINIUM),
         Q.CAPACITANCE),
        (Station(1, "F1", Kind.FUSE, "main", 1), Q.RESISTANCE),
        (Station(1, "P1", Kind.CONNECTOR, "", 1), Q.LOOK),
    ],
)  # fmt: skip
def test_the_most_telling_quantity_comes_first(station: Station, first: Quantity) -> None:
    assert quantities(station)[0] is first


def test_the_walk_goes_on_behind_and_round() -> None:
    order = [Point(Q.ESR, number, setting="in circuit") for number in (1, 2, 3)]
    keys = [point.key for point in order]
    assert next_undone(order, {keys[1]}, keys[0]) == order[2]
    assert next_undone(order, {keys[2]}, keys[2]) == order[0]
    assert next_undone(order, set(keys)) is None
    assert next_undone(order, {keys[0], keys[1]}, keys[2]) is None
