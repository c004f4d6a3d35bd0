"""The harness by hand: gauges, conductors, drops, what is missing, what is checked."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.bring_up.harness import Joint, plan
from hale_rail.core.bring_up.missing import advice
from hale_rail.core.bring_up.wiring import Feed, Pin, PinKind, SignalUse, wire_ohm
from hale_rail.core.errors import InputError

RAIL, GROUND, SIGNAL, NC = PinKind.RAIL, PinKind.GROUND, PinKind.SIGNAL, PinKind.NC
FIVE, TWELVE, MINUS = Feed(5, 20, 4, 18, 6), Feed(12, 3, 1, 18, 6), Feed(-12, 0.5, 1, 22, 3)
EARTH = Feed(0, None, 5, 18, 6)


def plainly(text: str) -> str:
    """A text with plain spaces before its units."""
    return text.replace("\u00a0", " ")


@pytest.mark.parametrize(("awg", "milliohm_a_metre"), [
    (24, 84.22), (22, 52.96), (20, 33.31), (18, 20.95), (16, 13.17), (14, 8.286), (0, 0.3224),
    (-1, 0.2557),
])  # fmt: skip
def test_a_gauge_has_the_ohms_of_the_standard_table(awg: int, milliohm_a_metre: float) -> None:
    assert wire_ohm(awg, 1.0) * 1e3 == pytest.approx(milliohm_a_metre, rel=2e-3)


@pytest.mark.parametrize(("amps", "conductors", "drop_mv"), [
    (4.0, 1, 4 * 0.4 * 20.95), (6.0, 1, 6 * 0.4 * 20.95), (6.1, 2, 6.1 * 0.4 * 20.95 / 2),
    (12.0, 2, 12 * 0.4 * 20.95 / 2), (0.0, 1, 0.0), (0.3, 1, 0.3 * 0.4 * 20.95),
])  # fmt: skip
def test_a_pin_gets_as_many_conductors_as_its_contacts_need(
    amps: float, conductors: int, drop_mv: float
) -> None:
    (wire,) = plan([FIVE], [Pin("1", RAIL, 5, amps)]).wires
    assert wire.conductors == conductors
    assert (wire.drop_v or 0) * 1e3 == pytest.approx(drop_mv, rel=2e-3)


@pytest.mark.parametrize(("pins", "amps"), [
    # what positive rails draw comes back by the ground pins, in equal shares
    ([("a", 5.0, 8.0), ("b", 12.0, 2.0)], 5.0),
    # negative rails draw the other way: the larger of the two counts, not their sum
    ([("a", 5.0, 8.0), ("c", -12.0, 0.5)], 4.0),
    ([("c", -12.0, 0.5)], 0.25),
])  # fmt: skip
def test_ground_pins_without_a_current_share_what_comes_back(
    pins: list[tuple[str, float, float]], amps: float
) -> None:
    rails = [Pin(name, RAIL, volt, drawn) for name, volt, drawn in pins]
    grounds = [Pin("g1", GROUND, 0), Pin("g2", GROUND, 0)]
    found = plan([FIVE, TWELVE, MINUS, EARTH], [*rails, *grounds])
    assert [w.amps for w in found.wires[-2:]] == [pytest.approx(amps)] * 2
    told = plan([FIVE, EARTH], [Pin("1", RAIL, 5, 8), Pin("g1", GROUND, 0, 6), Pin("g2", GROUND)])
    assert [w.amps for w in told.wires] == [8, 6, pytest.approx(2)]


@pytest.mark.parametrize(("volt", "amps", "rails", "told"), [
    (-5, 0.1, [(-12, 0.5, False)], ["−5 V from −12 V by a negative linear regulator", "700 mW"]),
    (-5, 0.4, [(-12, 0.5, False)], ["step-down converter", "2.8 W"]),
    (-5, 0.6, [(-12, 0.2, False)], ["A converter that makes −5 V", "only an isolated one"]),
    (-12, 0.3, [(5, 20, False)], ["its plus end to ground", "only an isolated one"]),
    (-12, 0.3, [(12, 2, True)], ["−12 V from the isolated +12 V", "its plus end to ground"]),
    (12, 1.0, [(5, 20, False)], ["(step-up)"]),
    (5, 3.0, [(12, 5, False)], ["+5 V from +12 V by a step-down converter", "21 W"]),
    (3.3, 0.5, [(5, 5, False)], ["+3.3 V from +5 V", "converter"]),
])  # fmt: skip
def test_what_makes_a_missing_rail(
    volt: float, amps: float, rails: list[tuple[float, float, bool]], told: list[str]
) -> None:
    text = plainly(advice(volt, amps, rails))
    assert all(words in text for words in told), text


@pytest.mark.parametrize(("feeds", "pins", "words"), [
    ([FIVE, EARTH], [Pin("1", RAIL, 5, 12), Pin("2", RAIL, 5, 10)], "draw 22 A, the source gives"),
    ([FIVE, EARTH], [Pin(str(n), RAIL, 5, 3) for n in range(5)], "5 conductors are wanted"),
    ([FIVE, EARTH], [Pin("1", RAIL, 5, 8)], "one contact of the target carries 8 A"),
    ([FIVE, EARTH], [Pin("1", RAIL, 5)], "the current is not known"),
    ([FIVE], [Pin("1", RAIL, 5, 1)], "names no ground"),
    ([Feed(5.1, 9, 4, 18, 6), EARTH], [Pin("1", RAIL, 5, 1)], "+2.0% off"),
    ([Feed(5, 9, 4, 24, 3), EARTH], [Pin("1", RAIL, 5, 2.9)], "there and back at full load"),
    ([Feed(5, 9, 4, 18, 6, min_a=2.0), EARTH], [Pin("1", RAIL, 5, 1)], "load it with 5 Ω"),
    ([FIVE, EARTH], [Pin("1", RAIL, 5, 1), Pin("7", SIGNAL)], "find out which before"),
    ([FIVE, EARTH], [Pin("7", SIGNAL, use=SignalUse.TICK)], "jumper"),
    ([FIVE, EARTH], [Pin("7", SIGNAL, use=SignalUse.POWER_GOOD)], "100 to 500 ms"),
    ([FIVE, EARTH], [Pin("7", SIGNAL, use=SignalUse.REMOTE_ON)], "strapped to ground"),
])  # fmt: skip
def test_what_is_to_be_minded(feeds: list[Feed], pins: list[Pin], words: str) -> None:
    assert any(words in plainly(text) for text in plan(feeds, [*pins, Pin("g", GROUND)]).warnings)


def test_a_fit_harness_has_nothing_to_mind() -> None:
    pins = [Pin("1", RAIL, 5, 4), Pin("2", RAIL, 12, 1), Pin("3", GROUND), Pin("4", NC)]
    assert plan([FIVE, TWELVE, EARTH], pins).warnings == ()


def test_every_pin_is_checked_and_rails_are_held_apart() -> None:
    pins = [Pin("1", RAIL, 5, 4), Pin("2", RAIL, -5, 0.1), Pin("3", GROUND), Pin("4", NC)]
    found = plan([FIVE, MINUS, EARTH], pins)
    assert [volt for volt, _ in found.missing] == [-5]
    assert [wire.pin.name for wire in found.wires] == ["1", "3"]
    assert Joint("source +5\u00a0V", "pin 1", True) in found.joints
    assert Joint("pin 1", "pin 3", False) in found.joints
    assert [(e.pin, e.rail_v) for e in found.expected] == [
        ("1", 5),
        ("2", -5),
        ("3", 0),
        ("4", None),
    ]
    assert (found.expected[1].low_v, found.expected[1].high_v) == pytest.approx((-5.5, -4.5))


@pytest.mark.parametrize(("feeds", "pins", "length"), [
    ([], [Pin("1", RAIL, 5, 1)], 0.4), ([FIVE], [], 0.4), ([FIVE], [Pin("1", RAIL, 5, 1)], 0.0),
    ([FIVE], [Pin("1", RAIL, 5, 1)], math.inf), ([FIVE], [Pin("1", RAIL, 5, 1)], -1.0),
])  # fmt: skip
def test_what_is_no_harness_is_refused(feeds: list[Feed], pins: list[Pin], length: float) -> None:
    with pytest.raises(InputError):
        plan(feeds, pins, length)


@given(
    amps=st.lists(st.floats(0, 30), min_size=1, max_size=8),
    contact=st.floats(0.5, 10),
    awg=st.integers(10, 30),
    length=st.floats(0.05, 5),
)
def test_no_contact_carries_more_than_it_may_and_drops_follow_ohms_law(
    amps: list[float], contact: float, awg: int, length: float
) -> None:
    feed = Feed(5, 1000, 4, awg, contact)
    pins = [Pin(str(n), RAIL, 5, a) for n, a in enumerate(amps)]
    wires = plan([feed], pins, length).wires
    assert len(wires) == len(pins)
    for wire in wires:
        assert wire.amps is not None and wire.drop_v is not None
        assert wire.amps / wire.conductors <= contact * (1 + 1e-6)
        assert wire.conductors == 1 or wire.amps / (wire.conductors - 1) > contact * (1 - 1e-6)
        assert wire.drop_v * wire.conductors == pytest.approx(wire.amps * wire_ohm(awg, length))
