"""How likely figures are: bounds by all that they leave, nothing impossible, nothing by jumps."""

from __future__ import annotations

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import integrate

from hale_rail.core.diagnosis.densities import of_part, of_volts
from hale_rail.core.diagnosis.facts import GroundFact, PartFact, ReadValue
from hale_rail.core.diagnosis.views import STATES

from ...sizes import examples
from .test_engine import chance, part, said, weighed


@pytest.mark.parametrize(("low", "high"), [(50.0, math.inf), (20e3, math.inf), (0.0, 100.0)])
@pytest.mark.parametrize("ref", ["C10", "C1", "D10", "F1"])
def test_a_bound_counts_by_all_that_it_leaves(ref: str, low: float, high: float) -> None:
    of = part(ref)

    def density(ln: float, state: int) -> float:
        found = of_part(of, ReadValue("ohms", math.exp(ln), math.exp(ln)), is_lifted=False)
        assert found is not None
        return float(found[state]) - 0.01 * 0.04  # without the slip's even part

    bounded = of_part(of, ReadValue("ohms", low, high), is_lifted=False)
    opened = of_part(of, ReadValue("ohms", math.inf, math.inf), is_lifted=False)
    assert bounded is not None
    assert opened is not None
    ends = math.log(max(low, 0.02)), math.log(min(high, 1e8))
    for state in range(len(STATES)):
        left, _ = integrate.quad(density, *ends, args=(state,), limit=200)
        left += float(opened[state]) - 0.01 * 0.03 if math.isinf(high) else 0.0
        assert float(bounded[state]) == pytest.approx(left + 0.005, rel=0.03, abs=0.004)


@pytest.mark.parametrize(("value", "high", "up", "down"), [
    (50.0, math.inf, "", "short:C10"),       # does not beep
    (0.0, 50.0, "short:C10", ""),            # beeps
    (20e3, math.inf, "", "short:C10"),       # above 20 kΩ
])  # fmt: skip
def test_a_beep_speaks_of_a_short_and_none_of_an_open_part(
    value: float, high: float, up: str, down: str
) -> None:
    before = weighed(said("hiccup"))
    now = weighed(said("hiccup"), GroundFact(5, "+5 V", False, value, high, None, ""))
    assert not up or chance(now, up) > 1.5 * chance(before, up)
    assert not down or chance(now, down) < 0.1 * chance(before, down)
    figure = ReadValue("ohms", value, high)
    own = weighed(said("hiccup"), PartFact(5, part("C10").id, figure, True, ""))
    assert chance(own, "open:C10") < 3 * chance(before, "open:C10")


@given(
    st.sampled_from(("ohms", "esr", "c", "leak")),
    st.floats(1e-12, 1e9) | st.just(math.inf),
    st.booleans(),
    st.sampled_from(("C1", "C10", "CX1", "F1", "T1", "Q1", "RT1")),
)
@settings(max_examples=examples(200, 60), deadline=None)
def test_no_reading_is_impossible(procedure: str, value: float, lifted: bool, ref: str) -> None:
    found = of_part(part(ref), ReadValue(procedure, value, value), is_lifted=lifted)
    assert found is None or len(found) == len(STATES)
    assert found is None or (found > 0).all()


@given(st.floats(-2, 3))
def test_volts_move_smoothly_from_class_to_class(share: float) -> None:
    here, near = of_volts(share, 0.02, 0.005), of_volts(share + 1e-4, 0.02, 0.005)
    assert (here > 0).all()
    assert abs(here - near).max() < 0.3
