"""The switching cycle: followed through drift, given by hand, told from its double; its shape."""

from __future__ import annotations

import numpy as np
import pytest

from hale_rail.core.ripple.bands import split
from hale_rail.core.ripple.cycle import Cycle, find_cycle, smooth
from hale_rail.core.ripple.shapes import fit
from hale_rail.core.ripple.template import (
    fold,
    looked_up,
    nothing,
    resampled,
    times_over,
    without_steps,
)
from hale_rail.core.ripple.wave import Wave
from hale_rail.core.simulate.switching import FlybackStage, ForwardStage, flyback, forward


def test_a_drifting_frequency_is_followed_from_end_to_end() -> None:
    """A supply that runs itself speeds up by a hundredth: averaged at one pace it would smear."""
    dt, count = 2e-7, 400_000
    phase = np.cumsum(50e3 * (1 + 0.01 * np.arange(count) / count) * dt)
    volt = np.abs((phase % 1.0) - 0.5) - 0.25
    cycle = find_cycle(volt, dt)
    assert cycle is not None
    told = cycle.phase(0, count)
    assert told[-1] - told[0] == pytest.approx(phase[-1] - phase[0], abs=0.1)
    off = (told - phase) - (told - phase).mean()
    assert np.abs(off).max() < 0.05
    folded = fold(volt, dt, cycle, round(4 / (cycle.hz * dt)), nothing())
    assert np.ptp(folded.one) == pytest.approx(0.5, rel=0.05)
    assert folded.explained > 0.95


def test_a_frequency_is_not_found_beyond_what_sampling_or_length_show() -> None:
    assert find_cycle(np.sin(np.arange(90) / 30), 1e-6) is None  # half a cycle
    assert find_cycle(np.zeros(1000), 1e-6) is None
    assert find_cycle(np.sin(np.arange(5000) / 9), 1e-6, given_hz=400e3) is None


def test_phase_runs_straight_between_its_knots() -> None:
    bent = Cycle(1e3, np.array([0.0, 50.0, 100.0]), np.array([0.0, 1.0, 3.0]))
    assert np.allclose(bent.phase(48, 53), [0.96, 0.98, 1.0, 1.04, 1.08])
    straight = Cycle(1e3, np.array([0.0, 100.0]), np.array([2.0, 4.0]))
    assert np.allclose(straight.phase(10, 13), [2.2, 2.22, 2.24])


def test_a_moving_average_keeps_a_constant_and_narrows_at_the_ends() -> None:
    assert np.allclose(smooth(np.full(20, 3.0), 7), 3.0)
    ramp = smooth(np.arange(20.0), 5)
    assert np.allclose(ramp[3:17], np.arange(3.0, 17.0))
    assert ramp[0] == pytest.approx(1.0)  # of 0, 1 and 2


def test_two_cycles_in_one_are_told_by_a_second_top_half_way() -> None:
    phase = (np.arange(200) + 0.5) / 200
    one = np.abs(phase - 0.5)
    assert times_over(one) == 1
    assert times_over(np.where(phase < 0.4, 1 - phase / 0.4, 0.0)) == 1
    two = np.abs((2 * phase) % 1.0 - 0.5) * np.where(phase < 0.5, 1.0, 0.6)
    assert times_over(two) == 2
    assert times_over(np.sin(6 * np.pi * phase)) == 3


def test_few_samples_a_cycle_are_not_taken_for_a_slower_one() -> None:
    volt = np.sin(np.arange(4000) * 2 * np.pi * 0.4456)
    cycle = split(Wave(volt, 1e-6)).cycle
    assert cycle is not None
    assert cycle.hz == pytest.approx(445.6e3, rel=1e-3)


def test_a_table_is_looked_up_round_the_ring() -> None:
    shape = np.array([0.0, 1.0, 2.0, 3.0])
    fine = resampled(shape, 8)
    assert np.allclose(fine[1:7], [0.25, 0.75, 1.25, 1.75, 2.25, 2.75])
    assert np.allclose(looked_up(shape, np.array([0.1, 0.99, 1.3, -0.1])), [0.0, 3.0, 1.0, 3.0])


def test_what_differs_at_a_step_is_a_samples_luck() -> None:
    one = np.concatenate((np.ones(40), np.zeros(60)))
    two = np.zeros(200)
    two[[39, 40, 139, 140]] = [0.5, -0.5, -0.5, 0.5]
    two[20] = 0.1
    found = without_steps(two, one)
    assert np.abs(found[[39, 40, 139, 140]]).max() == 0.0
    assert found[20] == 0.1


PER_CYCLE = 200


@pytest.mark.parametrize("duty", [0.15, 0.3, 0.5, 0.75])
@pytest.mark.parametrize(("esr", "farad"), [(0.05, 1e-3), (0.002, 20e-6), (0.02, 60e-6)])
@pytest.mark.parametrize("turn", [0, 37, 150])
def test_a_forward_cycle_is_taken_apart_into_esr_and_capacitance(
    duty: float, esr: float, farad: float, turn: int
) -> None:
    hz = 50e3
    shape = forward(ForwardStage(hz, 3.0, farad, esr, duty), 1 / hz / PER_CYCLE, PER_CYCLE)
    found = fit(np.roll(shape, turn), is_flyback=False)
    assert found.explained > 0.98
    assert found.esr_unit / 3.0 == pytest.approx(esr, rel=0.1, abs=0.0015)
    if 1 / (8 * hz * farad) > 0.1 * esr:  # else there is next to nothing of it to be told
        assert 3.0 / (hz * found.cap_unit) == pytest.approx(farad, rel=0.15)


@pytest.mark.parametrize("duty", [0.25, 0.4, 0.6])
@pytest.mark.parametrize(("esr", "farad"), [(0.05, 2e-3), (0.004, 100e-6)])
@pytest.mark.parametrize("kept", [0.0, 0.5])
def test_a_flyback_cycle_is_taken_apart_with_its_duty(
    duty: float, esr: float, farad: float, kept: float
) -> None:
    hz = 40e3
    stage = FlybackStage(hz, 2.0, farad, esr, duty, kept)
    shape = flyback(stage, 1 / hz / PER_CYCLE, PER_CYCLE)
    found = fit(np.roll(shape, 61), is_flyback=True)
    assert found.explained > 0.97
    assert found.duty == pytest.approx(duty, abs=0.04)
    peak = 2 * 2.0 / (found.duty * (1 + found.kept))
    if esr > 0.01:
        assert found.esr_unit / peak == pytest.approx(esr, rel=0.15)
        assert found.rc_periods() > 0.5 * found.longer
    else:
        assert peak / (hz * found.cap_unit) == pytest.approx(farad, rel=0.15)
