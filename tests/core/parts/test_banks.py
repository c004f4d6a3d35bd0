"""Bank arithmetic against nodal analysis by numpy, and its bounds against brute force."""

from __future__ import annotations

import math
import random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.core.parts.banks import (
    Member,
    Meter,
    best_lift,
    expected,
    hypotheses,
    legs_to_lift,
    lost_members,
    shown,
)

from ...sizes import examples

METER = Meter()
PARTS = st.lists(st.tuples(st.floats(1e-6, 2e-2), st.floats(1e-3, 20.0)), min_size=1, max_size=6)


def nodal(parts: list[tuple[float, float]], hz: float) -> tuple[float, float]:
    """ESR and C by solving the whole network: node 0 the rail, one node inside each part."""
    size = len(parts) + 1
    y = np.zeros((size, size), dtype=complex)
    for index, (farad, ohm) in enumerate(parts, start=1):
        g, b = 1 / ohm, 2j * math.pi * hz * farad
        y[0, 0] += g
        y[0, index] -= g
        y[index, 0] -= g
        y[index, index] += g + b
    source = np.zeros(size, dtype=complex)
    source[0] = 1.0
    z = complex(np.linalg.solve(y, source)[0])
    return z.real, -1 / (2 * math.pi * hz * z.imag)


@given(PARTS, st.sampled_from([100.0, 120.0, 1e3, 100e3]))
def test_agrees_with_nodal_analysis(parts: list[tuple[float, float]], hz: float) -> None:
    ohm, farad = nodal(parts, hz)
    seen = shown(parts, hz)
    # the network's own rounding is a share of its reactance, which may dwarf a small ESR
    rounding = 1e-9 / (2 * math.pi * hz * farad)
    assert seen.esr_ohm == pytest.approx(ohm, rel=1e-6, abs=rounding)
    assert seen.farad == pytest.approx(farad, rel=1e-4)


@given(PARTS)
def test_alone_a_part_shows_itself(parts: list[tuple[float, float]]) -> None:
    farad, ohm = parts[0]
    seen = shown([parts[0]], 120.0)
    assert (seen.farad, seen.esr_ohm) == (pytest.approx(farad), pytest.approx(ohm, rel=1e-6))


@given(st.integers(1, 8), st.floats(1e-6, 1e-2), st.floats(1e-3, 5.0))
def test_equal_parts_add_in_closed_form(count: int, farad: float, ohm: float) -> None:
    seen = shown([(farad, ohm)] * count, 120.0)
    assert seen.farad == pytest.approx(count * farad)
    assert seen.esr_ohm == pytest.approx(ohm / count)


@given(PARTS, st.floats(1e-6, 2e-2), st.floats(1e-3, 20.0))
def test_a_part_more_never_raises_esr_at_100_khz(
    parts: list[tuple[float, float]], farad: float, ohm: float
) -> None:
    """At 100 kHz these parts are resistive, so another beside them can only lower Re Z."""
    stiff = [(f, max(r, 20 / (2 * math.pi * 100e3 * f))) for f, r in parts]
    more = (farad, max(ohm, 20 / (2 * math.pi * 100e3 * farad)))
    before = shown(stiff, 100e3).esr_ohm
    assert shown([*stiff, more], 100e3).esr_ohm <= before * (1 + 1e-9)


@pytest.mark.parametrize(
    ("parts", "ohm", "farad"),
    [([], math.inf, 0.0), ([(0.0, 1.0)], math.inf, 0.0), ([(math.inf, 0.0)], 0.0, math.inf)],
)
def test_nothing_and_a_short(parts: list[tuple[float, float]], ohm: float, farad: float) -> None:
    assert (shown(parts, 120.0).esr_ohm, shown(parts, 120.0).farad) == (ohm, farad)


@settings(max_examples=examples(60))
@given(st.integers(2, 5), st.floats(20e-6, 5e-3), st.integers(0, 10**6))
def test_a_sound_bank_reads_between_its_bounds(count: int, farad: float, seed: int) -> None:
    """Brute force: any members inside their tolerance read inside what `nominal` allows."""
    rng = random.Random(seed)
    members = [
        Member(f"C{i}", farad * rng.choice([1, 1, 2.2]), 0.2, rng.choice([0.1, 0.2]), 0.3)
        for i in range(count)
    ]
    nominal = hypotheses(members, METER)[0]
    assert nominal.esr_ohm is not None
    for _ in range(30):
        drawn = [
            (
                m.farad * (1 + rng.uniform(-m.tolerance_low, m.tolerance_high)),
                (m.esr_ohm or 0) * rng.uniform(*m.esr_spread),
            )
            for m in members
        ]
        seen = shown(drawn, METER.cap_hz)
        assert nominal.farad[0] - 1e-12 <= seen.farad <= nominal.farad[1] + 1e-12
        ohm = shown(drawn, METER.esr_hz).esr_ohm
        assert nominal.esr_ohm[0] * 0.99 <= ohm <= nominal.esr_ohm[1] * 1.01


def bank(count: int, low: float = 0.2, high: float = 0.2) -> list[Member]:
    return [Member(f"C{i}", 1000e-6, 0.1, low, high) for i in range(1, count + 1)]


@pytest.mark.parametrize(
    ("count", "high", "micro", "is_excluded"),
    [
        (2, 0.2, 2000, True),
        (2, 0.2, 1230, False),
        (2, 0.2, 1245, True),
        (3, 0.2, 3000, True),
        (3, 0.2, 2450, False),
        (3, 0.5, 3000, False),  # two parts at +50 % hide a third that is open
        (6, 0.2, 6000, False),
    ],
)
def test_one_member_open_is_excluded_or_not(
    count: int, high: float, micro: float, is_excluded: bool
) -> None:
    """The rest reach (n−1)·C·(1+tolerance); a reading less 3 % above that excludes an open one."""
    states = hypotheses(bank(count, high=high), METER, micro * 1e-6)
    opened = [s for s in states if s.kind == "open"]
    assert [s.excluded for s in opened] == [is_excluded] * count
    assert is_excluded == (micro * 0.97 > (count - 1) * 1000 * (1 + high))


@pytest.mark.parametrize("has_no_short", [True, False])
def test_a_short_is_excluded_by_ohms_or_volts_and_by_nothing_else(has_no_short: bool) -> None:
    """A burnt part reads a tenth of an ohm, so neither ESR nor C tells."""
    states = hypotheses(bank(3), METER, 3e-3, 0.03, has_no_short=has_no_short)
    assert {s.excluded for s in states if s.kind == "shorted"} == {has_no_short}


def test_esr_never_excludes_an_open_member() -> None:
    for ohm in (0.005, 0.03, 0.3, 3.0):
        states = hypotheses(bank(3), METER, esr_ohm=ohm)
        assert not any(s.excluded for s in states if s.kind == "open")


def test_a_member_of_unknown_esr_is_bounded_and_voids_nothing() -> None:
    members = [*bank(2), Member("C9", 1e-6)]
    nominal = hypotheses(members, METER, 2e-3, 0.05)[0]
    assert nominal.esr_ohm is not None
    assert not nominal.excluded
    assert expected(members, METER)[1] == pytest.approx(0.05, rel=0.01)
    assert expected([Member("C8", 1e-6), Member("C9", 1e-6)], METER)[1] is None


@settings(max_examples=examples(40))
@given(st.permutations(range(5)), st.floats(0.5, 1.4))
def test_the_order_of_members_changes_nothing(order: list[int], share: float) -> None:
    farads = [1000e-6, 1000e-6, 470e-6, 2200e-6, 100e-6]
    members = [Member(f"C{i}", f, 0.1) for i, f in enumerate(farads)]
    turned = [members[i] for i in order]
    read = share * sum(farads)

    def excluded(of: list[Member]) -> set[tuple[str, str, bool]]:
        return {(s.kind, s.member, s.excluded) for s in hypotheses(of, METER, read, 0.02)}

    assert excluded(members) == excluded(turned)
    assert legs_to_lift(members, METER) == legs_to_lift(turned, METER)
    first = members[best_lift(members, METER).index]
    assert turned[best_lift(turned, METER).index].name == first.name


@pytest.mark.parametrize(
    ("members", "legs"),
    [
        (bank(2), 1),
        (bank(5), 1),
        (bank(6), 1),
        (bank(7), 2),
        (bank(3, high=0.5), 1),
        (bank(4, high=0.5), 2),
        ([*bank(2), Member("C9", 100e-9)], 1),
    ],
)
def test_fewest_legs_to_lift(members: list[Member], legs: int) -> None:
    """m nominal parts exclude an open one while m·0.97 > (m−1)·(1+t): 5 at +20 %, 2 at +50 %."""
    assert legs_to_lift(members, METER) == legs


def test_the_leg_that_settles_most_is_lifted_first() -> None:
    """Beside two large ones, the small one hides; lifted, all that is left is excluded or read."""
    members = [*bank(2), Member("C9", 100e-9)]
    lift = best_lift(members, METER)
    assert (lift.index, lift.hidden) == (2, 6)
    for index in range(len(members)):
        rest = [*members[:index], *members[index + 1 :]]
        farad, ohm = expected(rest, METER)
        states = hypotheses(rest, METER, farad, ohm)
        settled = 2 + sum(s.excluded for s in states if s.kind in ("open", "dried"))
        assert settled <= lift.settled
    assert best_lift(bank(4), METER).index == 0


def test_losses_are_said_in_members() -> None:
    members = [Member(f"C{i}", 1800e-6) for i in range(4)]
    missing, count = lost_members(members, 5600e-6)
    assert missing == pytest.approx(1600e-6)
    assert round(count, 1) == 0.9
    assert lost_members(members, 8000e-6) == (0.0, 0.0)
