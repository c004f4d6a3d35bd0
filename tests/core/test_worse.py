"""A worse reading is never judged better, for the procedures that have no property of their own.

ESR, capacitance, leakage and lifted ohms of capacitors: `parts/test_capacitors.py`; volts of a
rail: `rails/test_judge.py`.
"""

from __future__ import annotations

import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from hale_rail.core.parts.measured import MeasuredValue, PartReadings
from hale_rail.core.parts.verdicts import Verdict
from hale_rail.core.procedures import BREAKDOWN, DIODE, OHMS, Procedure
from hale_rail.core.shorts.ground import GroundVerdict, judge_injection, judge_ohm
from hale_rail.core.supply.templates import make_part
from hale_rail.core.targets import Pair

OHM = st.floats(1e-3, 1e8) | st.just(math.inf)
SHARE = st.floats(0, 5)


def verdict(code: str, value: float | None, procedure: Procedure, lifted: bool, read: float,
            pair: Pair | None = None) -> Verdict:  # fmt: skip
    known = {"value": value} if value is not None else {}
    part = make_part(1, "X1", code, "main", 1, **known)
    across = pair or part.kind.across if procedure is not BREAKDOWN else None
    taken = {(procedure.code, across): MeasuredValue(read, lifted)}
    return part.kind.judge(part, PartReadings(taken, this_year=2026)).verdict


def never_better(better: Verdict, worse: Verdict) -> None:
    """What is good stays good only towards the better, what failed stays failed to the worse."""
    assert worse is not Verdict.GOOD or better is Verdict.GOOD
    assert better is not Verdict.FAILED or worse is Verdict.FAILED


@pytest.mark.parametrize("code", ["fuse", "switch", "choke", "filter"])
@given(ohm=OHM, more=st.floats(0, 1e6), lifted=st.booleans())
def test_more_ohms_in_the_way_of_power(code: str, ohm: float, more: float, lifted: bool) -> None:
    never_better(
        verdict(code, None, OHMS, lifted, ohm), verdict(code, None, OHMS, lifted, ohm + more)
    )


@given(ohm=st.sampled_from([0.47, 10.0, 4.7e3, 1e6]), off=SHARE, more=SHARE, lifted=st.booleans())
def test_a_resistor_further_above_its_nominal(
    ohm: float, off: float, more: float, lifted: bool
) -> None:
    near, far = ohm * (1 + off), ohm * (1 + off + more)
    never_better(
        verdict("resistor", ohm, OHMS, lifted, near), verdict("resistor", ohm, OHMS, lifted, far)
    )


@given(ohm=st.sampled_from([10.0, 4.7e3, 1e6]), off=st.floats(0, 1), more=st.floats(0, 1))
def test_a_lifted_resistor_further_below_its_nominal(ohm: float, off: float, more: float) -> None:
    near, far = ohm * (1 - off), ohm * (1 - off) * (1 - more)
    never_better(
        verdict("resistor", ohm, OHMS, True, near), verdict("resistor", ohm, OHMS, True, far)
    )


@given(volt=st.sampled_from([3.3, 5.1, 12.0, 33.0]), off=st.floats(0, 0.9), more=st.floats(0, 0.9))
def test_a_zener_further_off_its_breakdown(volt: float, off: float, more: float) -> None:
    for way in (1, -1):
        near, far = volt * (1 + way * off), volt * (1 + way * min(off + more, 0.99))
        never_better(
            verdict("zener", volt, BREAKDOWN, True, near),
            verdict("zener", volt, BREAKDOWN, True, far),
        )


@pytest.mark.parametrize("code", ["bridge", "transistor", "mosfet", "schottky", "optocoupler"])
@given(drop=st.floats(0, 3) | st.just(math.inf), lifted=st.booleans())
def test_half_of_a_junction_never_proves_a_whole_part(code: str, drop: float, lifted: bool) -> None:
    part = make_part(1, "X1", code, "main", 1)
    assert part.kind.pairs
    for pair in part.kind.pairs:
        assert verdict(code, None, DIODE, lifted, drop, pair) is not Verdict.GOOD


GROUND_RANK = [GroundVerdict.GOOD, GroundVerdict.SUSPICIOUS, GroundVerdict.SHORT]


@given(
    ohm=st.floats(1e-3, 1e6),
    share=st.floats(0.001, 1),
    attached=st.booleans(),
    nominal_v=st.sampled_from([5.0, 12.0, -5.0, -12.0]),
    known=st.none() | st.floats(5, 1e4),
)
def test_fewer_ohms_to_ground(
    ohm: float, share: float, attached: bool, nominal_v: float, known: float | None
) -> None:
    found = [judge_ohm(o, attached, nominal_v, known).verdict for o in (ohm, ohm * share)]
    assume(GroundVerdict.UNPROVEN not in found)
    better, worse = map(GROUND_RANK.index, found)
    assert worse >= better


@given(volt=st.floats(0.05, 0.5), ampere=st.floats(1e-3, 3), more=st.floats(1, 10))
def test_more_current_injected_at_the_same_volts(volt: float, ampere: float, more: float) -> None:
    found = [judge_injection(volt, a).verdict for a in (ampere, ampere * more)]
    assume(GroundVerdict.UNPROVEN not in found)
    better, worse = map(GROUND_RANK.index, found)
    assert worse >= better
