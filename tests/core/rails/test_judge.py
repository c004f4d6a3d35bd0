"""Rail verdicts, alone and together."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.procedures import Accuracy, Condition
from hale_rail.core.rails.judge import (
    RailReading,
    RailVerdict,
    Tolerance,
    band,
    judge,
    patterns,
)
from hale_rail.core.supply.sheet import Rail, Regulation

MAIN, AUX, LIN, RAW = Regulation.MAIN, Regulation.AUXILIARY, Regulation.LINEAR, Regulation.RAW
P5 = Rail("+5 V", 5.0, MAIN, 0.8, 8.0)
P12 = Rail("+12 V", 12.0, AUX, 0.2, 2.5)
M12 = Rail("−12 V", -12.0, AUX)
M5 = Rail("−5 V", -5.0, LIN)
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
    assert judge(reading(P5, 4.78), Tolerance.STRICT).verdict is EDGE


@pytest.mark.parametrize(
    ("rail", "low", "high", "load", "digit", "verdict"),
    [
        (P5, 5.02, None, Condition.MACHINE, 0.01, PASS),
        (P5, 4.80, None, Condition.MACHINE, 0.01, PASS),  # 50 mV inside, 44 mV of uncertainty
        (P5, 4.79, None, Condition.MACHINE, 0.01, EDGE),
        (P5, 4.71, None, Condition.MACHINE, 0.01, EDGE),
        (P5, 4.70, None, Condition.MACHINE, 0.01, FAIL),
        (P5, 5.0, None, Condition.MACHINE, 0.1, PASS),
        (P5, 5.1, None, Condition.MACHINE, 0.1, EDGE),  # a coarse meter cannot tell
        (P5, 4.95, 5.10, Condition.DUMMY, 0.01, PASS),
        (P5, 4.60, 5.00, Condition.DUMMY, 0.01, FAIL),
        (P5, 5.00, 5.60, Condition.DUMMY, 0.01, FAIL),
        (M12, -11.0, None, Condition.MACHINE, 0.01, PASS),
        (M12, -10.0, None, Condition.MACHINE, 0.01, FAIL),
        (P5, 4.2, None, Condition.NO_LOAD, 0.01, NOT),
        (P5, 5.3, None, Condition.NO_LOAD, 0.01, NOT),
        (P5, 5.9, None, Condition.NO_LOAD, 0.01, FAIL),  # gross overvoltage counts without load too
        (M5, -4.2, None, Condition.NO_LOAD, 0.01, FAIL),  # a linear rail is judged without load
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


@pytest.mark.parametrize(
    ("volts", "code", "urgent"),
    [
        ({P5: 4.5, P12: 10.8, M12: -10.8}, "all-together", False),
        ({P5: 5.5, P12: 13.1, M12: -13.1}, "all-together", False),
        ({P5: 5.0, P12: 12.0, M12: -9.0}, "one-rail", False),
        ({P5: 5.02, P12: 13.1}, "cross-regulation", False),
        ({P5: 5.7, P12: 12.0}, "overvoltage", True),
        ({P5: 5.0, P12: 12.0, M5: -0.1}, "minus5-missing", True),
    ],
)
def test_pattern(volts: dict[Rail, float], code: str, urgent: bool) -> None:
    found = patterns([reading(rail, volt) for rail, volt in volts.items()], Tolerance.STRICT)
    assert (found[0].code, found[0].urgent) == (code, urgent)


@pytest.mark.parametrize(
    "volts",
    [
        {P5: 5.0, P12: 12.1, M12: -11.8},
        {P5: 5.0, P12: 0.1, M5: -0.1},  # +12 V absent too: −5 V missing is no alarm
    ],
)
def test_no_alarm_without_cause(volts: dict[Rail, float]) -> None:
    found = patterns([reading(rail, volt) for rail, volt in volts.items()], Tolerance.STRICT)
    assert not [p for p in found if p.urgent]
