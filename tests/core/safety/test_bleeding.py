"""Energy and bleeding against numerical integration, and the choice of resistor by brute force."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.errors import InputError
from hale_rail.core.safety.bleeding import (
    PowerResistor,
    bleed,
    bleeder_text,
    cautions,
    propose,
    self_discharge_tau,
    shock_words,
    stored_energy,
    time_to,
    volts_after,
)
from hale_rail.core.safety.discharge import discharge

FARADS = st.floats(1e-6, 20e-3)
VOLTS = st.floats(70, 400)
OHMS = st.floats(10, 1e6)


@given(FARADS, VOLTS, OHMS)
def test_the_resistor_takes_the_whole_energy(farad: float, volt: float, ohm: float) -> None:
    """∫V²/R dt over many time constants, by the trapezoid rule, is ½CV² and starts at V0²/R."""
    this = bleed(farad, volt, ohm)
    t = np.linspace(0, 20 * ohm * farad, 20_001)
    watts = (volt * np.exp(-t / (ohm * farad))) ** 2 / ohm
    assert this.peak_w == pytest.approx(float(watts[0]))
    assert this.energy_j == pytest.approx(float(np.trapezoid(watts, t)), rel=1e-4)
    assert this.energy_j == pytest.approx(stored_energy(farad, volt))


@given(FARADS, VOLTS, OHMS, st.floats(1, 60))
def test_time_to_the_limit_by_stepping(farad: float, volt: float, ohm: float, limit: float) -> None:
    """Runge–Kutta steps of dV/dt = −V/RC up to the promised time end at the limit."""
    this = bleed(farad, volt, ohm, limit)
    steps = 400
    h, v = this.time_s / steps / this.tau_s, volt
    for _ in range(steps):
        v *= 1 - h + h * h / 2 - h**3 / 6 + h**4 / 24
    assert v == pytest.approx(limit, rel=1e-6)
    assert volts_after(volt, this.tau_s, this.time_s) == pytest.approx(limit)


def test_the_example_of_the_manual() -> None:
    this = bleed(220e-6, 336.0, 10e3)
    assert (this.tau_s, this.peak_w) == (pytest.approx(2.2), pytest.approx(11.2896))
    assert this.time_s == pytest.approx(2.2 * math.log(336 / 60))
    assert self_discharge_tau([(0, 336), (30, 210)]) == pytest.approx(30 / math.log(336 / 210))
    assert time_to(50.0, 60.0, 2.2) == 0.0


@given(st.floats(0.5, 1e4), st.lists(st.floats(0, 1e4), min_size=2, max_size=6, unique=True))
def test_self_discharge_finds_the_time_constant(tau: float, times: list[float]) -> None:
    times = [t for t in times if t < 20 * tau]
    if len(times) < 2 or max(times) - min(times) < tau * 1e-3:
        return
    readings = [(t, 340 * math.exp(-t / tau)) for t in times]
    assert self_discharge_tau(readings) == pytest.approx(tau, rel=1e-6)


@pytest.mark.parametrize(
    ("readings", "says"),
    [
        ([(0, 336)], "Two timed readings"),
        ([(0, 336), (0, 200)], "same time"),
        ([(0, 200), (30, 210)], "do not fall"),
        ([(0, 336), (30, 0)], "gives no rate"),
    ],
)
def test_readings_that_tell_nothing(readings: list[tuple[float, float]], says: str) -> None:
    with pytest.raises(InputError, match=says):
        self_discharge_tau(readings)


STOCK = st.lists(
    st.builds(
        PowerResistor,
        st.sampled_from([47.0, 100.0, 470.0, 1e3, 4.7e3, 10e3, 47e3, 100e3]),
        st.sampled_from([0.5, 3.0, 10.0, 25.0, 50.0]),
        st.sampled_from(["wirewound", "film"]),
        st.sampled_from([100.0, 250.0, 500.0]),
    ),
    max_size=10,
)


def bears(resistor: PowerResistor, farad: float, volt: float) -> bool:
    """The rule written out again: voltage rating, then five times for at most five seconds."""
    seconds = resistor.ohm * farad * math.log(volt / 60)
    allowed = resistor.watt
    if resistor.kind == "wirewound" and seconds <= 5:
        allowed = 5 * resistor.watt
    return resistor.max_volt >= volt and volt * volt / resistor.ohm <= allowed


@given(FARADS, VOLTS, STOCK)
def test_proposes_the_soonest_that_bears_it(
    farad: float, volt: float, stock: list[PowerResistor]
) -> None:
    found = propose(farad, volt, stock)
    able = [r for r in stock if bears(r, farad, volt)]
    if not able:
        assert found is None
    else:
        assert found is not None
        assert found.resistor in able
        assert found.resistor.ohm == min(r.ohm for r in able)


@pytest.mark.parametrize(
    ("joule", "volt", "word"),
    [
        (12.4, 336.0, "kill"),
        (10.0, 60.0, "kill"),
        (0.8, 400.0, "hurts"),
        (0.35, 60.0, "hurts"),
        (0.34, 300.0, "throws"),
        (0.05, 60.0, "throws"),
        (0.04, 400.0, "sting"),
        (12.0, 59.0, "spark"),
        (1.2, 16.0, "no shock, but a spark that burns"),
        (0.9, 16.0, "damages a meter"),
        (0.0, 4.0, "low enough for a meter"),
    ],
)
def test_energy_and_volts_together_say_what_it_does(joule: float, volt: float, word: str) -> None:
    assert word in shock_words(joule, volt)


@pytest.mark.parametrize(
    ("readings", "says"),
    [
        ([(0, 200), (30, 210)], "rise: 200 V at 0 s, 210 V at 30 s"),
        ([(0, 200), (30, -100)], "change sign"),
        ([(0, 200), (30, 200)], "do not fall"),
        ([(0, 336), (30, 210), (60, 250)], "rise: 210 V at 30 s"),
    ],
)
def test_what_is_no_decay_is_refused_with_what_was_read(
    readings: list[tuple[float, float]], says: str
) -> None:
    with pytest.raises(InputError, match=says):
        discharge(220e-6, 336.0, readings=readings)


def test_a_resistor_proposed_and_the_rc_measured_are_two_things() -> None:
    stock = [PowerResistor(10e3, 10.0, "wirewound", 500.0)]
    readings = [(0.0, 336.0), (30.0, 210.0)]
    tau = 30 / math.log(336 / 210)
    plan = discharge(220e-6, 336.0, stock=stock, readings=readings)
    assert (plan.ohm, plan.tau_s) == (10e3, pytest.approx(tau))
    assert plan.time_s == pytest.approx(tau * math.log(210 / 60))
    assert not [c for c in plan.cautions if "fitted" in c]
    fitted = discharge(220e-6, 336.0, ohm=10e3, readings=readings, fitted_ohm=100e3)
    assert [c for c in fitted.cautions if "the fitted bleeder is open" in c]
    assert [c for c in discharge(220e-6, 336.0, stock=()).cautions if "empty" in c]
    assert [c for c in discharge(220e-6, 50.0, stock=stock).cautions if "nothing to bleed" in c]


def test_cautions_name_absorption_the_meter_and_the_code() -> None:
    text = " ".join(cautions(220e-6, 336.0))
    for word in ("screwdriver", "dielectric absorption", "Below 5 V", "Local codes"):
        assert word in text


@pytest.mark.parametrize(
    ("measured", "word"), [(150.0, "open"), (20.0, "something besides"), (52.0, "works")]
)
def test_the_bleeders_health(measured: float, word: str) -> None:
    assert word in bleeder_text(measured, 50.0)


@pytest.mark.parametrize(
    ("farad", "volt", "ohm", "limit"),
    [(0, 100, 1e3, 60), (2, 100, 1e3, 60), (1e-3, 1e6, 1e3, 60), (1e-3, 100, 0, 60),
     (1e-3, 100, 1e3, 0), (1e-3, 100, math.inf, 60)],
)  # fmt: skip
def test_nonsense_is_refused(farad: float, volt: float, ohm: float, limit: float) -> None:
    with pytest.raises(InputError):
        bleed(farad, volt, ohm, limit)
