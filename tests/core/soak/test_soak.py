"""Soak: slope and bounds against series of known truth, gaps, limits, the order of verdicts."""

from __future__ import annotations

import numpy as np
import pytest
import scipy
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.errors import InputError
from hale_rail.core.soak.soak import Sample, SoakLimits, SoakVerdict, soak, trend

PASS, DRIFTING, FAIL, SHORT = (
    SoakVerdict.PASS,
    SoakVerdict.DRIFTING,
    SoakVerdict.FAIL,
    SoakVerdict.TOO_SHORT,
)
TWELVE = SoakLimits(11.4, 12.6)


def rows(volts: list[float], step_s: float = 600.0) -> list[Sample]:
    """Volts at equal steps."""
    return [Sample(n * step_s, volt) for n, volt in enumerate(volts)]


def series(
    slope: float, noise: float, lag: float, count: int, seed: int
) -> tuple[list[float], list[float]]:
    """Hours and volts of a line with noise that remembers `lag` of itself a step."""
    random = np.random.default_rng(seed)
    rest = np.zeros(count)
    rest[0] = random.normal(0, noise)
    for n in range(1, count):
        rest[n] = lag * rest[n - 1] + random.normal(0, noise * np.sqrt(1 - lag**2))
    hours = np.arange(count) / 12
    return list(hours), list(12 + slope * hours + rest)


@pytest.mark.parametrize("seed", range(5))
def test_slope_is_that_of_least_squares_and_its_bounds_are_never_narrower(seed: int) -> None:
    hours, volts = series(0.002, 0.004, 0.0, 289, seed)
    found, known = trend(hours, volts), scipy.stats.linregress(hours, volts)
    assert found is not None
    assert found.v_per_hour == pytest.approx(known.slope)
    half = known.stderr * scipy.stats.t.ppf(0.975, 287)
    assert 0.8 * half <= (found.high - found.low) / 2 <= 3.5 * half


@pytest.mark.parametrize(("lag", "fewest"), [(0.0, 0.92), (0.5, 0.92), (0.8, 0.90), (0.9, 0.86)])
def test_the_bounds_hold_the_true_slope_as_often_as_they_say(lag: float, fewest: float) -> None:
    held = naive = 0
    for seed in range(400):
        hours, volts = series(0.003, 0.01, lag, 288, seed)
        found, plain = trend(hours, volts), scipy.stats.linregress(hours, volts)
        assert found is not None
        held += found.low <= 0.003 <= found.high
        naive += abs(plain.slope - 0.003) <= 1.97 * plain.stderr
    assert fewest <= held / 400 <= 0.99
    assert lag < 0.5 or naive / 400 < 0.8  # without it the bounds would be far too narrow


@pytest.mark.parametrize(("volts", "asked", "verdict"), [
    ([12.0] * 145, TWELVE, PASS),
    ([12.0] * 144, TWELVE, SHORT),
    ([12.0] * 144, SoakLimits(11.4, 12.6, hours=23), PASS),
    ([12.0] * 60 + [12.7] + [12.0] * 84, TWELVE, FAIL),
    ([12.0] * 10 + [11.3], TWELVE, FAIL),  # a failure comes before a soak that is too short
    ([13.0, 12.9, 12.8] + [12.0] * 142, TWELVE, PASS),  # the first half hour does not count
    ([13.0, 12.9, 12.8, 12.7] + [12.0] * 141, TWELVE, FAIL),
    ([12.6] * 145, TWELVE, PASS),  # at the limit is within it
    ([12.0 + 0.003 * n / 6 for n in range(145)], TWELVE, DRIFTING),  # at a limit in 176 h
    ([12.0 + 0.0021 * n / 6 for n in range(145)], TWELVE, PASS),  # in 261 h, later than 240 h
    ([12.0 - 0.003 * n / 6 for n in range(145)], TWELVE, DRIFTING),
    ([-12.0 - 0.005 * n / 6 for n in range(145)], SoakLimits(-13.2, -10.8), DRIFTING),
])  # fmt: skip
def test_the_verdict(volts: list[float], asked: SoakLimits, verdict: SoakVerdict) -> None:
    assert soak(rows(volts), asked).verdict is verdict


def test_the_way_to_the_limit_counts_from_the_last_row() -> None:
    found = soak(rows([12.0 + 0.003 * n / 6 for n in range(145)]), TWELVE)
    assert found.hours_to_limit == pytest.approx((12.6 - 12.072) / 0.003)
    assert found.hours == pytest.approx(24) and found.samples == 145
    assert found.min_v == pytest.approx(12.0015) and found.max_v == pytest.approx(12.072)
    flat = soak(rows([12.01, 11.99] * 73), TWELVE)
    assert flat.hours_to_limit is None and flat.verdict is PASS


def test_a_gap_is_more_than_five_usual_intervals() -> None:
    times = [0, 600, 1200, 1800, 4800, 5400, 6000, 9001, 9600]
    found = soak([Sample(t, 12.0) for t in times], SoakLimits(11.4, 12.6, hours=2))
    assert found.gaps == ((pytest.approx(6000 / 3600), pytest.approx(9001 / 3600)),)
    assert any("1.67 h to 2.50 h" in reason for reason in found.reasons)


def test_ripple_and_temperature_are_told_and_ripple_has_its_limit() -> None:
    own = [Sample(n * 600, 12.0, 20.0 + n % 3, 30.0 + n / 10) for n in range(145)]
    assert any("20 to 22 mV" in reason for reason in soak(own, TWELVE).reasons)
    assert soak(own, SoakLimits(11.4, 12.6, ripple_mv=21)).verdict is FAIL


@pytest.mark.parametrize(
    ("samples", "asked"),
    [
        ([], TWELVE),
        (rows([12.0]), SoakLimits(12.6, 11.4)),
        (rows([12.0]), SoakLimits(11, 12, hours=0)),
        (rows([12.0]), SoakLimits(11, 12, warm_up_s=-1)),
    ],
)
def test_what_cannot_be_judged_is_refused(samples: list[Sample], asked: SoakLimits) -> None:
    with pytest.raises(InputError):
        soak(samples, asked)


@given(
    volts=st.lists(st.floats(-1e4, 1e4), min_size=1, max_size=60),
    step=st.floats(0.001, 1e5),
    order=st.randoms(use_true_random=False),
)
def test_any_rows_give_an_answer_that_does_not_depend_on_their_order(
    volts: list[float], step: float, order: object
) -> None:
    own = rows(volts, step)
    mixed = list(own)
    order.shuffle(mixed)  # type: ignore[attr-defined]
    found = soak(own, TWELVE)
    assert soak(mixed, TWELVE) == found
    if found.trend:
        assert found.trend.low <= found.trend.v_per_hour <= found.trend.high
