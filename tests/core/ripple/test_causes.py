"""Causes found in records with known truth, and their numbers within a fifth of it."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from hale_rail.core.errors import InputError
from hale_rail.core.rails.judge import RailVerdict
from hale_rail.core.ripple.analyse import RippleAnalysis, analyse, usual_limit
from hale_rail.core.ripple.question import RailSource, RippleQuestion
from hale_rail.core.ripple.wave import Wave
from tests.core.ripple import records as made
from tests.core.ripple.records import FAST, SLOW, kept

from ...sizes import examples

LINEAR, FLYBACK, FORWARD = RailSource.LINEAR, RailSource.FLYBACK, RailSource.FORWARD


@dataclass
class Row:
    """A record, what is known of its rail, and the causes with their true numbers."""

    wave: Wave
    nominal_v: float
    known: dict[str, Any]
    causes: dict[str, float | None]
    only: bool = True
    bands: dict[str, float] = field(default_factory=dict)


def half_low() -> np.ndarray:
    return made.raw(farad=1500e-6, missing=True)


ROWS = {
    "raw filter": Row(kept(made.raw(), SLOW), 9, {"stage": LINEAR, "load_a": 0.8,
        "nominal_farad": 4700e-6}, {"filter-capacitance-low": 2200e-6}),
    "raw filter at 60 Hz, nothing known": Row(kept(made.raw(60), SLOW), 9, {"load_a": 0.8},
        {"filter-capacitance-low": 2200e-6}),
    "a resistor for a load": Row(kept(made.raw(load_a=0.0, load_ohm=12.0), SLOW), 9,
        {"stage": LINEAR, "load_a": float(made.raw(load_a=0.0, load_ohm=12.0).mean() / 12)},
        {"filter-capacitance-low": 2200e-6}),
    "negative raw rail": Row(kept(-made.raw(), SLOW), -9, {"stage": LINEAR, "load_a": 0.8},
        {"filter-capacitance-low": 2200e-6}),
    "no load given": Row(kept(made.raw(), SLOW), 9, {"stage": LINEAR},
        {"filter-capacitance-low": None}),
    "one diode open": Row(kept(made.raw(farad=4700e-6, missing=True), SLOW), 9, {"stage": LINEAR,
        "load_a": 0.8, "nominal_farad": 4700e-6}, {"half-wave": None}),
    "one diode open and a low filter": Row(kept(half_low(), SLOW), 9, {"stage": LINEAR,
        "load_a": 0.8, "nominal_farad": 4700e-6},
        {"half-wave": None, "filter-capacitance-low": 1500e-6}),
    "drop-out": Row(kept(made.dropped(), SLOW), 5, {"stage": LINEAR, "load_a": 1.0},
        {"regulator-dropout": float(np.ptp(made.dropped()))}),
    "drop-out with one diode open": Row(kept(made.dropped(True), SLOW, is_ac=True), 5,
        {"stage": LINEAR}, {"half-wave": None,
        "regulator-dropout": float(np.ptp(made.dropped(True)))}),
    "forward, ESR": Row(kept(made.of_forward(), FAST), 5, {"stage": FORWARD, "delta_a": 4.5,
        "bank_esr_ohm": 0.01}, {"output-esr-high": 0.05}),
    "forward, ESR, by the full load": Row(kept(made.of_forward(), FAST), 5, {"stage": FORWARD,
        "full_load_a": 15.0}, {"output-esr-high": 0.05}),
    "forward, nothing known": Row(kept(made.of_forward(), FAST), 5, {},
        {"output-esr-high": None}),
    "forward, rounded": Row(kept(made.of_forward(0.002, 20e-6), FAST), 5, {"stage": FORWARD,
        "delta_a": 4.5, "nominal_farad": 1000e-6}, {"output-capacitance-low": 20e-6}),
    "flyback, ESR": Row(kept(made.of_flyback(), FAST), 5, {"stage": FLYBACK, "load_a": 3.0},
        {"output-esr-high": 0.04}),
    "flyback, ESR, current that does not fall to nothing": Row(
        kept(made.of_flyback(duty=0.5, kept=0.5), FAST), 5, {"stage": FLYBACK, "load_a": 3.0},
        {"output-esr-high": 0.04}),
    "flyback on a negative rail, stage not known": Row(kept(-made.of_flyback(), FAST), -5,
        {"load_a": 3.0}, {"output-esr-high": 0.04}),
    "flyback, droop": Row(kept(made.of_flyback(0.004, 150e-6), FAST), 5, {"stage": FLYBACK,
        "load_a": 3.0}, {"output-capacitance-low": 150e-6}),
    "spikes and ESR": Row(made.with_spikes(), 5, {"stage": FORWARD, "delta_a": 4.5},
        {"hf-spikes": None, "output-esr-high": 0.02}),
    "every second pulse": Row(kept(made.of_forward(uneven=0.4), FAST), 5, {"stage": FORWARD,
        "delta_a": 4.5}, {"output-esr-high": 0.05, "subharmonic": None}),
    "low bulk and ESR": Row(kept(made.of_forward(0.03) + made.bulk_ripple(), FAST), 5,
        {"stage": FORWARD, "delta_a": 4.5}, {"filter-capacitance-low": None,
        "output-esr-high": 0.03}, bands={"rectified": 0.2, "switching": 0.135}),
    "hiccup": Row(made.blips(), 5, {}, {"hiccup": 0.4}),
}  # fmt: skip


def found(row: Row) -> RippleAnalysis:
    return analyse(row.wave, RippleQuestion(row.nominal_v, **row.known))


@pytest.mark.parametrize("name", ROWS)
def test_what_was_put_in_is_found_with_its_number(name: str) -> None:
    row = ROWS[name]
    answer = found(row)
    assert answer.verdict is RailVerdict.FAIL
    causes = {cause.code: cause for cause in answer.causes}
    assert causes.keys() == row.causes.keys()
    for code, truth in row.causes.items():
        estimate = causes[code].estimate
        if truth is None:
            continue
        assert estimate is not None, code
        assert estimate.value == pytest.approx(truth, rel=0.2), code
        assert estimate.low <= truth <= estimate.high, code
    for band, volt in row.bands.items():
        assert answer.split.vpp[band] == pytest.approx(volt, rel=0.2)
    shares = [cause.share for cause in answer.causes]
    assert shares == sorted(shares, reverse=True)
    assert all(0 < share <= 1 for share in shares)


def test_what_a_new_part_would_leave_is_scaled_by_the_ratio() -> None:
    answer = found(ROWS["forward, ESR"])
    cause = answer.causes[0]
    assert cause.renewed_vpp_v is not None
    # 4.5 A through 10 mΩ, and what noise there is beside
    rest = sum(v for k, v in answer.split.vpp.items() if k != "switching")
    assert cause.renewed_vpp_v == pytest.approx(0.045 + rest, rel=0.1)


def test_a_bank_whose_esr_is_as_expected_is_no_cause() -> None:
    asked = RippleQuestion(5, stage=FORWARD, delta_a=4.5, bank_esr_ohm=0.05)
    assert not analyse(kept(made.of_forward(), FAST), asked).causes


@pytest.mark.parametrize(("missing", "codes"), [
    (False, set()), (True, {"half-wave"}),
])  # fmt: skip
def test_a_filter_that_has_its_capacitance_is_no_cause(missing: bool, codes: set[str]) -> None:
    wave = kept(made.raw(farad=4700e-6, missing=missing), SLOW)
    asked = RippleQuestion(9, stage=LINEAR, load_a=0.8, nominal_farad=4700e-6)
    assert {cause.code for cause in analyse(wave, asked).causes} == codes


def test_inside_the_limit_is_clean_with_its_margin() -> None:
    wave = kept(made.of_forward(0.005), FAST)
    answer = analyse(wave, RippleQuestion(5, stage=FORWARD, limit_v=0.1))
    (clean,) = answer.causes
    assert (answer.verdict, clean.code) == (RailVerdict.PASS, "clean")
    assert clean.estimate is not None
    assert clean.estimate.value == pytest.approx(0.1 - answer.vpp_v)


@pytest.mark.parametrize(("limit_share", "verdict"), [
    (0.90, RailVerdict.FAIL), (1.0, RailVerdict.MARGINAL), (1.02, RailVerdict.MARGINAL),
    (1.10, RailVerdict.PASS),
])  # fmt: skip
def test_the_verdict_knows_the_instruments_error(limit_share: float, verdict: RailVerdict) -> None:
    wave = kept(made.of_forward(), FAST)
    limit = limit_share * float(np.ptp(wave.volt))
    assert analyse(wave, RippleQuestion(5, limit_v=limit)).verdict is verdict


@pytest.mark.parametrize(("nominal_v", "is_raw", "limit_v"), [
    (5, False, 0.05), (-12, False, 0.12), (3, False, 0.05), (24, False, 0.24), (9, True, 0.9),
])  # fmt: skip
def test_the_usual_limit(nominal_v: float, is_raw: bool, limit_v: float) -> None:
    assert usual_limit(nominal_v, is_raw=is_raw) == pytest.approx(limit_v)
    answer = analyse(kept(made.raw(), SLOW), RippleQuestion(nominal_v, is_raw=is_raw))
    assert answer.is_default_limit
    assert any("usual" in text for text in answer.limits)


def test_what_a_record_cannot_show_is_said_and_does_not_pass() -> None:
    dt = 20e-9
    stage = made.ForwardStage(66e3, 1.0, 3300e-6, 0.02)
    short = kept(5 + made.forward(stage, dt, 2500), dt)
    answer = analyse(short, RippleQuestion(5, stage=FORWARD))
    assert answer.verdict is RailVerdict.NOT_JUDGED
    assert any("two mains periods" in text for text in answer.limits)
    assert any("20 ms/div" in text for text in answer.captures)
    assert answer.switching_hz == pytest.approx(66e3, rel=0.02)

    slow = kept(5 + 0.01 * np.sin(np.arange(5000) / 7), 50e-6)
    answer = analyse(slow, RippleQuestion(5, stage=FLYBACK, limit_v=0.1))
    assert answer.verdict is RailVerdict.NOT_JUDGED
    assert any("no verdict on switching" in text for text in answer.limits)

    coarse = Wave(np.round(5 + 0.008 * np.sin(np.arange(20_000) / 9), 2), 20e-6)
    texts = analyse(coarse, RippleQuestion(5, stage=LINEAR)).limits
    assert any("instrument's floor" in text for text in texts)


@pytest.mark.parametrize(("samples", "is_told"), [(7, False), (12, True)])
def test_below_ten_samples_a_cycle_nothing_is_said_of_its_shape(
    samples: float, is_told: bool
) -> None:
    dt = 1 / 66e3 / (samples + 0.3)
    volt = 5 + made.forward(made.ForwardStage(66e3, 4.5, 3300e-6, 0.05), dt, 40_000)
    answer = analyse(kept(volt, dt), RippleQuestion(5, stage=FORWARD, delta_a=4.5))
    assert answer.causes[0].code == "output-esr-high"
    assert (answer.causes[0].estimate is not None) is is_told
    assert any("no verdict on the shape" in text for text in answer.limits) is not is_told
    inside = analyse(kept(volt, dt), RippleQuestion(5, stage=FORWARD, limit_v=1.0))
    assert inside.verdict is RailVerdict.PASS  # its height is seen all the same


@pytest.mark.parametrize(("begin", "length"), [(0, 1.0), (300, 1.0), (100, 0.9), (20, 1.3)])
def test_a_hiccup_is_told_wherever_its_record_begins(begin: int, length: float) -> None:
    volt = made.hiccup(5.0, 0.4, 0.05, 1e-3, 3000)[begin : begin + int(length * 1000)]
    answer = analyse(Wave(volt, 1e-3), RippleQuestion(5))
    assert answer.causes[0].code == "hiccup"
    assert answer.causes[0].estimate.value == pytest.approx(0.4, rel=0.05)


@pytest.mark.parametrize(("offset", "given", "is_ac", "mean"), [
    (5.0, None, False, "pass"), (4.5, None, False, "fail"), (0.0, None, True, "not-judged"),
    (5.0, True, True, "not-judged"), (4.76, False, False, "marginal"),
])  # fmt: skip
def test_the_mean_is_judged_where_it_was_coupled(
    offset: float, given: bool | None, is_ac: bool, mean: str
) -> None:
    wave = kept(made.of_forward() - 5 + offset, FAST)
    answer = analyse(wave, RippleQuestion(5, is_ac=given))
    assert answer.is_ac is is_ac
    assert answer.mean_verdict.value == mean


def test_the_bandwidth_is_limited_where_the_sampling_allows() -> None:
    answer = analyse(made.with_spikes(height=0.3), RippleQuestion(5))
    assert answer.limited_vpp_v is not None
    assert answer.limited_vpp_v < answer.vpp_v
    assert analyse(kept(made.of_forward(), FAST), RippleQuestion(5)).limited_vpp_v is None


def test_a_rail_of_no_volts_is_refused() -> None:
    with pytest.raises(InputError, match="not 0"):
        analyse(kept(made.raw(), SLOW), RippleQuestion(0.0))


@settings(max_examples=examples(60))
@given(
    count=st.sampled_from([8, 9, 15, 50, 333, 5000]), power=st.floats(-9, 1),
    shape=st.sampled_from(["noise", "flat", "ramp", "sine", "spikes", "bits", "walk", "tiny"]),
    nominal=st.sampled_from([5.0, -12.0, 1e-3, 400.0]), stage=st.sampled_from([None, *RailSource]),
    load=st.sampled_from([None, 1.0]), given_hz=st.sampled_from([None, 40e3]),
)  # fmt: skip
@example(
    count=9, power=-5.09375, shape="ramp", nominal=5.0, stage=None, load=None, given_hz=40e3
)  # a slope that was followed as a peak shrank the cycle to nothing
def test_no_record_however_odd_breaks_the_analysis(
    count: int, power: float, shape: str, nominal: float, stage: RailSource | None,
    load: float | None, given_hz: float | None,
) -> None:  # fmt: skip
    rng = np.random.default_rng(count)
    volt = {
        "noise": rng.normal(0, 1, count), "flat": np.full(count, 5.0),
        "ramp": np.arange(count) * 1.0, "sine": np.sin(np.arange(count) * 0.7),
        "spikes": (np.arange(count) % 7 == 0) * 1.0,
        "bits": rng.integers(0, 2, count) * 1.0, "walk": np.cumsum(rng.normal(0, 1, count)),
        "tiny": rng.normal(0, 1, count) * 1e-12 + 5,
    }[shape]  # fmt: skip
    asked = RippleQuestion(
        nominal, stage=stage, load_a=load, switching_hz=given_hz, nominal_farad=1e-3
    )
    answer = analyse(Wave(volt, 10**power), asked)
    assert all(np.isfinite(v) for v in answer.split.vpp.values())
    assert all(0 <= cause.share <= 1 for cause in answer.causes)
    whole = sum(answer.split.band(name, 0, count) for name in answer.split.vpp)
    assert np.allclose(whole + answer.split.mean_v, volt, atol=1e-6)
