"""Rail to ground: verdicts, conductance arithmetic, low injection."""

from __future__ import annotations

import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from hale_rail.core.errors import InputError
from hale_rail.core.shorts.ground import (
    GroundVerdict,
    judge_injection,
    judge_ohm,
    polarity_text,
    removed_ohm,
    which_side,
)

GOOD, SUSPICIOUS, SHORT, UNPROVEN = GroundVerdict
OHMS = st.floats(1e-3, 1e6)


@pytest.mark.parametrize(
    ("ohm", "attached", "nominal", "record", "sheet", "verdict"),
    [
        (0.4, True, 12.0, None, 68.0, SHORT),
        (0.99, False, 5.0, None, None, SHORT),
        (14.0, True, 12.0, None, 68.0, GOOD),
        (13.0, True, 12.0, None, 68.0, SUSPICIOUS),
        (13.0, True, 12.0, 14.0, 68.0, GOOD),  # the board's own record outranks the sheet
        (5.0, True, 5.0, None, None, GOOD),  # a full logic board
        (4.9, True, 5.0, None, None, SUSPICIOUS),
        (30.0, True, 12.0, None, None, UNPROVEN),
        (1.4, True, 12.0, None, None, SUSPICIOUS),  # half an ohm of leads
        (2500.0, False, 12.0, None, None, GOOD),
        (150.0, False, 12.0, None, None, GOOD),  # an ordinary bleeder
        (90.0, False, 12.0, None, None, SUSPICIOUS),
        (150.0, False, 12.0, None, 2000.0, SUSPICIOUS),
        (math.inf, False, 12.0, None, None, GOOD),
        (math.inf, True, 5.0, None, None, SUSPICIOUS),  # open on the way to the logic
        (math.inf, True, 5.0, 12.0, None, SUSPICIOUS),
        (math.inf, True, 12.0, None, 900.0, GOOD),
        (10.0, True, 12.0, math.inf, None, UNPROVEN),
    ],
)
def test_verdict(
    ohm: float,
    attached: bool,
    nominal: float,
    record: float | None,
    sheet: float | None,
    verdict: GroundVerdict,
) -> None:
    found = judge_ohm(ohm, attached, nominal, record, sheet)
    assert found.verdict is verdict
    assert found.text


@pytest.mark.parametrize(
    ("ohm", "nominal", "load_max", "sheet", "verdict"),
    [
        (4.0, 12.0, 2.5, None, SUSPICIOUS),  # 12 V / 2.5 A is 4.8 Ω
        (5.0, 12.0, 2.5, None, GOOD),
        (4.0, 12.0, 2.5, 16.0, SUSPICIOUS),
        (4.0, 12.0, 2.5, 4.5, GOOD),  # the sheet expects less than that
        (2.5, 5.0, 8.0, None, SUSPICIOUS),  # below what is normal for a logic board
        (7.0, 5.0, 8.0, None, GOOD),
        (7.0, 5.0, 0.5, None, SUSPICIOUS),
    ],
)
def test_attached_a_rail_is_held_against_all_it_can_give(
    ohm: float, nominal: float, load_max: float, sheet: float | None, verdict: GroundVerdict
) -> None:
    assert judge_ohm(ohm, True, nominal, None, sheet, load_max).verdict is verdict


def parallel(ohms: list[float]) -> float:
    """Conductances add."""
    return 1 / sum(1 / ohm for ohm in ohms)


@given(st.lists(OHMS, min_size=1, max_size=6), OHMS)
def test_what_was_unplugged_follows_from_two_readings(rest: list[float], item: float) -> None:
    after = parallel(rest)
    before = parallel([*rest, item])
    assume(item < 1e4 * after)
    assert removed_ohm(before, after) == pytest.approx(item, rel=1e-6)


@pytest.mark.parametrize(
    ("before", "after", "ohm"),
    [(0.4, math.inf, 0.4), (10.0, 10.0, math.inf), (0.0, 50.0, 0.0), (10.0, 9.0, math.inf)],
)
def test_removal_at_the_edges(before: float, after: float, ohm: float) -> None:
    assert removed_ohm(before, after) == ohm


@pytest.mark.parametrize(
    ("isolated", "attached", "word"),
    [
        ((2600.0, GOOD), (0.4, SHORT), "hangs behind P1, 0.4 Ω"),
        ((0.3, SHORT), (0.3, SHORT), "in the supply itself"),
        ((2600.0, GOOD), (70.0, GOOD), ""),
        ((2600.0, GOOD), (math.inf, SUSPICIOUS), ""),  # open is not a short
        # both low: 1/1.2 − 1/3 S behind it, 2 Ω
        ((3.0, SUSPICIOUS), (1.2, SUSPICIOUS), "2 Ω behind it. The lower is behind P1"),
        ((0.6, SHORT), (0.5, SHORT), "3 Ω behind it. The lower is the supply's own"),
    ],
)
def test_which_side(
    isolated: tuple[float, GroundVerdict], attached: tuple[float, GroundVerdict], word: str
) -> None:
    text = which_side(isolated, attached, "P1").replace("\u00a0", " ")
    assert word in text
    assert bool(text) == bool(word)


@pytest.mark.parametrize(
    ("normal", "other", "word"),
    [
        (0.4, 0.41, "copper"),
        (600, 4200, "junction"),
        (600, 700, "resistive"),
        (math.inf, math.inf, "OL both ways: open"),
    ],
)
def test_polarity(normal: float, other: float, word: str) -> None:
    assert word in polarity_text(normal, other)


@pytest.mark.parametrize(
    ("volt", "ampere", "verdict", "word"),
    [
        (0.31, 0.78, SHORT, "0.397 Ω"),
        (0.4, 0.01, GOOD, "below what opens"),
        (1.3, 0.09, GOOD, "14.4 Ω"),
        (1.3, 0.09, GOOD, "junctions may add"),
        (0.4, 0.0, GOOD, "OL"),
        (0.5, 0.2, SUSPICIOUS, "leaky"),  # 2.5 Ω where nothing of silicon conducts
        (0.5, 0.09, GOOD, "5.56 Ω"),
        (1.2, 0.4, UNPROVEN, "Inject less"),
        (1.3, 1.4, SHORT, "a short"),
    ],
)
def test_low_injection(volt: float, ampere: float, verdict: GroundVerdict, word: str) -> None:
    found = judge_injection(volt, ampere)
    assert found.verdict is verdict
    assert word in found.text.replace("\u00a0", " ")


@pytest.mark.parametrize(("volt", "ampere"), [(0.0, 0.1), (5.0, 0.1), (0.4, -0.1)])
def test_injection_that_proves_nothing_is_refused(volt: float, ampere: float) -> None:
    with pytest.raises(InputError):
        judge_injection(volt, ampere)
