"""The state of the diagnosis's tests in a case: which points are unread, and what was found."""

from __future__ import annotations

from collections.abc import Sequence

from hale_rail.case.diagnosis.ripple_facts import is_recorded
from hale_rail.case.file import CaseFile
from hale_rail.case.parts.parts import parts
from hale_rail.case.parts.proven import failure, reads_short, was_lifted
from hale_rail.case.parts.stale_readings import stale_keys
from hale_rail.case.shorts.grounds import REVERSED, grounds
from hale_rail.case.walks import asked_back
from hale_rail.core.diagnosis.bench import OF_LOOKS, OF_PARTS, parts_of, points_at, points_of
from hale_rail.core.diagnosis.blocks.block import UnitSheet
from hale_rail.core.diagnosis.case_state import BenchTestState
from hale_rail.core.diagnosis.knowledge import BenchTest
from hale_rail.core.parts.kinds import resistor
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import CAPACITANCE, CONDITIONS, ESR, GROUND, OHMS, Condition, Point
from hale_rail.core.supply.sheet import TRUNK
from hale_rail.core.targets import rail_target
from hale_rail.store.looks import LOOKS

_SHARED = (ESR, CAPACITANCE, OHMS)


def state_of(case: CaseFile, unit: UnitSheet, test: BenchTest, text: str) -> BenchTestState:
    """The state of a test; `text`: the result that a person said, or ""."""
    if text:
        is_bad = text != test.sound
        return BenchTestState(test, (), 0.0, is_bad, not is_bad, is_done=True)
    if test.reads == OF_LOOKS:
        return _of_looks(case, unit, test)
    if test.reads == OF_PARTS:
        return _of_parts(case, unit, test)
    if not test.reads or test.reads == "ripple":
        return BenchTestState(test, is_done=is_recorded(case, test))
    points = (*points_of(unit, test, ()), *_turned(case, test))
    unread = [p for p in points if not is_read(case, p)]
    is_bad = test.reads == "ground" and _is_low(case, test)
    is_done = not points or not unread
    share = len(unread) / max(len(points), 1)
    return BenchTestState(test, (), share, is_bad, is_done and not is_bad, is_done)


def _of_looks(case: CaseFile, unit: UnitSheet, test: BenchTest) -> BenchTestState:
    own = parts_of(unit, test)
    left = tuple(p for p in own if not case.rows.newest(LOOKS).get(p.id))
    share = len(left) / max(len(own), 1)
    return BenchTestState(test, left, share, is_done=not left)


def _of_parts(case: CaseFile, unit: UnitSheet, test: BenchTest) -> BenchTestState:
    own = parts_of(unit, test)
    if not case.sheet.parts:
        return BenchTestState(test, own)
    left = tuple(p for p in own if _points_left(case, unit, test, p))
    known = [parts(case)[p.id] for p in own if p.id in parts(case)]
    waiting = {p.id for p in left} if stale_keys(case) else set()
    told = [f for f in known if f.part.id not in waiting]
    is_bad = any(failure(f) in ("short", "open") or reads_short(f) for f in told)
    share = len(left) / max(len(own), 1)
    hidden = frozenset(p.id for p in left if _is_hidden(case, p))
    is_good = not left and not is_bad
    return BenchTestState(test, left, share, is_bad, is_good, is_done=not left, hidden=hidden)


def _points_left(case: CaseFile, unit: UnitSheet, test: BenchTest, part: Part) -> list[Point]:
    points = [_not_hidden(case, p) for p in points_at(unit, test, part)]
    return [p for p in points if not is_read(case, p)]


def _turned(case: CaseFile, test: BenchTest) -> list[Point]:
    """Rails that read low, with the leads reversed: a second witness against a slip."""
    if test.reads != "ground":
        return []
    side = CONDITIONS[test.points["ground"]]
    low = [g.rail.key for g in grounds(case) if g.sides[side].usual and g.sides[side].is_low]
    return [Point(rail_target(key), GROUND, REVERSED[side]) for key in low]


def _is_low(case: CaseFile, test: BenchTest) -> bool:
    side = CONDITIONS[test.points["ground"]]
    known = [ground.sides[side] for ground in grounds(case)]
    stale = stale_keys(case)
    return any(
        g.is_low and (read := g.usual or g.reversed) and read.key not in stale for g in known
    )


def asks(case: CaseFile, unit: UnitSheet, test: BenchTest, of: Sequence[Part]) -> list[Point]:
    """The points that answer a test at these parts and are unread; none where eye or hand does."""
    if not case.sheet.parts and test.reads == OF_PARTS:
        return []
    wanted = [_not_hidden(case, p) for p in points_of(unit, test, of)]
    wanted += _turned(case, test)
    return [p for p in wanted if not is_read(case, p)]


def _not_hidden(case: CaseFile, point: Point) -> Point:
    """A resistor that what is beside it hides is asked for lifted."""
    part = case.sheet.part(point.part_id)
    if part is not None and _is_hidden(case, part):
        return part.point(point.procedure, Condition.LIFTED, point.target.pair)
    return point


def _is_hidden(case: CaseFile, part: Part) -> bool:
    """True for a resistor that reads low in circuit: only lifted does it say anything."""
    facts = parts(case).get(part.id)
    if facts is None or part.kind is not resistor.KIND:
        return False
    is_lifted = was_lifted(facts)
    return is_lifted or any(r.code == "parallel-path" for r in facts.judgement.reasons)


def is_read(case: CaseFile, point: Point) -> bool:
    """True for a point that was read at the part that is there now."""
    if point.part_id is None:
        return point.key in case.rows.standing and point.key not in stale_keys(case)
    if point.key in asked_back(case) or point.key in stale_keys(case):
        return False
    facts = parts(case)[point.part_id]
    is_shared = point.condition is Condition.IN_CIRCUIT and point.procedure in _SHARED
    group = [parts(case)[p.id] for p in facts.mates] if is_shared else [facts]
    if point.condition is Condition.IN_CIRCUIT and was_lifted(facts) and facts.part.line == TRUNK:
        group = [facts]
    conditions = (point.condition, Condition.LIFTED)
    return any(
        r.procedure is point.procedure
        and r.condition in conditions
        and r.target.pair == point.target.pair
        for f in group
        for r in f.readings
    )
