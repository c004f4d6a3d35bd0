"""The nuisances integrated out: the normal quadrant, the evidence, and fits at their bounds."""

from __future__ import annotations

import numpy as np
import pytest
import scipy

from hale_rail.core.shorts.board_model import Predicted
from hale_rail.core.shorts.evidence import (
    LEADS,
    PRIOR_DEVIATION,
    PRIOR_MEAN,
    SCALE,
    SHORT,
    log_quadrant,
    weigh,
)
from hale_rail.core.shorts.fit import agree, fit


@pytest.mark.parametrize(
    ("a", "b", "rho"),
    [
        (0, 0, 0.5), (1, -1, -0.9), (-3, 2, 0.99), (-6, -6, 0.3), (-8, 3, -0.98),
        (2, 0.5, -0.9999), (-20, 1, 0.2), (1, -12, -0.5), (5, 5, 0.0),
    ],
)  # fmt: skip
def test_the_quadrant_is_that_of_an_integral(a, b, rho):
    root = np.sqrt(1 - rho * rho)
    whole, _ = scipy.integrate.quad(
        lambda x: scipy.stats.norm.pdf(x) * scipy.special.ndtr((b + rho * x) / root),
        -a,
        max(-a, 0) + 12,
        limit=500,
        epsabs=0,
        epsrel=1e-10,
    )
    found = log_quadrant(np.array([float(a)]), np.array([float(b)]), np.array([float(rho)]))
    assert found[0] == pytest.approx(np.log(whole), abs=2e-4)


def predicted(drop, across, leads, spread=None):
    drop = np.array(drop, dtype=float)
    count, size = drop.shape
    found = np.zeros((count, size, size)) if spread is None else np.array(spread, dtype=float)
    return Predicted(drop, np.array(across, dtype=float), np.array(leads, dtype=float), found)


def test_the_evidence_without_cuts_is_a_normal_density():
    drop = [[0.01, 0.03], [0.02, 0.005]]
    spread = [[[1e-7, 4e-8], [4e-8, 2e-7]], [[2e-7, 0], [0, 1e-7]]]
    values, noise = np.array([0.012, 0.028]), np.array([2e-4, 3e-4])
    found = weigh(predicted(drop, [0, 0], [0, 0], spread), values, noise)
    for which in range(2):
        d = np.array(drop[which])
        total = np.diag(noise**2) + spread[which] + 0.09 * np.outer(d, d)
        assert found.log[which] == pytest.approx(
            scipy.stats.multivariate_normal(d, total).logpdf(values)
        )
        precision = 1 / 0.09 + d @ np.linalg.solve(np.diag(noise**2) + spread[which], d)
        assert found.covariance[which, SCALE, SCALE] == pytest.approx(1 / precision)
        assert found.mean[which, SHORT] == pytest.approx(0.2)


def test_a_cut_that_the_readings_press_against_costs_what_it_leaves():
    one = predicted([[0.0]], [1], [0])
    values, noise = np.array([-0.02]), np.array([0.05])
    total = np.hypot(0.5, 0.05)
    mean = 0.2 + 0.25 / total**2 * (-0.02 - 0.2)
    deviation = 0.5 * 0.05 / total
    expected = (
        scipy.stats.norm(0.2, total).logpdf(-0.02)
        + scipy.stats.norm.logcdf(mean / deviation)
        - scipy.stats.norm.logcdf(0.4)
    )
    assert weigh(one, values, noise).log[0] == pytest.approx(expected)


@pytest.mark.parametrize(
    ("values", "short", "leads"),
    [
        ([0.45, 0.25], 0.2, 0.05),  # between both: the two add up to 0.25 at the least
        ([0.05, 0.0], 0.0, 0.0),  # less than copper alone: neither is below zero
    ],
)
def test_a_fit_keeps_short_and_leads_at_or_above_zero(values, short, leads):
    model = predicted([[0.2, 0.0]], [1, 1], [1, 1])
    noise = np.array([0.01, 0.01])
    found = fit(weigh(model, np.array(values), noise), 0, np.array(values))
    assert found.nuisances[SHORT] >= 0 and found.nuisances[LEADS] >= 0
    assert found.nuisances[SHORT] + found.nuisances[LEADS] == pytest.approx(short + leads, abs=0.03)
    assert found.freedom == -1 and found.is_good == (found.nuisances[SCALE] > 0.1)


def table(count=8, size=8, seed=3):
    rng = np.random.default_rng(seed)
    drop = rng.uniform(0, 0.05, (count, size))
    return drop, np.full(size, 1e-4)


@pytest.mark.parametrize(
    ("wild", "size", "aside"),
    [((), 8, ()), ((2,), 8, (2,)), ((1, 6), 8, (1, 6)), ((2,), 4, (2,))],
)
def test_only_what_the_rest_speak_against_is_set_aside(wild, size, aside):
    drop, noise = table(size=size)
    values = 1.05 * drop[3]
    for at in wild:
        values[at] += 0.02
    zero = np.zeros(size)
    found = agree(predicted(drop, zero, zero), values, noise, np.zeros(len(drop)))
    assert found.aside == aside
    assert found.fit.is_good and int(found.log.argmax()) == 3
    assert found.fit.nuisances[SCALE] == pytest.approx(1.05, abs=0.01)


def test_three_wild_readings_of_eight_are_a_misfit_and_none_is_hidden():
    drop, noise = table()
    values = 1.05 * drop[3]
    values[[0, 3, 6]] += [0.02, -0.03, 0.015]
    found = agree(predicted(drop, np.zeros(8), np.zeros(8)), values, noise, np.zeros(8))
    assert found.aside == () and not found.fit.is_good


def test_a_scale_beyond_belief_is_a_misfit():
    drop, noise = table()
    found = agree(predicted(drop, np.zeros(8), np.zeros(8)), 6 * drop[3], noise, np.zeros(8))
    assert not found.fit.is_good
    assert tuple(PRIOR_MEAN) == (1.0, 0.2, 0.15) and tuple(PRIOR_DEVIATION) == (0.3, 0.5, 0.15)
