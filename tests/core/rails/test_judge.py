"""Rail verdicts, alone and together."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from hale_rail.core.procedures import Accuracy, Condition
from hale_rail.core.rails.judge import (
    RailReading,
    RailVerdict,
    Tolerance,
    band,
    judge,
)
from hale_rail.core.rails.patterns import RailPattern, patterns
from hale_rail.core.supply.sheet import Rail, Regulation
from hale_rail.core.targets import Place

MAIN, AUX, LIN = Regulation.MAIN, Regulation.AUXILIARY, Regulation.LINEAR
P5 = Rail("+5 V", 5.0, MAIN, 0.8, 8.0)
P12 = Rail("+12 V", 12.0, AUX, 0.2, 2.5)
M12 = Rail("−12 V", -12.0, AUX)
M5 = Rail("−5 V", -5.0, LIN)
L12 = Rail("+12 V", 12.0, LIN)
RAW = Rail("+16 V", 16.0, Regulation.RAW)
OWN = Rail("+24 V", 24.0, LIN, tolerance=(0.02, 0.03))
PASS, EDGE, FAIL, NOT = RailVerdict


def reading(rail: Rail, low: float, high: float | None = None, load: Condition = Condition.MACHINE,
            digit: float = 0.01) -> RailReading:  # fmt: skip
    return RailReading(rail, low, low if high is None else high, digit, load)


@pytest.mark.parametrize(
    ("rail", "tolerance", "low", "high"),
    [
        (P5, Tolerance.STRICT, 4.75, 5.25),
        (P5, Tolerance.LENIENT, 4.5, 5.5),
        (M12, Tolerance.STRICT, -13.2, -10.8),
        (M5, Tolerance.LENIENT, -5.5, -4.5),
        (OWN, Tolerance.STRICT, 23.52, 24.72),
        (OWN, Tolerance.LENIENT, 23.52, 24.72),
    ],
)
def test_band(rail: Rail, tolerance: Tolerance, low: float, high: float) -> None:
    assert band(rail, tolerance) == (pytest.approx(low), pytest.approx(high))


def test_uncertainty_is_the_meters_that_read_it() -> None:
    usual = reading(M12, -12.0)
    assert usual.uncertainty_v(-12.0) == pytest.approx(0.08)  # half a per cent and two digits
    better = RailReading(P5, 4.78, 4.78, 0.001, Condition.MACHINE, Accuracy(0.001, 1))
    assert better.uncertainty_v(5.0) == pytest.approx(0.006)
    assert judge(better, Tolerance.STRICT).verdict is PASS
    assert judge(reading(P5, 4.77), Tolerance.STRICT).verdict is EDGE


@pytest.mark.parametrize(
    ("rail", "low", "high", "load", "digit", "verdict"),
    [
        (P5, 5.02, None, Condition.MACHINE, 0.01, PASS),
        (P5, 4.78, None, Condition.MACHINE, 0.01, PASS),  # 30 mV inside, 26 mV of uncertainty
        (P5, 4.77, None, Condition.MACHINE, 0.01, EDGE),
        (P5, 4.73, None, Condition.MACHINE, 0.01, EDGE),
        (P5, 4.72, None, Condition.MACHINE, 0.01, FAIL),
        (P5, 5.0, None, Condition.MACHINE, 0.1, PASS),
        (P5, 5.1, None, Condition.MACHINE, 0.1, PASS),  # 5.05 to 5.15 as typed, all inside
        (P5, 5.0, None, Condition.MACHINE, 1.0, NOT),  # 4.5 to 5.5 as typed
        (P12, 12.0, None, Condition.MACHINE, 1.0, PASS),  # 11.5 to 12.5, all inside
        (P12, 15.0, None, Condition.MACHINE, 1.0, FAIL),
        (P5, 4.95, 5.10, Condition.DUMMY, 0.01, PASS),
        (P5, 4.60, 5.00, Condition.DUMMY, 0.01, FAIL),
        (P5, 5.00, 5.60, Condition.DUMMY, 0.01, FAIL),
        (M12, -11.0, None, Condition.MACHINE, 0.01, PASS),
        (M12, -10.0, None, Condition.MACHINE, 0.01, FAIL),
        (P5, 4.2, None, Condition.NO_LOAD, 0.01, NOT),
        (P5, 5.3, None, Condition.NO_LOAD, 0.01, NOT),
        (P5, 5.9, None, Condition.NO_LOAD, 0.01, FAIL),  # gross overvoltage counts without load too
        (M5, -4.2, None, Condition.NO_LOAD, 0.01, FAIL),  # a linear rail is judged without load
        (RAW, 20.0, None, Condition.NO_LOAD, 0.01, PASS),  # −15 to +35 % unloaded
        (RAW, 20.0, None, Condition.MACHINE, 0.01, FAIL),  # to +20 % loaded
        (RAW, 13.0, None, Condition.MACHINE, 0.01, FAIL),
        (P12, 14.0, None, Condition.NO_LOAD, 0.01, NOT),  # any rail from +25 %
        (P12, 15.2, None, Condition.NO_LOAD, 0.01, FAIL),
        (P5, -4.9, None, Condition.MACHINE, 0.01, NOT),  # the leads are turned
        (P5, -0.3, None, Condition.MACHINE, 0.01, FAIL),  # a leak into a dead rail
    ],
)
def test_verdict(
    rail: Rail, low: float, high: float | None, load: Condition, digit: float, verdict: RailVerdict
) -> None:
    found = judge(reading(rail, low, high, load, digit), Tolerance.STRICT)
    assert found.verdict is verdict
    assert load.words in found.text


def test_without_load_the_dummy_is_named() -> None:
    advice = judge(reading(P5, 4.2, load=Condition.NO_LOAD), Tolerance.STRICT).advice
    assert "6.25 Ω" in advice.replace("\u00a0", " ")  # 5 V / 0.8 A, rated twice 4 W
    assert "8 W" in advice.replace("\u00a0", " ")


def test_overvoltage_on_a_linear_rail_suspects_every_part() -> None:
    rail = Rail("+5 V", 5.0, LIN)
    advice = judge(reading(rail, 8.9), Tolerance.LENIENT).advice
    assert "Remove power at once" in advice
    assert "suspect every part" in advice


@given(st.floats(3.0, 7.0), st.floats(0.0, 1.0))
def test_further_off_never_looks_better(volt: float, further: float) -> None:
    rank = [PASS, EDGE, FAIL]
    away = volt + further if volt >= 5 else volt - further
    before = judge(reading(P5, volt), Tolerance.STRICT).verdict
    after = judge(reading(P5, away), Tolerance.STRICT).verdict
    assert rank.index(after) >= rank.index(before)


def test_behind_a_switching_stage_linear_rails_are_not_judged_without_load_either() -> None:
    """0 V on a rail of a switcher that has not started proves nothing."""
    dead = replace(reading(M5, 0.0, load=Condition.NO_LOAD), in_switcher=True)
    assert judge(dead, Tolerance.STRICT).verdict is NOT
    wild = replace(reading(M5, -6.4, load=Condition.NO_LOAD), in_switcher=True)
    assert judge(wild, Tolerance.STRICT).verdict is FAIL


Volts = dict[Rail, float | tuple[float, float]]


def said(volts: Volts, load: Condition = Condition.MACHINE) -> list[RailPattern]:
    read = []
    for rail, volt in volts.items():
        low, high = volt if isinstance(volt, tuple) else (volt, volt)
        read.append(reading(rail, low, high, load))
    return patterns(read, Tolerance.STRICT)


@pytest.mark.parametrize(
    ("volts", "codes"),
    [
        ({P5: 4.5, P12: 10.8, M12: -10.3}, ["all-low"]),
        ({P5: 5.4, P12: 12.9, M12: -13.3}, ["all-high"]),
        ({P5: 4.4, P12: 10.6}, ["all-low"]),  # two rails are enough
        ({P5: 4.4, P12: 10.6, M5: -5.0}, ["all-low"]),  # a right linear rail does not hide it
        ({P5: 4.9, P12: 11.5, M12: -11.5}, []),  # rails that pass are not off
        ({P5: 4.4}, []),  # nothing to compare with
        ({P5: 0.02, P12: 0.1, M12: -0.1}, []),  # not running is not a proportion
        ({P5: 5.0, P12: 12.0, M12: -9.0}, ["one-off"]),
        ({P5: 5.0, P12: 12.0, M12: (-12.0, -9.0)}, ["one-off"]),  # both ends of a jumping one
        ({P5: 4.4, P12: 9.0, M12: -12.0}, []),  # two off, not in proportion
        ({P5: 5.02, P12: 13.1}, ["cross-regulation"]),
        ({P5: 5.02, P12: 12.4}, []),
        ({P5: 5.7, P12: 12.0}, ["over-voltage", "one-off"]),
        ({P5: 5.48, P12: 12.0}, ["over-voltage", "one-off"]),  # within the error of 5.5 V
        ({P5: (5.0, 5.6), P12: 12.0}, ["over-voltage", "one-off"]),
        ({P5: 5.0, P12: 12.0, M5: -0.1}, ["minus5-missing", "one-off"]),
        ({P5: 5.0, P12: 12.0, M5: (-5.0, -0.5)}, ["minus5-missing", "one-off"]),
        ({P5: 5.0, P12: 0.1, M5: -0.1}, []),  # a missing +12 V alone is not lethal
        ({P5: 5.0, P12: 0.1, M5: -5.0}, ["one-off"]),
        ({P5: 5.0, M12: -12.0, M5: -0.2}, ["missing-current-limit"]),
        ({L12: 0.4, RAW: 16.0}, ["missing-current-limit"]),
        ({P5: -5.0, P12: 12.0}, ["sign"]),
        ({P5: 5.0, P12: 12.1, M12: -11.8}, []),
    ],
)
def test_patterns(volts: Volts, codes: list[str]) -> None:
    found = said(volts)
    assert [pattern.code for pattern in found] == codes
    assert [p.urgent for p in found] == sorted((p.urgent for p in found), reverse=True)
    assert all(p.urgent == (p.code in ("over-voltage", "minus5-missing")) for p in found)


@given(st.permutations([(P5, 4.4), (P12, 10.6), (M12, -10.4), (M5, -5.0)]))
def test_the_order_of_readings_changes_nothing(order: list[tuple[Rail, float]]) -> None:
    found = said(dict(order))
    assert [p.code for p in found] == ["all-low"]
    assert set(found[0].rails) == {"+5 V", "+12 V", "−12 V"}


@pytest.mark.parametrize(
    ("near", "far", "ampere", "says"),
    [
        (5.05, 4.60, 6.0, "75 mΩ at 6 A"),
        (5.05, 4.85, 6.0, "33 mΩ at 6 A"),  # inside the band, but 20 mΩ is too much
        (5.05, 4.95, 6.0, ""),
        (5.05, 4.60, None, "read the current too"),
        (5.05, 5.00, None, ""),
        (4.60, 4.30, None, ""),  # low at the supply already
    ],
)
def test_what_a_harness_loses(near: float, far: float, ampere: float | None, says: str) -> None:
    at_supply = replace(reading(P5, near), place=Place.SUPPLY, ampere=ampere, digit_v=0.001)
    at_board = replace(reading(P5, far), place=Place.FAR, ampere=ampere, digit_v=0.001)
    found = [
        p for p in patterns([at_board, at_supply], Tolerance.STRICT) if p.code == "harness-drop"
    ]
    assert bool(found) == bool(says)
    assert not found or says in found[0].text.replace("\u00a0", " ")
