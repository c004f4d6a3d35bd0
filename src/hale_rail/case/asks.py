"""The points that answer a test of the diagnosis, and which of them are not read yet."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from hale_rail.case.file import CaseFile
from hale_rail.case.nodes import PartFacts
from hale_rail.case.parts import parts
from hale_rail.case.rails import rails
from hale_rail.case.tested_parts import (
    OF_UNIT,
    loaded,
    parts_of_test,
    reads_short,
    regulated,
    was_lifted,
)
from hale_rail.case.walks import asked_back
from hale_rail.core.diagnosis.knowledge import BenchTest
from hale_rail.core.parts.kinds import capacitor, resistor
from hale_rail.core.parts.part import Ask, Part
from hale_rail.core.procedures import (
    CAPACITANCE,
    CONDITIONS,
    DIODE,
    ESR,
    GROUND,
    OHMS,
    VOLTS,
    Condition,
    Point,
)
from hale_rail.core.supply.sheet import TRUNK
from hale_rail.core.targets import Place, rail_target


def asks(case: CaseFile, test: BenchTest) -> list[Point]:
    """The points that answer a test and are not read yet; none where the eye or the hand does."""
    reads = test.points.get("reads", "")
    if reads in OF_UNIT:
        wanted: Iterable[Point] = _of_unit(case, test)
    elif reads == "seen":
        wanted = ()
    else:
        wanted = _of_parts(case, test)
    return [point for point in wanted if not _is_read(case, point)]


def _is_read(case: CaseFile, point: Point) -> bool:
    """True for a point that was read at the part that stands there now."""
    if point.part_id is None:
        return point.key in case.rows.standing
    if point.key in asked_back(case):
        return False
    facts = parts(case)[point.part_id]
    group = [parts(case)[p.id] for p in facts.mates] if _is_shared(point) else [facts]
    return any(
        r.procedure is point.procedure
        and r.condition is point.condition
        and r.target.pair == point.target.pair
        for f in group
        for r in f.readings
    )


def _is_shared(point: Point) -> bool:
    """True for what is read across a whole bank."""
    return point.condition is Condition.IN_CIRCUIT and point.procedure in (ESR, CAPACITANCE, OHMS)


def _of_unit(case: CaseFile, test: BenchTest) -> list[Point]:
    keys = [rail.key for rail in case.sheet.rails]
    if test.points["reads"] == "ground":
        side = CONDITIONS[test.points["ground"]]
        return [Point(rail_target(key), GROUND, side) for key in keys]
    if test.points["reads"] == "output":
        keys = [key for key in keys if key in regulated(case)]
    if test.points["reads"] in ("rails", "output"):
        return [Point(rail_target(key), VOLTS, Condition.DUMMY) for key in keys]
    places = (Place.SUPPLY, Place.FAR)
    return [
        Point(rail_target(key, place), VOLTS, Condition.MACHINE) for key in keys for place in places
    ]


def _of_parts(case: CaseFile, test: BenchTest) -> list[Point]:
    found = parts_of_test(case, test)
    is_lifted = bool(test.points.get("lifted"))
    if is_lifted:
        found = to_lift(case, found)
    wanted: dict[str, Point] = {}
    for facts in found:
        hides = test.points["reads"] == "verdict" and _hides(facts)
        condition = Condition.LIFTED if is_lifted or hides else Condition.IN_CIRCUIT
        part = facts.part if is_lifted else facts.mates[0]
        for ask in _asks_of(test.points, part, len(facts.mates) if not is_lifted else 1):
            point = part.point(ask.procedure, condition, ask.pair)
            wanted[point.key] = point
    return list(wanted.values())


def _hides(facts: PartFacts) -> bool:
    """True for a resistor that what stands beside it hides: only lifted does it say anything."""
    is_resistor = facts.part.kind is resistor.KIND
    return is_resistor and any(r.code == "parallel-path" for r in facts.judgement.reasons)


def to_lift(case: CaseFile, found: list[PartFacts]) -> list[PartFacts]:
    """What is worth lifting: what reads short, else what stands on a rail that is off, else all."""
    off = {v.rail.key for v in rails(case) if (told := loaded(v.by_load)) and told.is_off}
    on_off = [f for f in found if f.part.line in off]
    return [f for f in found if reads_short(f) or was_lifted(f)] or on_off or found


def _asks_of(points: Mapping[str, str], part: Part, mates: int) -> list[Ask]:
    """What a test reads at one part."""
    reads, kind = points["reads"], part.kind
    if points.get("procedure") == OHMS.code or reads in ("low", "bulk"):
        return [Ask(OHMS)]
    every = list(kind.asks(part))
    if reads == "junction":
        return [ask for ask in every if ask.procedure is DIODE]
    if reads == "verdict" and kind is capacitor.KIND:
        usual = [ask for ask in every if ask.procedure in (ESR, CAPACITANCE)]
        # a shorted one reads little at either: where no rail to ground tells, its ohms do
        if part.line == TRUNK and part.role != "bulk":
            return [*usual, Ask(OHMS)]
        return usual if mates > 1 else usual[:1]
    if reads == "conducts":
        return list(part.all_asks[:1])
    if reads == "short":
        return every[:1]
    return every
