"""What the meters show, against what lies between their probes; and how it is typed."""

from __future__ import annotations

import math
import random

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from hale_rail.core.quantities import Unit, read
from hale_rail.core.simulate import meters
from hale_rail.core.simulate.meters import Meters, gains
from hale_rail.core.simulate.nodal import Capacitance, Junction, Network, NodalResistor

BENCH = Meters(gains(5))
SEEDS = st.integers(0, 50)


def chance() -> random.Random:
    return random.Random(1)


@given(st.floats(0.05, 3e7), SEEDS)
def test_ohms_are_within_a_usual_meters_error(ohm: float, seed: int) -> None:
    """1 % and two digits, and the leads below 2 Ω; forty thousand counts a decade are steps."""
    bench = Meters(gains(seed))
    shown = bench.ohms(Network([NodalResistor("a", "b", ohm)]), "a", "b", random.Random(seed), 1.0)
    step = next(40.0 * 10**n / 4000 for n in range(8) if ohm + 0.3 < 40.0 * 10**n * 0.98)
    assert ohm - 0.01 * ohm - 2 * step <= shown <= ohm + 0.31 + 0.01 * ohm + 2 * step


@given(st.floats(1e-9, 0.05), st.floats(1e-3, 5.0), SEEDS)
def test_an_lcr_meter_reads_c_within_three_per_cent(farad: float, esr: float, seed: int) -> None:
    bench = Meters(gains(seed))
    net = Network([Capacitance("a", "b", farad, esr)])
    shown = bench.capacitance(net, "a", "b", random.Random(seed))
    reactance = 1 / (2 * math.pi * 120 * farad)
    assume(reactance > 0.1 * esr)
    assert shown == pytest.approx(farad, rel=0.03, abs=3e-11)


@given(st.floats(2e-6, 0.05), st.floats(2e-3, 50.0), SEEDS)
def test_an_esr_meter_reads_esr_within_its_error(farad: float, esr: float, seed: int) -> None:
    bench = Meters(gains(seed))
    shown = bench.esr(Network([Capacitance("a", "b", farad, esr)]), "a", "b", random.Random(seed))
    assert shown == pytest.approx(esr, rel=0.05, abs=0.002)


@pytest.mark.parametrize(
    ("elements", "procedure"),
    [
        ([NodalResistor("a", "b", 6e7)], "ohms"),
        ([], "ohms"),
        ([], "junction"),
        ([Junction("b", "a", 0.6)], "junction"),
        ([NodalResistor("a", "b", 5e3)], "junction"),
        ([Capacitance("a", "b", 1e-7, 0.1)], "esr"),
        ([NodalResistor("a", "b", 0.2)], "capacitance"),
        ([Capacitance("a", "b", 0.5, 1e-4)], "capacitance"),
        ([Capacitance("a", "b", 1e-5, 150)], "esr"),
    ],
)
def test_over_range_is_over_range(elements: list, procedure: str) -> None:
    asked = getattr(BENCH, procedure)
    more = (1.0,) if procedure == "ohms" else ()
    assert asked(Network(elements), "a", "b", chance(), *more) == math.inf


@pytest.mark.parametrize(
    ("drop", "shown"), [(0.2, 0.2), (0.55, 0.55), (0.7, 0.7), (1.2, 1.2), (2.4, 2.4)]
)
def test_a_junction_shows_its_drop_at_a_milliampere(drop: float, shown: float) -> None:
    volt = BENCH.junction(Network([Junction("a", "b", drop)]), "a", "b", chance())
    assert volt == pytest.approx(shown, rel=0.006, abs=0.001)


def test_ohms_hardly_make_silicon_conduct_but_germanium() -> None:
    silicon = BENCH.ohms(Network([Junction("a", "b", 0.6)]), "a", "b", chance(), 1.0)
    germanium = BENCH.ohms(Network([Junction("a", "b", 0.22)]), "a", "b", chance(), 1.0)
    assert silicon > 100 * germanium


@pytest.mark.parametrize(
    ("seconds", "low", "high"), [(1.0, 6e3, 7.3e3), (10.0, 5e4, 6.8e4), (600.0, 1.4e5, 1.6e5)]
)
def test_a_capacitor_beside_lets_ohms_climb_to_the_resistor(
    seconds: float, low: float, high: float
) -> None:
    """150 kΩ beside 150 µF: R·(1 − exp(−t/RC)), with t over C at the start."""
    net = Network([NodalResistor("a", "b", 150e3), Capacitance("a", "b", 150e-6, 0.3)])
    assert low < BENCH.ohms(net, "a", "b", chance(), seconds) < high


@given(st.floats(0.3, 20000.0))
def test_an_injection_stops_at_its_volts_or_its_amperes(ohm: float) -> None:
    volt, ampere = BENCH.injection(Network([NodalResistor("a", "b", ohm)]), "a", "b", chance())
    assert volt <= 0.405
    assert ampere <= 1.005
    assert volt / ampere == pytest.approx(ohm, rel=0.02)


@given(st.floats(1e-3, 9.9e6))
def test_ohms_read_back_as_they_are_typed(ohm: float) -> None:
    assert read(meters.ohms_text(ohm), Unit.OHM).value == pytest.approx(ohm, rel=1e-5)


@given(st.floats(1e-12, 0.1))
def test_farads_read_back_as_they_are_typed(farad: float) -> None:
    assert read(meters.farads_text(farad), Unit.FARAD).value == pytest.approx(farad, rel=1e-5)


@pytest.mark.parametrize(
    ("volt", "text"),
    [(5.0191, "5.019"), (-12.342, "-12.34"), (325.46, "325.5"), (-0.0001, "0.000"), (0.0, "0.000")],
)
def test_volts_are_typed_as_a_meter_shows_them(volt: float, text: str) -> None:
    assert meters.volts_text(volt) == text


@pytest.mark.parametrize(
    ("value", "step", "shown"),
    [(0.3456, 0.01, 0.35), (123.44, 0.1, 123.4), (4.7111e3, 1.0, 4711.0), (0.0004, 0.001, 0.0)],
)
def test_a_figure_ends_at_the_meters_last_digit(value: float, step: float, shown: float) -> None:
    assert meters.rounded(value, step) == pytest.approx(shown)


@pytest.mark.parametrize(
    ("value", "figures", "shown"), [(0.0, 3, 0.0), (1234.5, 3, 1230.0), (math.inf, 3, math.inf)]
)
def test_a_figure_has_so_many_figures(value: float, figures: int, shown: float) -> None:
    assert meters.significant(value, figures) == shown
