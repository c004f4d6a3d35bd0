"""Resistor: in circuit only an excess is proof."""

from __future__ import annotations

from hale_rail.core.parts.conduction import band_reason
from hale_rail.core.parts.kinds.common import (
    NOT_SHORT,
    advising,
    concluded,
    looking_for,
    only_ohms,
)
from hale_rail.core.parts.markings import ResistorMarking, Tolerance
from hale_rail.core.parts.measured import PartReadings
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.part import Ask, Judge, Part, PartKind
from hale_rail.core.parts.ratings import Comparison, Rule, at_least, minded
from hale_rail.core.parts.verdicts import Judgement, Reason, Verdict
from hale_rail.core.procedures import OHMS, Condition
from hale_rail.core.quantities import Unit, show

#: where no tolerance is marked, on a unit of the period
USUAL_TOLERANCE = (0.10, 0.10)


def judging(usual: Tolerance) -> Judge:
    """A judgement by ohms against nominal and tolerance; `usual` where none is marked."""

    def judge(part: Part, readings: PartReadings) -> Judgement:
        value = readings.get(OHMS)
        if value is None:
            return concluded([], readings)
        if part.value:
            low, high = band_ohm(part, part.value, usual)
            return concluded([band_reason(value, low, high, Verdict.FAILED)], readings)
        return concluded([Reason("noted", f"{show(value.value, Unit.OHM)}: noted.")], readings)

    return judge


def band_ohm(part: Part, nominal: float, usual: Tolerance = USUAL_TOLERANCE) -> tuple[float, float]:
    """Ohms of a sound one, lower and upper."""
    low, high = part.tolerance or usual
    return nominal * (1 - low), nominal * (1 + high)


def expect(part: Part, _: Ask, __: Condition) -> str:
    """Its nominal ohms."""
    return f"about {show(part.value, Unit.OHM)}" if part.value else NOT_SHORT


KIND = PartKind(
    code="resistor",
    name="resistor",
    model="conductor",
    judge=judging(USUAL_TOLERANCE),
    asks=only_ohms,
    look_for=looking_for("Burnt, bleached bands, stood off its board."),
    expect=expect,
    advice=advising("Same value and power or more; a fusible one stays fusible."),
    letters=("R",),
    value_unit=Unit.OHM,
    marking=ResistorMarking,
    findings=("burnt", "discoloured", "crack", "joint", "repaired"),
    rules=(
        Rule("value", Comparison.IN_BAND, is_needed=True, label="resistance"),
        at_least("watt"),
        minded("style", strict=("fusible",)),
        Rule("volt", Comparison.AT_LEAST, is_silent=True),
    ),
    is_series=False,
    fails=failing(FaultMode.OPEN, FaultMode.HIGH),
)
