"""The split: bands scale with the volts, add up to the record, and find their frequencies."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.core.ripple.bands import BANDS, CELL, split
from hale_rail.core.ripple.template import straight_between, unspiked
from hale_rail.core.ripple.wave import Wave, resolution_v
from hale_rail.core.simulate.switching import FlybackStage, ForwardStage, flyback, forward, spikes
from tests.core.ripple.records import FAST, bulk_ripple, of_forward


def mixture(seed: int, dt: float, count: int) -> Wave:
    """A record of everything, of a supply drawn by the seed."""
    rng = np.random.default_rng(seed)
    hz = 10 ** rng.uniform(np.log10(15e3), np.log10(120e3))
    time = np.arange(count) * dt
    volt = 5 + rng.uniform(0, 0.3) * np.abs(np.sin(np.pi * 100 * time + rng.uniform(0, 6)))
    volt += rng.uniform(0, 0.1) * np.sin(2 * np.pi * 50 * time)
    volt += forward(ForwardStage(hz, 3.0, 1e-3, rng.uniform(0, 0.05)), dt, count)
    volt += spikes(hz, rng.uniform(0, 0.2), dt, count, ring_hz=0.1 / dt, fade_s=10 * dt)
    return Wave(volt + rng.normal(0, 0.003, count), dt)


@settings(max_examples=15, deadline=None)
@given(seed=st.integers(0, 10_000), factor=st.floats(0.01, 100), dt=st.sampled_from([1e-7, 1e-6]))
def test_scaling_the_volts_scales_the_bands(seed: int, factor: float, dt: float) -> None:
    wave = mixture(seed, dt, 60_000)
    one, other = split(wave), split(Wave(factor * wave.volt, dt))
    assert (one.cycle is None) == (other.cycle is None)
    for band, volt in one.vpp.items():
        assert other.vpp[band] == pytest.approx(factor * volt, rel=1e-6, abs=1e-9 * factor)
    assert other.kurtosis == pytest.approx(one.kurtosis, rel=1e-6)


@settings(max_examples=15, deadline=None)
@given(
    seed=st.integers(0, 10_000),
    dt=st.sampled_from([1e-7, 1e-6, 1e-5]),
    count=st.integers(50, 60_000),
    window=st.tuples(st.floats(0, 1), st.floats(0, 1)),
)
def test_the_bands_add_up_to_the_record(
    seed: int, dt: float, count: int, window: tuple[float, float]
) -> None:
    wave = mixture(seed, dt, count)
    made = split(wave)
    low, high = sorted(int(share * count) for share in window)
    total = made.mean_v + sum(made.band(name, low, high) for name in BANDS)
    assert np.allclose(total, wave.volt[low:high], atol=1e-9)


@pytest.mark.parametrize("hz", [16e3, 43.7e3, 66e3, 131e3])
@pytest.mark.parametrize("cycles", [2.2, 7, 300])
def test_the_switching_frequency_is_found_by_itself(hz: float, cycles: float) -> None:
    dt = 1 / hz / 60
    count = int(cycles * 60)
    stages = (
        forward(ForwardStage(hz, 3.0, 1e-3, 0.02), dt, count),
        forward(ForwardStage(hz, 3.0, 30e-6, 0.001, 0.5, uneven=0.4), dt, count),
        flyback(FlybackStage(hz, 2.0, 1e-3, 0.02), dt, count),
    )
    told_apart = stages if cycles > 3 else stages[::2]
    assert len(told_apart) > 1
    for volt in told_apart:
        noisy = volt + np.random.default_rng(1).normal(0, np.ptp(volt) / 40, count)
        cycle = split(Wave(noisy, dt)).cycle
        assert cycle is not None
        assert cycle.hz == pytest.approx(hz, rel=0.02 if cycles < 10 else 1e-3)


def test_noise_and_mains_have_no_switching_frequency() -> None:
    noise = np.random.default_rng(3).normal(0, 0.01, 100_000)
    assert split(Wave(noise, 1e-6)).cycle is None
    crests = np.abs(np.sin(2 * np.pi * 50 * np.arange(100_000) * 1e-6))
    assert split(Wave(crests, 1e-6)).cycle is None


@pytest.mark.parametrize("hz", [49.7, 50.0, 59.8, 60.3])
def test_the_mains_frequency_is_found_from_the_record(hz: float) -> None:
    volt = np.abs(np.sin(2 * np.pi * hz * np.arange(50_000) * 10e-6))
    part = split(Wave(volt, 10e-6)).low.part
    assert part is not None
    assert part.hz == pytest.approx(hz, rel=1e-3)
    assert np.ptp(part.rectified) == pytest.approx(1.0, rel=0.05)
    assert np.ptp(part.mains) < 0.05


def test_a_frequency_that_is_given_is_kept_to() -> None:
    wave = Wave(of_forward(uneven=1.8), FAST)
    cycle = split(wave, switching_hz=66e3).cycle
    assert cycle is not None
    assert cycle.hz == pytest.approx(66e3, rel=1e-3)


def test_drift_stays_out_of_the_mains_bands() -> None:
    time = np.arange(40_000) * 10e-6
    made = split(Wave(5 + 0.5 * time + 0.1 * np.abs(np.sin(2 * np.pi * 50 * time)), 10e-6))
    assert made.vpp["slow"] == pytest.approx(0.2, rel=0.1)
    assert made.vpp["rectified"] == pytest.approx(0.1, rel=0.05)
    assert made.vpp["mains"] < 0.005


def test_a_corner_and_a_step_are_no_bursts_and_a_burst_is() -> None:
    phase = (np.arange(300) + 0.5) / 300
    triangle = np.where(phase < 0.3, phase / 0.3, (1 - phase) / 0.7)
    step = np.where(phase < 0.4, 1 - phase / 0.4, 0.0)
    for shape in (triangle, step):
        assert np.array_equal(unspiked(shape), shape)
        for at in (30, 90, 210):
            burst = shape.copy()
            burst[at : at + 6] += [0.5, -0.4, 0.3, -0.2, 0.2, -0.1]
            assert np.abs(unspiked(burst) - shape).max() < 0.08


@given(
    block=st.integers(1, 40), blocks=st.integers(1, 30),
    window=st.tuples(st.floats(0, 1), st.floats(0, 1)),
)  # fmt: skip
def test_a_series_of_blocks_runs_straight_between_their_middles(
    block: int, blocks: int, window: tuple[float, float]
) -> None:
    means = np.cos(np.arange(blocks) * 1.3)
    count = block * blocks
    low, high = sorted(int(share * count) for share in window)
    middles = (np.arange(blocks) + 0.5) * block - 0.5
    inside = np.interp(np.arange(low, high), middles, means)
    got = straight_between(means, block, low, high)
    between = (np.arange(low, high) >= middles[0]) & (np.arange(low, high) <= middles[-1])
    assert np.allclose(got[between], inside[between])


def test_the_overview_holds_every_extreme() -> None:
    wave = Wave(of_forward() + bulk_ripple(), FAST)
    raw = split(wave).overview["raw"]
    assert raw[1].max() == wave.volt.max()
    assert raw[0].min() == wave.volt.min()
    assert raw.shape[1] == -(-len(wave.volt) // CELL)


@pytest.mark.parametrize("step", [0.001, 0.02, 0.5])
def test_the_step_of_the_converter_is_told(step: float) -> None:
    volt = np.round((5 + np.sin(np.arange(4000) / 50)) / step) * step
    assert resolution_v(volt) == pytest.approx(step)
    assert resolution_v(np.ones(10)) == 0.0
