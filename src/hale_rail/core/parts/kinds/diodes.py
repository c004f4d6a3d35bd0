"""Two-pin rectifiers: the judgement that diode, Schottky and zener share."""

from __future__ import annotations

from collections.abc import Callable

from hale_rail.core.parts.conduction import no_short_reason
from hale_rail.core.parts.junctions import Band, junction_reason
from hale_rail.core.parts.kinds.common import (
    NOT_SHORT,
    SEMICONDUCTOR,
    advising,
    concluded,
    junction_asks,
    looking_for,
)
from hale_rail.core.parts.markings import JunctionMarking, Marking
from hale_rail.core.parts.measured import PartReadings
from hale_rail.core.parts.modes import FaultMode, never
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.ratings import TYPE_ALONE, Rule
from hale_rail.core.parts.verdicts import Judgement
from hale_rail.core.procedures import DIODE, OHMS, Condition
from hale_rail.core.quantities import Unit
from hale_rail.core.targets import Pair

JUNCTION = Pair("A", "K")


def rectifier(
    code: str,
    name: str,
    band: Callable[[Part], Band],
    look_for: str,
    stays: str,
    letters: tuple[str, ...] = (),
    marking: type[Marking] = JunctionMarking,
    value_unit: Unit | None = None,
    rules: tuple[Rule, ...] = TYPE_ALONE,
    fails: Callable[[Part], tuple[FaultMode, ...]] = never,
    model: str = "junction",
) -> PartKind:
    """A kind of one junction, anode to cathode; `band` gives its sound forward drop in volts."""

    def judge(part: Part, readings: PartReadings) -> Judgement:
        value = readings.get(OHMS)
        reasons = [no_short_reason(value, "across it")] if value else []
        ways = readings.both_ways(DIODE, JUNCTION)
        if any(ways):
            reasons.append(junction_reason(band(part), *ways, is_new=readings.is_new))
        return concluded(reasons, readings)

    def expect(part: Part, ask: Ask, _: Condition) -> str:
        if ask.procedure is not DIODE:
            return NOT_SHORT
        low, high = band(part)
        return f"{low:g} to {high:g} V" if ask.pair == JUNCTION else "OL"

    return PartKind(
        code=code,
        name=name,
        model=model,
        judge=judge,
        asks=junction_asks(None, JUNCTION),
        look_for=looking_for(look_for),
        expect=expect,
        advice=advising(f"{SEMICONDUCTOR} {stays}".strip()),
        letters=letters,
        marking=marking,
        value_unit=value_unit,
        pairs=(JUNCTION,),
        rules=rules,
        fails=fails,
    )
