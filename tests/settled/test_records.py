"""Records of other benches: cut off, odd, badly headed, of a shorted rail, of no mains at all."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from hale_rail.core.errors import InputError
from hale_rail.core.rails.judge import RailVerdict
from hale_rail.core.ripple.analyse import RippleAnalysis, analyse
from hale_rail.core.ripple.question import RailSource, RippleQuestion
from hale_rail.core.ripple.wave import Wave
from hale_rail.formats.records.wave_layout import Corrections
from hale_rail.formats.records.waves import read_wave

Volts = np.ndarray[Any, np.dtype[np.float64]]
RNG = np.random.default_rng(24)
FLYBACK = RippleQuestion(5.0, 0.05, stage=RailSource.FLYBACK, full_load_a=6.0, load_a=3.0)
FORWARD = RippleQuestion(5.0, 0.05, stage=RailSource.FORWARD, full_load_a=15.0)
LINEAR = RippleQuestion(
    9.0, 0.5, is_raw=True, stage=RailSource.LINEAR, load_a=1.0, nominal_farad=4700e-6
)


def seen(volt: Volts, dt: float, asked: RippleQuestion, step: float = 0.0) -> RippleAnalysis:
    quantised = np.round(volt / step) * step if step else volt
    return analyse(Wave(quantised, dt), asked)


def triangle(count: int, per_cycle: float, vpp: float) -> Volts:
    phase = np.arange(count) / per_cycle % 1.0
    return vpp * (np.where(phase < 0.5, 2 * phase, 2 - 2 * phase) - 0.5)


def raw(count: int, dt: float, amps: float, farad: float, esr: float, hz: float = 50.0) -> Volts:
    """A raw filter: recharged for a tenth of each half period, with the step that ESR makes."""
    half = 1 / (2 * hz)
    place = np.arange(count) * dt % half
    charge = 0.1 * half
    drop = amps * (half - charge) / farad
    discharging = 12.0 - amps * (place - charge) / farad - amps * esr
    charging = 12.0 - drop * (1 - place / charge) + amps * esr * (half / charge - 1)
    return np.where(place < charge, charging, discharging)


def codes(found: RippleAnalysis) -> list[str]:
    return [cause.code for cause in found.causes]


@pytest.mark.parametrize("stage", [RailSource.FORWARD, RailSource.FLYBACK, None])
def test_a_record_that_is_cut_off_has_no_figure(stage: RailSource | None) -> None:
    """A 3.4 V triangle that the screen shows 0.8 V of."""
    whole = triangle(20_000, 40.0, 3.4) + 0.004 * RNG.standard_normal(20_000)
    cut = np.clip(whole, -0.4, 0.4)
    asked = RippleQuestion(5.0, 0.05, stage=stage, full_load_a=15.0, is_ac=True)
    found = seen(cut, 1e-6, asked, 0.008)
    assert found.verdict is RailVerdict.NOT_JUDGED and not found.causes
    assert "Cut off at the top and bottom" in " ".join(found.limits)
    assert seen(whole, 1e-6, asked, 0.03).verdict is RailVerdict.FAIL


@pytest.mark.parametrize("step", [0.002, 0.005, 0.01])
@pytest.mark.parametrize("shape", ["sine", "triangle", "noise"])
def test_a_record_of_few_codes_is_not_cut_off(shape: str, step: float) -> None:
    time = np.arange(20_000) / 40.0
    volt = {
        "sine": 0.1 * np.sin(2 * np.pi * time),
        "triangle": triangle(20_000, 40.0, 0.2),
        "noise": 0.02 * RNG.standard_normal(20_000),
    }[shape]
    found = seen(volt + 5.0, 1e-6, FORWARD, step)
    assert "Cut off" not in " ".join(found.limits)


def test_a_regulator_that_drops_out_is_flat_and_not_cut_off() -> None:
    place = np.arange(40_000) * 5e-6 % 0.01
    volt = np.where(place > 0.008, 5.0 - 0.4 * np.sin(np.pi * (place - 0.008) / 0.002), 5.0)
    found = seen(volt, 5e-6, RippleQuestion(5.0, 0.05, stage=RailSource.LINEAR), 0.002)
    assert codes(found) == ["regulator-dropout"]


@pytest.mark.parametrize("top", [0.75, 1.2, 2.0])  # 15, 24 and 40 % of 5 V
@pytest.mark.parametrize("period", [0.1, 0.5])
def test_blips_of_a_shorted_rail_are_a_hiccup(top: float, period: float) -> None:
    place = np.arange(40_000) * 1e-4 % period
    volt = np.where(place < 0.2 * period, top, 0.02) + 0.01 * RNG.standard_normal(40_000)
    found = seen(volt, 1e-4, FLYBACK)
    assert codes(found) == ["hiccup"]
    estimate = found.causes[0].estimate
    assert estimate and estimate.value == pytest.approx(period, rel=0.05)


def test_a_load_that_steps_is_no_hiccup_and_no_mains() -> None:
    place = np.arange(40_000) * 1e-4 % 0.23
    volt = 5.0 - 0.3 * (place < 0.115) + 0.005 * RNG.standard_normal(40_000)
    assert not set(codes(seen(volt, 1e-4, FLYBACK))) & {"hiccup", "half-wave"}
    assert "filter-capacitance-low" not in codes(seen(volt, 1e-4, FLYBACK))


@pytest.mark.parametrize("hz", [97.0, 113.0, 83.0, 61.7])
def test_an_alias_near_the_mains_is_no_filter(hz: float) -> None:
    """40 kHz sampled at 10 kS/s stands anywhere, and not at a multiple of the mains."""
    time = np.arange(10_000) * 1e-4
    volt = 5.0 + 0.15 * np.sin(2 * np.pi * hz * time) + 0.003 * RNG.standard_normal(10_000)
    found = seen(volt, 1e-4, RippleQuestion(5.0, 0.05, stage=RailSource.FORWARD, mains_hz=None))
    assert not set(codes(found)) & {"filter-capacitance-low", "half-wave"}


@pytest.mark.parametrize("hz", [50.0, 60.0])
def test_twice_the_mains_is_the_filter_and_the_mains_alone_half_a_wave(hz: float) -> None:
    time = np.arange(10_000) * 1e-4
    noise = 0.003 * RNG.standard_normal(10_000)
    twice = 5.0 + 0.15 * np.sin(4 * np.pi * hz * time) + noise
    once = 5.0 + 0.15 * np.sin(2 * np.pi * hz * time) + noise
    asked = RippleQuestion(5.0, 0.05, stage=RailSource.FLYBACK)
    assert codes(seen(twice, 1e-4, asked)) == ["filter-capacitance-low"]
    assert codes(seen(once, 1e-4, asked))[0] == "half-wave"


@pytest.mark.parametrize("esr", [0.0, 0.1, 0.55, 1.0])
@pytest.mark.parametrize("farad", [1500e-6, 2500e-6])
def test_the_slope_is_read_behind_the_step_of_esr(esr: float, farad: float) -> None:
    found = seen(raw(40_000, 5e-6, 1.0, farad, esr), 5e-6, LINEAR)
    (cause,) = (c for c in found.causes if c.code == "filter-capacitance-low")
    assert cause.estimate and cause.estimate.value == pytest.approx(farad, rel=0.08)


def test_noise_makes_no_subharmonic() -> None:
    volt = 5.0 + triangle(8_000, 40.0, 0.12) + 0.015 * RNG.standard_normal(8_000)
    assert "subharmonic" not in codes(seen(volt, 6e-7, FORWARD))


def test_every_second_pulse_that_differs_is_one() -> None:
    pulses = triangle(20_000, 40.0, 0.12) * (1 + 0.3 * (np.arange(20_000) // 40 % 2))
    volt = 5.0 + pulses + 0.002 * RNG.standard_normal(20_000)
    assert "subharmonic" in codes(seen(volt, 6e-7, FORWARD))


@pytest.mark.parametrize("seed", range(8))
@pytest.mark.parametrize("count", [4_000, 40_000])
def test_one_odd_sample_is_an_odd_sample(count: int, seed: int) -> None:
    volt = 5.0 + 0.004 * np.random.default_rng(seed).standard_normal(count)
    volt[count // 3] = 6.5
    found = seen(volt, 1e-5, RippleQuestion(5.0, 0.05, stage=RailSource.LINEAR, mains_hz=50.0))
    assert "odd sample" in " ".join(found.limits)
    assert found.vpp_v < 0.06 and "hf-spikes" not in codes(found)


def test_bursts_at_every_edge_are_no_odd_samples() -> None:
    volt = 5.0 + triangle(40_000, 40.0, 0.02) + 0.001 * RNG.standard_normal(40_000)
    volt[::40] += 0.3
    assert "hf-spikes" in codes(seen(volt, 6e-7, FORWARD))


def test_the_esr_of_a_bank_without_its_current_has_a_range() -> None:
    volt = 5.0 + triangle(20_000, 40.0, 0.2)
    asked = RippleQuestion(5.0, 0.05, stage=RailSource.FORWARD, load_a=4.0)
    (cause,) = seen(volt, 6e-7, asked).causes
    assert cause.code == "output-esr-high" and cause.estimate
    assert cause.estimate.low < 0.2 / 2.0 < cause.estimate.high  # 0.2 to 0.4 × 4 to 16 A


def test_a_cause_of_next_to_nothing_does_not_stand_first() -> None:
    volt = 5.0 + 0.05 * RNG.standard_normal(20_000)
    volt += 0.03 * np.sin(2 * np.pi * 100 * np.arange(20_000) * 1e-4)
    assert not seen(volt, 1e-4, FLYBACK).causes or seen(volt, 1e-4, FLYBACK).causes[0].share >= 0.1


DT = 25e-6 / 40  # forty samples a cycle of 40 kHz
RECORD = 5.0 + triangle(2_000, 40.0, 0.2)
Line = Callable[[int, float], str]
HEADINGS: dict[str, tuple[str, Line]] = {
    "brackets": ("Time (ms),CH1 (mV)", lambda i, v: f"{i * DT * 1e3:.7f},{v * 1e3:.3f}"),
    "slash": ("t/ms,CH1/mV", lambda i, v: f"{i * DT * 1e3:.7f},{v * 1e3:.3f}"),
    "underscore": ("Time_us;CH1_mV", lambda i, v: f"{i * DT * 1e6:.4f};{v * 1e3:.3f}"),
    "space": ("time us,CH1 mV", lambda i, v: f"{i * DT * 1e6:.4f},{v * 1e3:.3f}"),
    "dash": ("time-us,CH1-mV", lambda i, v: f"{i * DT * 1e6:.4f},{v * 1e3:.3f}"),
    "written out": (
        "microseconds,millivolts", lambda i, v: f"{i * DT * 1e6:.4f},{v * 1e3:.3f}",
    ),
    "interval": ("Sampling Interval [us],0.625\nCH1 (V)", lambda _, v: f"{v:.5f}"),
    "rate": ("Sample Rate,1.6M\nCH1 (V)", lambda _, v: f"{v:.5f}"),
    "units in cells": ("Time,CH1", lambda i, v: f"{i * DT * 1e6:.4f}us,{v * 1e3:.3f}mV"),
    "units apart": ("Time,CH1", lambda i, v: f"{i * DT * 1e3:.7f} ms;{v:.5f} V"),
    "quoted": ('"Time (s)","CH1 (V)"', lambda i, v: f'"{i * DT:.9f}","{v:.5f}"'),
    "quoted commas": (
        '"Time (s)","CH1 (V)"', lambda i, v: f'"{i * DT:.9f}","{v:.5f}"'.replace(".", ","),
    ),
    "quoted semicolons": (
        '"Time (ms)";"CH1 (V)"', lambda i, v: f'"{i * DT * 1e3:.7f}";"{v:.5f}"'.replace(".", ","),
    ),
}  # fmt: skip


def written(tmp_path: Path, heading: str, line: Line) -> Path:
    path = tmp_path / "record.csv"
    rows = [line(i, float(v)) for i, v in enumerate(RECORD)]
    path.write_text("\n".join([heading, *rows]) + "\n", encoding="utf-8")
    return path


@pytest.mark.parametrize("name", HEADINGS)
def test_a_heading_of_another_instrument(tmp_path: Path, name: str) -> None:
    wave = read_wave(written(tmp_path, *HEADINGS[name]))
    found = analyse(wave, FORWARD)
    assert wave.dt_s == pytest.approx(DT, rel=1e-3)
    assert found.switching_hz == pytest.approx(40e3, rel=0.01)
    assert found.mean_v == pytest.approx(5.0, rel=1e-3)
    assert found.vpp_v == pytest.approx(0.2, rel=0.02)


def test_an_odd_step_of_time_without_a_unit_is_asked_about(tmp_path: Path) -> None:
    path = written(tmp_path, "x,y", lambda i, v: f"{i * DT * 1e6:.4f},{v:.5f}")
    with pytest.raises(InputError, match="milliseconds or microseconds"):
        read_wave(path)
    wave = read_wave(path, Corrections(time_scale=1e-6))
    assert wave.dt_s == pytest.approx(DT, rel=1e-3)


def test_odd_volts_without_a_unit_are_asked_about(tmp_path: Path) -> None:
    path = written(tmp_path, "time (s),y", lambda i, v: f"{i * DT:.9f},{v * 1e3:.2f}")
    with pytest.raises(InputError, match="millivolts"):
        analyse(read_wave(path), FORWARD)
    assert analyse(read_wave(path, Corrections(volt_scale=1e-3)), FORWARD).mean_v < 6
