"""What every kind of part must hold to, so that the program need not ask which kind it is."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from hale_rail.core.parts.kinds import KINDS, by_code, by_letters
from hale_rail.core.parts.looks import BY_CODE
from hale_rail.core.parts.measured import Key, MeasuredValue, PartReadings
from hale_rail.core.parts.part import Part, PartKind
from hale_rail.core.parts.verdicts import Verdict
from hale_rail.core.procedures import DIODE, OHMS, Condition, parse_point
from hale_rail.core.supply.templates import make_part
from hale_rail.core.targets import TargetKind

EACH = pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.code)


def part_of(kind: PartKind) -> Part:
    return make_part(7, "P7", kind.code, "main", 1)


def test_codes_and_letters_are_each_one_kinds() -> None:
    codes = [kind.code for kind in KINDS]
    letters = [each for kind in KINDS for each in kind.letters]
    assert len(codes) == len(set(codes))
    assert len(letters) == len(set(letters))
    for kind in KINDS:
        assert by_code(kind.code) is kind
        for each in kind.letters:
            assert by_letters(each) is kind, each


@EACH
def test_what_is_read_at_it_is_a_point_that_an_address_can_name(kind: PartKind) -> None:
    part = part_of(kind)
    asks = part.all_asks
    assert len(asks) == len(set(asks))
    for ask in asks:
        wanted = TargetKind.PAIR if ask.pair else TargetKind.PART
        assert wanted in ask.procedure.targets
        for condition in ask.procedure.conditions:
            point = part.point(ask.procedure, condition, ask.pair)
            assert parse_point(point.key) == point


@EACH
def test_each_junction_is_read_both_ways_and_blocks_only_where_it_says(kind: PartKind) -> None:
    asked = {ask.pair for ask in kind.asks(part_of(kind)) if ask.procedure is DIODE}
    ways = {way for pair in kind.pairs for way in (pair, pair.turned)}
    assert asked == ways
    assert kind.blocking <= ways
    for pair in kind.blocking:
        assert pair.turned in kind.blocking
    if kind.across:
        assert any(a.procedure is OHMS and a.pair == kind.across for a in part_of(kind).all_asks)


@EACH
def test_it_says_what_to_look_for_and_what_is_expected(kind: PartKind) -> None:
    part = part_of(kind)
    assert kind.name
    assert kind.look_for(part)
    assert set(kind.findings) <= set(BY_CODE)
    for ask in kind.asks(part):
        for condition in (Condition.IN_CIRCUIT, Condition.LIFTED):
            words = kind.expect(part, ask, condition)
            is_family_known = part.capacitor is None
            assert words or not is_family_known, (ask.procedure.code, ask.pair)
            is_blocking = ask.procedure is DIODE and ask.pair in kind.blocking
            if is_blocking:
                assert words.startswith("OL"), words


@EACH
def test_unread_it_is_unproven_and_sound_looks_alone_prove_only_what_is_looked_at(
    kind: PartKind,
) -> None:
    part = part_of(kind)
    assert kind.judge(part, PartReadings()).verdict is Verdict.UNPROVEN
    seen = kind.judge(part, PartReadings(seen=("none",)))
    assert seen.verdict is (Verdict.UNPROVEN if kind.is_measured else Verdict.GOOD)


@EACH
@given(data=st.data())
def test_no_readings_break_it_and_every_verdict_has_its_reason(
    kind: PartKind, data: st.DataObject
) -> None:
    """Any value at any of its points, in circuit or lifted, with any of its findings."""
    part = part_of(kind)
    values = st.one_of(st.floats(0, 1e7), st.just(math.inf))
    taken: dict[Key, MeasuredValue] = {}
    for ask in part.all_asks:
        if data.draw(st.booleans()):
            key = (ask.procedure.code, ask.pair)
            taken[key] = MeasuredValue(data.draw(values), data.draw(st.booleans()))
    known = [finding.code for finding in part.findings]
    seen = tuple(data.draw(st.lists(st.sampled_from(known), unique=True, max_size=3)))
    judgement = kind.judge(part, PartReadings(taken, seen))
    assert judgement.reasons
    assert all(reason.text and reason.code for reason in judgement.reasons)
    argued = {reason.argues for reason in judgement.reasons}
    assert judgement.verdict in argued or judgement.verdict is Verdict.UNPROVEN
    if Verdict.FAILED in argued:
        assert judgement.verdict is Verdict.FAILED


@pytest.mark.parametrize(
    "kind", [kind for kind in KINDS if "burnt" in kind.findings], ids=lambda kind: kind.code
)
def test_a_part_that_burnt_is_never_good(kind: PartKind) -> None:
    part = replace(part_of(kind), note="")
    found = kind.judge(part, PartReadings(seen=("burnt",)))
    assert found.verdict in (Verdict.FAILED, Verdict.WORN, Verdict.UNPROVEN)
    assert any("burnt" in reason.text.lower() for reason in found.reasons)
