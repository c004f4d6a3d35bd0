"""How a case answers the tests of the diagnosis: which parts are read, what follows, what is left.

A `worn` part answers nothing as failed; what was read in circuit counts as what it is: a short on
the node, not a proof.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from msgspec import Struct

from hale_rail.case.asks import asks, to_lift
from hale_rail.case.file import CaseFile
from hale_rail.case.grounds import grounds
from hale_rail.case.nodes import PartFacts
from hale_rail.case.rails import rail_patterns, rails
from hale_rail.case.tested_parts import (
    codes,
    failure,
    loaded,
    parts_of_test,
    reads_short,
    regulated,
    was_lifted,
)
from hale_rail.core.diagnosis.knowledge import BenchTest
from hale_rail.core.parts.families import SHORT_OHM
from hale_rail.core.parts.states import PartState
from hale_rail.core.parts.verdicts import Verdict
from hale_rail.core.procedures import CONDITIONS, OHMS, Condition
from hale_rail.core.targets import Place

#: what is sound as far as a reading in circuit tells
_SOUND = frozenset({"bank-esr", "esr-good", "in-tolerance", "conducts", "turns-unproven"})
_BAD = (Verdict.FAILED, Verdict.WORN)
#: ohms across a bulk capacitor below which they do not climb, seen through a winding too
_LOW_OHM = 50.0


class Answered(Struct, frozen=True):
    """What a case says to a test: its result ("" where none), and whether all of it was read."""

    result: str
    is_spent: bool


def answer(case: CaseFile, test: BenchTest) -> Answered:
    """What the case's readings and looks say to a test."""
    reads = test.points.get("reads", "")
    by_unit = _BY_UNIT.get(reads)
    if by_unit:
        return by_unit(case, test)
    found = parts_of_test(case, test)
    if test.points.get("lifted"):
        found = to_lift(case, found)
    by_parts = _BY_PARTS.get(reads)
    if not by_parts or not found:
        return Answered("", is_spent=False)
    # the eye has no points: it is through when it was at every part
    is_read = reads != "seen" and not asks(case, test)
    result = by_parts(test, found, is_read)
    return Answered(result, is_spent=is_read and not result)


def _verdict(test: BenchTest, found: Sequence[PartFacts], is_read: bool) -> str:
    if any(failure(f) or reads_short(f) for f in found):
        return test.results[0]
    return test.sound if is_read and all(_is_sound(f) for f in found) else ""


def _is_sound(facts: PartFacts) -> bool:
    if facts.state in (PartState.GOOD, PartState.REPLACED):
        return True
    is_bad = any(r.argues in _BAD for r in facts.judgement.reasons)
    return not is_bad and bool(_SOUND & codes(facts))


def _conducts(test: BenchTest, found: Sequence[PartFacts], is_read: bool) -> str:
    if any(failure(f) == "open" for f in found):
        return test.results[0]
    return test.sound if is_read and all(_is_sound(f) for f in found) else ""


def _short(test: BenchTest, found: Sequence[PartFacts], is_read: bool) -> str:
    if test.points.get("lifted"):
        if any(failure(f) == "short" and was_lifted(f) for f in found):
            return test.results[0]
        return test.sound if is_read else ""
    if any(reads_short(f) for f in found):
        return test.results[0]
    return test.sound if is_read else ""


def _junction(test: BenchTest, found: Sequence[PartFacts], is_read: bool) -> str:
    if test.points.get("lifted"):
        found = [f for f in found if was_lifted(f)] or found
        is_short = any(failure(f) == "short" and was_lifted(f) for f in found)
    else:
        is_short = any(reads_short(f) for f in found)
    if is_short:
        return test.results[0]
    if any(failure(f) == "open" for f in found):
        return test.results[1]
    return test.sound if is_read else ""


def _switch(test: BenchTest, found: Sequence[PartFacts], is_read: bool) -> str:
    """By ohms: at a meter's milliampere a winding beside a short drops next to nothing."""
    if any(_ohms_short(f) for f in found):
        return test.results[0]
    if any(failure(f) == "open" for f in found):
        return test.results[1]
    return test.sound if is_read else ""


def _ohms_short(facts: PartFacts) -> bool:
    ohms = [r.value for r in facts.readings if r.procedure is OHMS]
    return any(value < SHORT_OHM for value in ohms) if ohms else reads_short(facts)


def _bulk(test: BenchTest, found: Sequence[PartFacts], is_read: bool) -> str:
    """A dead short, some ohms as through a winding, or ohms that climb."""
    values = [
        r.value
        for f in found
        for r in f.readings
        if r.procedure is OHMS and r.condition is Condition.IN_CIRCUIT
    ]
    if any(value < SHORT_OHM for value in values):
        return test.results[0]
    if any(value < _LOW_OHM for value in values):
        return test.results[1]
    return test.sound if is_read and values else ""


def _low(test: BenchTest, found: Sequence[PartFacts], is_read: bool) -> str:
    wanted = Condition.LIFTED if test.points.get("lifted") else Condition.IN_CIRCUIT
    values = [
        r.value for f in found for r in f.readings if r.procedure is OHMS and r.condition is wanted
    ]
    if any(value < _LOW_OHM for value in values):
        return test.results[0]
    return test.sound if is_read and values else ""


def _seen(test: BenchTest, found: Sequence[PartFacts], _: bool) -> str:
    wanted = set(test.points["seen"].split())
    if any(wanted & set(f.seen) for f in found):
        return test.results[0]
    return test.sound if all(f.seen for f in found) else ""


_BY_PARTS: dict[str, Callable[[BenchTest, Sequence[PartFacts], bool], str]] = {
    "verdict": _verdict,
    "conducts": _conducts,
    "short": _short,
    "junction": _junction,
    "switch": _switch,
    "bulk": _bulk,
    "low": _low,
    "seen": _seen,
}


def _ground(case: CaseFile, test: BenchTest) -> Answered:
    side = CONDITIONS[test.points["ground"]]
    facts = [ground.sides[side] for ground in grounds(case)]
    if any(f.is_low and not math.isinf(f.ohm) for f in facts):
        return Answered(test.results[0], is_spent=False)
    is_read = bool(facts) and all(f.judgement for f in facts)
    return Answered(test.sound if is_read else "", is_spent=False)


def _rails(case: CaseFile, test: BenchTest) -> Answered:
    told = [judged for volts in rails(case) if (judged := loaded(volts.by_load))]
    patterns = {pattern.code for pattern in rail_patterns(case)}
    if patterns & {"all-low", "all-high"}:
        return Answered(test.results[0], is_spent=False)
    if any(judged.is_off for judged in told):
        return Answered(test.results[1], is_spent=False)
    is_read = bool(told) and len(told) == len(case.sheet.rails)
    return Answered(test.sound if is_read else "", is_spent=False)


def _output(case: CaseFile, test: BenchTest) -> Answered:
    """The rails that a regulator of the sheet holds, on dummy loads: no board pulls them down."""
    held = [v for v in rails(case) if v.rail.key in regulated(case)]
    told = [v.by_load[Condition.DUMMY][1] for v in held if Condition.DUMMY in v.by_load]
    if any(judged.is_off for judged in told):
        return Answered(test.results[0], is_spent=False)
    is_read = bool(told) and len(told) == len(held)
    return Answered(test.sound if is_read else "", is_spent=False)


def _harness(case: CaseFile, test: BenchTest) -> Answered:
    if any(pattern.code == "harness-drop" for pattern in rail_patterns(case)):
        return Answered(test.results[0], is_spent=False)
    both = any(
        {Place.SUPPLY, Place.FAR} <= {place for _, place in volts.by_place} for volts in rails(case)
    )
    return Answered(test.sound if both else "", is_spent=False)


_BY_UNIT: dict[str, Callable[[CaseFile, BenchTest], Answered]] = {
    "ground": _ground,
    "rails": _rails,
    "harness": _harness,
    "output": _output,
}
