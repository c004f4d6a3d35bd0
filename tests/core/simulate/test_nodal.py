"""Nodal analysis against closed forms, and against other ways to solve a net."""

from __future__ import annotations

import math

import numpy as np
import pytest
import scipy
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.core.simulate.nodal import Capacitance, Coil, Junction, Network, NodalResistor

from ...sizes import examples

WHEATSTONE = [
    NodalResistor("a", "x", 100), NodalResistor("x", "b", 200), NodalResistor("a", "y", 300),
    NodalResistor("y", "b", 400), NodalResistor("x", "y", 50),
]  # fmt: skip

#: what leaks across a junction besides: a picoampere at 0.1 V
INSULATION_S = 1e-11


@pytest.mark.parametrize(
    ("elements", "ends", "ohm"),
    [
        ([NodalResistor("a", "b", 47)], "ab", 47.0),
        ([NodalResistor("a", "x", 10), NodalResistor("x", "b", 22)], "ab", 32.0),
        ([NodalResistor("a", "b", 10), NodalResistor("a", "b", 15)], "ab", 6.0),
        ([NodalResistor("a", "b", 10), NodalResistor("b", "loose", 1)], "ab", 10.0),
        ([Coil("a", "b", 0.4, 1e-3)], "ab", 0.4),
        ([Capacitance("a", "b", 1e-6, 0.1, 5e6)], "ab", 5e6),
        ([Capacitance("a", "b", 1e-6, 0.1)], "ab", math.inf),
        ([NodalResistor("a", "x", 10), NodalResistor("y", "b", 22)], "ab", math.inf),
        ([NodalResistor("a", "a", 10), NodalResistor("a", "b", 3)], "ab", 3.0),
        # worked by hand: star of the triangle a, x, y, then series and parallel
        (WHEATSTONE, "ab", 1 / (1 / (100 * 50 / 450 + 200) + 1 / (300 * 50 / 450 + 400))
         + 100 * 300 / 450),
    ],
)  # fmt: skip
def test_ohms_of_nets_that_can_be_worked_by_hand(elements: list, ends: str, ohm: float) -> None:
    net = Network(elements)
    assert net.drop(*ends, 1e-3) == pytest.approx(1e-3 * ohm)
    assert net.drop(*reversed(ends), 1e-3) == pytest.approx(1e-3 * ohm)


@st.composite
def nets(draw: st.DrawFn) -> tuple[int, list[tuple[int, int, float]]]:
    """A connected net: a string through all nodes, and some more between any two."""
    count = draw(st.integers(2, 9))
    ohms = st.floats(0.05, 1e6)
    string = [(n, n + 1, draw(ohms)) for n in range(count - 1)]
    node = st.integers(0, count - 1)
    more = draw(st.lists(st.tuples(node, node, ohms), max_size=12))
    return count, [*string, *(m for m in more if m[0] != m[1])]


@given(nets(), st.data())
@settings(max_examples=examples(150), deadline=None)
def test_any_net_of_resistors_agrees_with_the_pseudo_inverse(
    net: tuple, data: st.DataObject
) -> None:
    count, pieces = net
    a, b = data.draw(st.permutations(range(count)))[:2]
    laplacian = np.zeros((count, count))
    for i, j, ohm in pieces:
        laplacian[[i, j], [i, j]] += 1 / ohm
        laplacian[[i, j], [j, i]] -= 1 / ohm
    inverse = np.linalg.pinv(laplacian, rcond=1e-13)
    expected = inverse[a, a] + inverse[b, b] - 2 * inverse[a, b]
    found = Network([NodalResistor(str(i), str(j), ohm) for i, j, ohm in pieces])
    assert found.drop(str(a), str(b), 1.0) == pytest.approx(expected, rel=1e-5)


@given(
    st.lists(
        st.tuples(st.floats(1e-9, 1e-2), st.floats(1e-3, 10.0), st.floats(1e3, 1e8)),
        min_size=1, max_size=5,
    ),
    st.sampled_from([100.0, 120.0, 1e3, 100e3]),
)  # fmt: skip
def test_a_bank_in_a_net_is_its_exact_admittance(
    parts: list[tuple[float, float, float]], hz: float
) -> None:
    omega = 2 * math.pi * hz
    y = sum(1 / (esr - 1j / (omega * farad)) + 1 / leak for farad, esr, leak in parts)
    net = Network([Capacitance("a", "b", *part) for part in parts])
    assert net.impedance("a", "b", hz) == pytest.approx(1 / y, rel=1e-9)


def test_a_resonant_circuit_is_its_resistance_at_resonance() -> None:
    henry, farad = 40e-6, 220e-9
    hz = 1 / (2 * math.pi * math.sqrt(henry * farad))
    net = Network([Coil("a", "x", 0.3, henry), Capacitance("x", "b", farad, 0.2)])
    assert net.impedance("a", "b", hz) == pytest.approx(0.5, abs=1e-6)
    assert net.impedance("a", "elsewhere", hz).real == math.inf


@pytest.mark.parametrize("ampere", [1e-8, 1e-5, 1e-3, 0.1])
@pytest.mark.parametrize("ohm", [10.0, 1e3, 1e5])
def test_a_junction_behind_a_resistor_follows_lamberts_function(ampere: float, ohm: float) -> None:
    """Driven by volts V behind R: I = (nVt/R)·W(R·Is/nVt · exp((V + R·Is)/nVt)) − Is."""
    junction = Junction("x", "b", 0.55)
    scale, leak = junction.scale_v, junction.saturation_a
    net = Network([NodalResistor("a", "x", ohm), junction])
    volt = net.drop("a", "b", ampere)
    argument = math.log(ohm * leak / scale) + (volt + ohm * leak) / scale
    if argument < 600:
        w = scipy.special.lambertw(math.exp(argument)).real
        assert scale / ohm * w - leak == pytest.approx(ampere, rel=1e-2)
    assert net.drop("a", "b", ampere) == pytest.approx(
        ampere * ohm + scale * math.log1p(ampere / leak), rel=1e-4
    )


def test_a_junction_beside_a_resistor_shares_the_current() -> None:
    junction, ohm, ampere = Junction("a", "b", 0.6), 700.0, 1e-3
    volt = scipy.optimize.brentq(
        lambda v: v / ohm + junction.saturation_a * math.expm1(v / junction.scale_v) - ampere, 0, 1
    )
    net = Network([junction, NodalResistor("a", "b", ohm)])
    assert net.drop("a", "b", ampere) == pytest.approx(volt, rel=1e-6)
    assert net.drop("b", "a", ampere) == pytest.approx(ampere * ohm, rel=1e-4)


@given(nets(), st.data())
@settings(max_examples=examples(60), deadline=None)
def test_nets_with_junctions_obey_kirchhoff_and_a_second_solver(
    net: tuple, data: st.DataObject
) -> None:
    count, pieces = net
    node = st.integers(0, count - 1)
    drops = st.floats(0.2, 0.7)
    ways = data.draw(st.lists(st.tuples(node, node, drops), min_size=1, max_size=5))
    junctions = [Junction(str(a), str(k), drop) for a, k, drop in ways if a != k]
    ampere = data.draw(st.sampled_from([1e-6, 1e-4, 1e-3]))
    found = Network([*(NodalResistor(str(i), str(j), r) for i, j, r in pieces), *junctions])
    volts = found.volts({"1": ampere}, "0")

    def left_over(inner: np.ndarray) -> np.ndarray:
        known = np.concatenate([[0.0], inner])
        current = np.zeros(count)
        current[1] -= ampere
        for i, j, ohm in pieces:
            through = (known[i] - known[j]) / ohm
            current[i] += through
            current[j] -= through
        for j in junctions:
            across = known[int(j.a)] - known[int(j.b)]
            over = min(across / j.scale_v, 200)
            through = j.saturation_a * math.expm1(over) + INSULATION_S * across
            current[int(j.a)] += through
            current[int(j.b)] -= through
        return current[1:] / ampere

    start = np.array([volts[str(n)] for n in range(1, count)])
    assert np.abs(left_over(start)).max() < 1e-3
    second = scipy.optimize.root(left_over, start + 1e-3, method="hybr", options={"xtol": 1e-12})
    if second.success and np.abs(left_over(second.x)).max() < 1e-6:
        assert second.x == pytest.approx(start, rel=1e-3, abs=1e-6)


@pytest.mark.parametrize(
    ("ohm", "volt", "ampere"), [(10.0, 0.4, 0.04), (0.1, 0.1, 1.0), (0.4, 0.4, 1.0)]
)
def test_a_limited_source_gives_its_volts_or_its_amperes(
    ohm: float, volt: float, ampere: float
) -> None:
    found = Network([NodalResistor("a", "b", ohm)]).fed("a", "b", 0.4, 1.0, 1e-6)
    assert found == pytest.approx((volt, ampere), rel=1e-3)


def test_a_limited_source_at_a_junction_stands_at_shockleys_current() -> None:
    junction = Junction("a", "b", 0.35)
    expected = junction.saturation_a * math.expm1(0.4 / junction.scale_v)
    assert Network([junction]).fed("a", "b", 0.4, 1.0, 1e-9)[1] == pytest.approx(expected, rel=1e-3)


def test_a_source_stops_at_its_own_volts() -> None:
    net = Network([NodalResistor("a", "b", 1e9)])
    assert net.drop("a", "b", 1e-3, 3.0) == pytest.approx(3.0, abs=0.05)
    assert net.drop("a", "b", 1e-3) == pytest.approx(1e6)
