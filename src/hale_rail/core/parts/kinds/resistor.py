"""Resistor: in circuit only an excess is proof."""

from __future__ import annotations

from hale_rail.core.parts.kinds.common import (
    NOT_SHORT,
    advising,
    concluded,
    looking_for,
    only_ohms,
)
from hale_rail.core.parts.markings import ResistorMarking
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.taken import PartReadings, Taken
from hale_rail.core.parts.verdicts import Action, Judgement, Reason, Verdict
from hale_rail.core.procedures import OHMS, Condition
from hale_rail.core.quantities import Unit, show

#: where no tolerance is marked
USUAL_TOLERANCE = (0.05, 0.05)


def judge(part: Part, readings: PartReadings) -> Judgement:
    """By its ohms against nominal and tolerance."""
    taken = readings.get(OHMS)
    if taken is None:
        return concluded([], readings)
    if part.value:
        return concluded([_against(part, part.value, taken)], readings)
    return concluded([Reason("noted", f"{show(taken.value, Unit.OHM)}: noted.")], readings)


def _against(part: Part, nominal: float, taken: Taken) -> Reason:
    text = show(taken.value, Unit.OHM)
    low_share, high_share = part.tolerance or USUAL_TOLERANCE
    low, high = nominal * (1 - low_share), nominal * (1 + high_share)
    band = f"{show(low, Unit.OHM)} to {show(high, Unit.OHM)}"
    if taken.value > high:
        change = "" if taken.lifted else "Lifted, it can only read more."
        return Reason("drifted", f"{text}: above {band}, drifted or open.", Verdict.FAILED, change)
    if taken.value >= low:
        verdict = Verdict.GOOD if taken.lifted else Verdict.UNPROVEN
        return Reason("in-tolerance", f"{text}: within {band}.", verdict, action=Action.LIFT)
    if taken.lifted:
        return Reason("drifted", f"{text}: below {band}.", Verdict.FAILED)
    text = f"{text} in circuit: below {band}, but a parallel path may do that."
    return Reason("parallel-path", text, Verdict.UNPROVEN, "Lift one leg.", Action.LIFT)


def expect(part: Part, _: Ask, __: Condition) -> str:
    """Its nominal ohms."""
    return f"about {show(part.value, Unit.OHM)}" if part.value else NOT_SHORT


KIND = PartKind(
    code="resistor",
    name="resistor",
    judge=judge,
    asks=only_ohms,
    look_for=looking_for("Burnt, bleached bands, stood off its board."),
    expect=expect,
    advice=advising("Same value and power or more; a fusible one stays fusible."),
    letters=("R",),
    value_unit=Unit.OHM,
    marking=ResistorMarking,
    findings=("burnt", "discoloured", "crack", "joint", "repaired"),
    is_series=False,
)
