"""Fixed regulator: no short from input or output to anything, and the right output under load.

Between output and ground stands its substrate's diode, which conducts one way round.
"""

from __future__ import annotations

import math

from msgspec.structs import replace

from hale_rail.core.parts.conduction import no_short_reason
from hale_rail.core.parts.junctions import short_reason
from hale_rail.core.parts.kinds.common import (
    NOT_SHORT,
    SEMICONDUCTOR,
    advising,
    concluded,
    looking_for,
)
from hale_rail.core.parts.markings import JunctionMarking
from hale_rail.core.parts.measured import PartReadings
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.ratings import CASE, OTHER_TYPE, at_least, same
from hale_rail.core.parts.verdicts import Judgement, Reason, Verdict
from hale_rail.core.procedures import DIODE, OHMS, Condition
from hale_rail.core.quantities import Unit, show
from hale_rail.core.targets import Pair

ACROSS, OUTPUT, SUBSTRATE = Pair("IN", "OUT"), Pair("OUT", "GND"), Pair("GND", "OUT")
#: volts that the substrate's diode drops
SUBSTRATE_V = (0.40, 0.90)


def judge(_: Part, readings: PartReadings) -> Judgement:
    """Cold by its ohms from input to output, live by its rail."""
    value = readings.get(OHMS, ACROSS)
    reasons = [no_short_reason(value, "input to output")] if value else []
    to_ground = readings.get(OHMS, OUTPUT)
    reasons += [no_short_reason(to_ground, "output to ground")] if to_ground else []
    reasons += _substrate(readings)
    if readings.output_right:
        text = "Its rail reads inside the band under load."
        reasons.append(Reason("output-right", text, Verdict.GOOD))
    return concluded(reasons, readings)


def _substrate(readings: PartReadings) -> list[Reason]:
    ways = readings.both_ways(DIODE, SUBSTRATE)
    short = short_reason(ways)
    if short:
        return [replace(short, text=f"Output to ground: {short.text[:1].lower()}{short.text[1:]}")]
    low, high = SUBSTRATE_V
    shown = next((t for t in ways if t and low <= t.value <= high), None)
    if shown:
        text = f"{show(shown.value, Unit.VOLT)} between ground and output: its substrate's diode."
        return [Reason("substrate", text)]
    if all(t is not None and math.isinf(t.value) and t.lifted for t in ways):
        text = "OL both ways between ground and output, lifted: its substrate's diode is open."
        return [Reason("substrate-open", text, Verdict.FAILED)]
    return []


def expect(_: Part, ask: Ask, __: Condition) -> str:
    """No short; the substrate's diode one way."""
    low, high = SUBSTRATE_V
    return f"{low:g} to {high:g} V one way" if ask.procedure is DIODE else NOT_SHORT


KIND = PartKind(
    code="regulator",
    name="regulator",
    model="regulator",
    judge=judge,
    asks=lambda _: (Ask(OHMS, ACROSS),),
    extras=lambda _: (Ask(OHMS, OUTPUT), Ask(DIODE, SUBSTRATE), Ask(DIODE, OUTPUT)),
    look_for=looking_for("Heatsink fast, ringed joints, brown board."),
    expect=expect,
    advice=advising(SEMICONDUCTOR),
    letters=("U", "IC", "VR"),
    is_turned=True,
    marking=JunctionMarking,
    across=ACROSS,
    rules=(same("volt", 0.02, label="output"), at_least("ampere"), CASE, OTHER_TYPE),
    passes_input=True,
    fails=failing(FaultMode.SHORT, FaultMode.OPEN, FaultMode.DEAD, FaultMode.DRIFT),
)
