"""What stores hold, against an independent integration."""

from __future__ import annotations

import math

import numpy as np
import pytest
import scipy
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.core.simulate.charge import FILM, SLOW_S, WET, Charge, after, bled, held

from ...sizes import examples


@given(
    st.floats(1e-6, 1e-2), st.floats(1e2, 1e7), st.floats(-400, 400), st.floats(-400, 400),
    st.floats(0.1, 3e3),
)  # fmt: skip
@settings(max_examples=examples(60), deadline=None)
def test_a_store_falls_as_its_two_equations_say(
    farad: float, ohm: float, volt: float, slow: float, seconds: float
) -> None:
    rate, over = 1 / (ohm * farad), WET / SLOW_S
    found = scipy.integrate.solve_ivp(
        lambda _, s: [-rate * s[0] - over * (s[0] - s[1]), (s[0] - s[1]) / SLOW_S],
        (0, seconds), [volt, slow], method="LSODA", rtol=1e-9, atol=1e-9,
    )  # fmt: skip
    said = after(Charge(volt, slow), farad, ohm, seconds)
    solved = np.nan_to_num(found.y[:, -1])  # the solver loses volts that are hardly a number
    assert [said.volt, said.slow_v] == pytest.approx(solved, rel=1e-4, abs=1e-4)


@given(st.floats(1, 400), st.floats(1, 500), st.floats(1, 500))
def test_two_stretches_are_one(volt: float, first: float, second: float) -> None:
    charge = held(volt)
    at_once = after(charge, 150e-6, 150e3, first + second)
    in_two = after(after(charge, 150e-6, 150e3, first), 150e-6, 150e3, second)
    assert in_two.volt == pytest.approx(at_once.volt, rel=1e-9, abs=1e-12)


def test_a_bleeder_takes_its_time_constant() -> None:
    charge = after(held(325.0), 150e-6, 150e3, 22.5, FILM)
    assert charge.volt == pytest.approx(325 / math.e, rel=0.03)


def test_what_was_bled_comes_back_a_little() -> None:
    charge = bled(held(325.0))
    assert charge.volt == 0
    assert 3.0 < after(charge, 150e-6, math.inf, 600).volt < 5.0
    # shorted for a moment only, wet aluminium comes back to a tenth, between its two parts
    moment = after(Charge(0.0, 325.0), 150e-6, math.inf, 600)
    assert moment.volt == pytest.approx(325 * 0.10 / 1.10, rel=1e-3)
