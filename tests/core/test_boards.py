"""Points on a board's map and sets of a rail: how they are named, and how readings are typed."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.errors import InputError
from hale_rail.core.procedures import (
    BOARD_DROP,
    BOARD_OHMS,
    LEG_LIFTED,
    SET_OHMS,
    WARMTH,
    Condition,
    Point,
    Subject,
    parse_point,
)
from hale_rail.core.procedures.boards import (
    Ends,
    attached_of,
    attached_set,
    board_part,
    board_part_of,
    board_words,
    ends_of,
    is_gone,
)

ids = st.text("abcXYZ0189.#_-", min_size=1, max_size=12)
rails = st.sampled_from(["+5 V", "−12 V", "+3,3 V aux"])


@given(rails, ids, ids, st.none() | st.tuples(ids, ids))
def test_probes_and_clamps_survive_an_address(rail, plus, minus, clamps):
    ends = Ends(rail, plus, minus, *(clamps or ("", "")))
    point = Point(ends.target, BOARD_DROP if clamps else BOARD_OHMS)
    again = parse_point(point.key)
    assert again == point and ends_of(again.target) == ends
    assert again.target.line == rail
    assert plus in board_words(again.target) and minus in board_words(again.target)


@given(rails, ids, st.lists(ids, unique=True, max_size=6))
def test_parts_and_sets_survive_an_address(rail, part, items):
    lifted = Point(board_part(rail, part), LEG_LIFTED)
    assert board_part_of(parse_point(lifted.key).target) == part
    attached = Point(attached_set(rail, items), SET_OHMS)
    again = parse_point(attached.key)
    assert attached_of(again.target) == tuple(items) and again.target.line == rail


def understood(procedure, text, amps=None):
    return procedure.understand(text, Condition.NONE, Subject("x", amps=amps))


@pytest.mark.parametrize(
    ("text", "volt", "amps", "digit"),
    [
        ("3.1", 0.0031, 0.5, 1e-4),
        ("3.1 mV", 0.0031, 0.5, 1e-4),
        ("-0,4", -0.0004, 0.5, 1e-4),
        ("−12 mV", -0.012, 0.5, 1e-3),
        ("250 µV", 0.00025, 0.5, 1e-6),
        ("0.0031 V", 0.0031, 0.5, 1e-4),
        ("3.1 mV 1.2 A", 0.0031, 1.2, 1e-4),
        ("3.1 mV 800mA", 0.0031, 0.8, 1e-4),
        ("3.1 800 mA", 0.0031, 0.8, 1e-4),
    ],
)
def test_a_drop_is_millivolts_and_takes_the_current_as_set_or_as_said(text, volt, amps, digit):
    found = understood(BOARD_DROP, text, amps=0.5)
    assert found.value == pytest.approx(volt) and found.digit == pytest.approx(digit)
    assert found.figures == {"amps": pytest.approx(amps)}
    assert " at " in found.echo


@pytest.mark.parametrize(
    ("procedure", "text", "why"),
    [
        (BOARD_DROP, "", "voltage"),
        (BOARD_DROP, "OL", "voltage"),
        (BOARD_DROP, "4 Ω", "Ω"),
        (BOARD_DROP, "2 V", "0.5 V"),
        (BOARD_DROP, "3 mV 0 A", "above 0 A"),
        (BOARD_DROP, "3 mV 40 A", "10 A"),
        (LEG_LIFTED, "perhaps", "gone or remains"),
        (WARMTH, "300", "0 to 150"),
        (WARMTH, "hot", "hot"),
        (SET_OHMS, "later", "resistance"),
    ],
)
def test_what_cannot_be_is_refused_with_what_would_be_read(procedure, text, why):
    with pytest.raises(InputError, match=why):
        understood(procedure, text)


@pytest.mark.parametrize(
    ("text", "gone"),
    [("gone", True), ("remains", False), ("0.4", False), ("2k6", True), ("OL", True),
     ("short", False)],
)  # fmt: skip
def test_a_lifted_leg_says_whether_the_short_is_gone(text, gone):
    found = understood(LEG_LIFTED, text)
    assert is_gone(found.value) is gone
    assert ("is gone" if gone else "remains") in found.echo


def test_warmth_is_degrees_or_a_rank():
    assert understood(WARMTH, "14").value == 14
    ranked = understood(WARMTH, "rank 2")
    assert (ranked.value, ranked.figures) == (2, {"is_rank": 1})
    assert math.isinf(understood(SET_OHMS, "OL").value)
