"""The circuits in time against closed forms."""

from __future__ import annotations

import numpy as np
import pytest

from hale_rail.core.simulate.linear import RawFilter, hiccup, raw_filter, regulated
from hale_rail.core.simulate.scope import Scope, record
from hale_rail.core.simulate.switching import (
    FlybackStage,
    ForwardStage,
    flyback,
    forward,
    spikes,
)

DT = 20e-9
CYCLES = 40


def test_a_filter_falls_between_the_crests_by_its_load_over_its_capacitance() -> None:
    unit = RawFilter(50, 15, 2200e-6, load_a=1.1)
    volt = raw_filter(unit, 10e-6, 4000)
    slope = np.diff(volt) / 10e-6
    falling = slope[(slope < 0) & (slope > -1.5 * 1.1 / 2200e-6)]
    assert np.median(falling) == pytest.approx(-1.1 / 2200e-6, rel=0.01)
    assert 15 - 1.4 - 1.1 < volt.max() < 15 - 1.4


def test_a_missing_diode_leaves_every_second_crest() -> None:
    both = raw_filter(RawFilter(50, 15, 2200e-6, load_a=0.5), 20e-6, 5000)
    half = raw_filter(RawFilter(50, 15, 2200e-6, load_a=0.5, missing=True), 20e-6, 5000)
    crests = [np.count_nonzero(np.diff(np.sign(np.diff(v))) < 0) for v in (both, half)]
    assert crests[0] == 2 * crests[1]
    assert np.ptp(half) > 1.9 * np.ptp(both)


def test_a_regulator_is_flat_until_its_input_runs_out_of_headroom() -> None:
    raw = np.linspace(9.0, 6.0, 101)
    out = regulated(raw, 5.0, 2.0, rejection=0.0)
    assert np.allclose(out[raw >= 7.0], 5.0)
    assert np.allclose(out[raw < 7.0], raw[raw < 7.0] - 2.0)


@pytest.mark.parametrize("duty", [0.2, 0.35, 0.5, 0.7])
def test_a_forward_stage_shows_esr_as_a_triangle_and_capacitance_as_parabolas(duty: float) -> None:
    count = int(CYCLES / 50e3 / DT)
    of_esr = forward(ForwardStage(50e3, 3.0, 1.0, 0.040, duty), DT, count)
    of_cap = forward(ForwardStage(50e3, 3.0, 47e-6, 0.0, duty), DT, count)
    assert np.ptp(of_esr) == pytest.approx(3.0 * 0.040, rel=0.01)
    assert np.ptp(of_cap) == pytest.approx(3.0 / (8 * 50e3 * 47e-6), rel=0.01)


@pytest.mark.parametrize(("duty", "kept"), [(0.3, 0.0), (0.45, 0.0), (0.5, 0.5)])
def test_a_flyback_stage_steps_by_its_peak_and_droops_while_the_diode_is_off(
    duty: float, kept: float
) -> None:
    count = int(CYCLES / 40e3 / DT)
    stage = FlybackStage(40e3, 2.0, 1.0, 0.050, duty, kept)
    assert np.ptp(flyback(stage, DT, count)) == pytest.approx(0.050 * stage.peak_a, rel=0.02)
    assert stage.peak_a * (1 + kept) / 2 * duty == pytest.approx(2.0)
    drooping = flyback(FlybackStage(40e3, 2.0, 100e-6, 0.0, duty, kept), DT, count)
    assert np.diff(drooping).min() / DT == pytest.approx(-2.0 / 100e-6, rel=0.01)


def test_every_second_pulse_differs_by_what_is_asked() -> None:
    per_cycle = 1000
    stage = ForwardStage(50e3, 3.0, 1.0, 0.040, uneven=0.3)
    volt = forward(stage, 1 / 50e3 / per_cycle, 8 * per_cycle).reshape(4, 2, per_cycle)
    half = (volt[:, 0] - volt[:, 1]) / 2
    assert np.ptp(np.concatenate((half[0], -half[0]))) == pytest.approx(0.3 * 3.0 * 0.040, rel=0.02)


def test_spikes_are_as_high_as_asked_and_short() -> None:
    volt = spikes(50e3, 0.2, DT, 10_000)
    assert volt.max() == pytest.approx(0.2, rel=0.05)
    assert np.mean(np.abs(volt) > 0.02) < 0.05


def test_a_hiccup_comes_at_its_period_and_collapses_between() -> None:
    volt = hiccup(5.0, 0.25, 0.04, 1e-3, 2000)
    assert volt.max() == pytest.approx(5.0, rel=0.01)
    assert volt[200:250].max() < 0.1
    rises = np.flatnonzero(np.diff((volt > 2.5).astype(int)) == 1)
    assert np.diff(rises) == pytest.approx(250, abs=1)


def test_a_scope_rounds_to_its_steps_and_takes_the_mean_out_when_coupled_ac() -> None:
    volt = 5 + 0.1 * np.sin(np.arange(20_000) / 30)
    kept = record(Scope(step_v=0.01), volt, 1e-5)
    assert np.allclose(np.round(kept / 0.01), kept / 0.01)
    coupled = record(Scope(is_ac=True), volt, 1e-5)
    assert abs(coupled.mean()) < 0.01
    assert np.ptp(coupled) == pytest.approx(np.ptp(volt), rel=0.05)
