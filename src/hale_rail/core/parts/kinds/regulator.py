"""Fixed regulator: no short from input to output, and the right output under load."""

from __future__ import annotations

from hale_rail.core.parts.conduction import no_short_reason
from hale_rail.core.parts.kinds.common import (
    NOT_SHORT,
    SEMICONDUCTOR,
    advising,
    concluded,
    looking_for,
)
from hale_rail.core.parts.markings import JunctionMarking
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.taken import PartReadings
from hale_rail.core.parts.verdicts import Judgement, Reason, Verdict
from hale_rail.core.procedures import OHMS, Condition
from hale_rail.core.targets import Pair

ACROSS = Pair("IN", "OUT")


def judge(_: Part, readings: PartReadings) -> Judgement:
    """Cold by its ohms from input to output, live by its rail."""
    taken = readings.get(OHMS, ACROSS)
    reasons = [no_short_reason(taken, "input to output")] if taken else []
    if readings.output_right:
        text = "Its rail reads inside the band under load."
        reasons.append(Reason("output-right", text, Verdict.GOOD))
    return concluded(reasons, readings)


def expect(_: Part, __: Ask, ___: Condition) -> str:
    """No short."""
    return NOT_SHORT


KIND = PartKind(
    code="regulator",
    name="regulator",
    judge=judge,
    asks=lambda _: (Ask(OHMS, ACROSS),),
    look_for=looking_for("Heatsink fast, ringed joints, brown board."),
    expect=expect,
    advice=advising(SEMICONDUCTOR),
    letters=("U", "IC", "VR"),
    marking=JunctionMarking,
    across=ACROSS,
    passes_input=True,
)
