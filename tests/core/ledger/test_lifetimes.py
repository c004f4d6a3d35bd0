"""Lifetimes against scipy's own fit, by brute force over the likelihood, and on known sets."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
import scipy
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.core.errors import InputError
from hale_rail.core.ledger.lifetimes import Bounded, fit, survival, survives

from ...sizes import IS_ALL, examples


def drawn(shape: float, scale: float, count: int, seed: int) -> tuple[list[float], list[bool]]:
    """Ages of units, some still good when they were looked at."""
    random = np.random.default_rng(seed)
    life = scale * random.weibull(shape, count)
    looked = random.uniform(0.4 * scale, 1.6 * scale, count)
    return list(np.minimum(life, looked)), [bool(one) for one in life <= looked]


@pytest.mark.parametrize(("shape", "scale", "count", "seed"), [
    (3.0, 30.0, 40, 1), (1.0, 12.0, 60, 2), (0.7, 100.0, 80, 3), (8.0, 25.0, 30, 4),
    (2.0, 35.0, 14, 5),
])  # fmt: skip
def test_shape_and_scale_are_those_of_scipy(
    shape: float, scale: float, count: int, seed: int
) -> None:
    ages, failed = drawn(shape, scale, count, seed)
    found = fit(ages, failed)
    dead = [age for age, is_dead in zip(ages, failed, strict=True) if is_dead]
    alive = [age for age, is_dead in zip(ages, failed, strict=True) if not is_dead]
    known = scipy.stats.CensoredData(uncensored=dead, right=alive)
    best_shape, _, best_scale = scipy.stats.weibull_min.fit(known, floc=0)
    assert found.shape and found.scale_years and found.b10_years
    assert found.shape.value == pytest.approx(best_shape, rel=1e-3)
    assert found.scale_years.value == pytest.approx(best_scale, rel=1e-3)
    b10 = scipy.stats.weibull_min.ppf(0.1, best_shape, scale=best_scale)
    assert found.b10_years.value == pytest.approx(b10, rel=2e-3)
    assert found.small == (len(dead) < 10)


def _within(ages: list[float], failed: list[bool]) -> list[tuple[float, float, float]]:
    """Shape, scale and B10 wherever the likelihood is at most 1.9207 below the best."""
    logs, dead = np.log(ages), np.asarray(failed)
    shapes = np.exp(np.linspace(-1.5, 3.0, 700))[:, None]
    scales = np.exp(np.linspace(1.0, 6.0, 1200))[None, :]
    like = np.zeros((700, 1200))
    for log, is_dead in zip(logs, dead, strict=True):
        like -= np.exp(shapes * (log - np.log(scales)))
        if is_dead:
            like += np.log(shapes) - shapes * np.log(scales) + (shapes - 1) * log
    rows, columns = np.nonzero(like >= like.max() - 1.9207)
    picked = zip(shapes[rows, 0], scales[0, columns], strict=True)
    return [(k, s, s * (-math.log(0.9)) ** (1 / k)) for k, s in picked]


@pytest.mark.parametrize("seed", [1, 6, 7])
def test_bounds_are_the_edges_of_the_likelihood_found_by_brute_force(seed: int) -> None:
    ages, failed = drawn(2.5, 30.0, 25, seed)
    found, grid = fit(ages, failed), _within(ages, failed)
    for place, figure in enumerate((found.shape, found.scale_years, found.b10_years)):
        assert figure is not None
        values = [point[place] for point in grid]
        assert figure.low == pytest.approx(min(values), rel=0.012)
        assert figure.high == pytest.approx(max(values), rel=0.012)


def test_bounds_hold_the_truth_as_often_as_they_say() -> None:
    """Of 95 % bounds; a fifth of the draws in `make test`, with the wider edges of so few."""
    held = {"shape": 0, "scale": 0, "b10": 0}
    draws = 150 if IS_ALL else 30
    b10 = 30.0 * (-math.log(0.9)) ** (1 / 3)
    for seed in range(draws):
        found = fit(*drawn(3.0, 30.0, 60, seed))
        assert found.shape and found.scale_years and found.b10_years
        held["shape"] += _holds(found.shape, 3.0)
        held["scale"] += _holds(found.scale_years, 30.0)
        held["b10"] += _holds(found.b10_years, b10)
    low, high = (0.89, 0.99) if IS_ALL else (0.8, 1.0)
    assert all(low <= count / draws <= high for count in held.values()), held


def _holds(found: Bounded, truth: float) -> bool:
    return (found.low or 0) <= truth <= (found.high or math.inf)


@pytest.mark.parametrize(("ages", "failed", "words"), [
    ([5.0, 6.0], [True, True], "2 failures among 2: too few"),
    ([5.0, 6.0, 9.0], [False, False, False], "No failure among 3"),
    ([7.0] * 4 + [9.0], [True] * 4 + [False], "at one age"),
])  # fmt: skip
def test_too_little_gives_no_fit_and_says_so(
    ages: list[float], failed: list[bool], words: str
) -> None:
    found = fit(ages, failed)
    assert found.shape is found.scale_years is found.b10_years is None
    assert found.small and words in found.why


@pytest.mark.parametrize("ages", [[], [0.0, 1.0], [-2.0], [math.inf]])
def test_ages_that_cannot_be_are_refused(ages: list[float]) -> None:
    with pytest.raises(InputError):
        fit(ages, [True] * len(ages))


def test_survival_steps_down_by_those_at_risk() -> None:
    steps = survival([1, 2, 2, 3, 5], [True, True, False, False, True])
    shares = [(step.years, step.share) for step in steps]
    assert shares == [(0, 1), (1, pytest.approx(0.8)), (2, pytest.approx(0.6)), (5, 0)]
    assert survives(2.0, 10.0, 10.0) == pytest.approx(math.exp(-1))


@settings(max_examples=examples(40))
@given(st.lists(st.tuples(st.floats(0.1, 100), st.booleans()), min_size=1, max_size=25))
def test_any_ages_give_figures_in_order_or_say_why_not(units: list[tuple[float, bool]]) -> None:
    ages, failed = [age for age, _ in units], [is_dead for _, is_dead in units]
    found = fit(ages, failed)
    assert (found.shape is None) == bool(found.why)
    for figure in filter(None, (found.shape, found.scale_years, found.b10_years)):
        ends = [end for end in (figure.low, figure.value, figure.high) if end is not None]
        assert all(a <= b * (1 + 1e-9) for a, b in pairwise(ends))
    # other units of age give the same shape
    scaled = fit([age * 12 for age in ages], failed)
    if found.shape and scaled.shape:
        assert scaled.shape.value == pytest.approx(found.shape.value, rel=1e-6)
