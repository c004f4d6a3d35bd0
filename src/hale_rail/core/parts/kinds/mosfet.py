"""MOSFET: its body diode conducts one way, its gate is insulated."""

from __future__ import annotations

from hale_rail.core.parts.conduction import no_short_reason
from hale_rail.core.parts.junctions import (
    SILICON_V,
    blocking_reason,
    junction_reason,
    pair_reasons,
)
from hale_rail.core.parts.kinds.common import (
    NOT_SHORT,
    SEMICONDUCTOR,
    advising,
    concluded,
    junction_asks,
    looking_for,
)
from hale_rail.core.parts.markings import JunctionMarking
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.taken import PartReadings
from hale_rail.core.parts.verdicts import Judgement, Reason
from hale_rail.core.procedures import DIODE, OHMS, Condition
from hale_rail.core.targets import Pair

BODY, ACROSS = Pair("S", "D"), Pair("D", "S")
GATE = (Pair("G", "S"), Pair("G", "D"))
PAIRS = (BODY, *GATE)


def state(pair: Pair, readings: PartReadings) -> Reason:
    """What one pair's readings say."""
    ways = readings.both_ways(DIODE, pair)
    return junction_reason(SILICON_V, *ways) if pair == BODY else blocking_reason(*ways)


def judge(_: Part, readings: PartReadings) -> Judgement:
    """Any pair shorted fails it."""
    taken = readings.get(OHMS, ACROSS)
    reasons = [no_short_reason(taken, ACROSS.words)] if taken else []
    sound = "The body diode conducts one way, the gate is insulated."
    return concluded([*reasons, *pair_reasons(PAIRS, readings, state, sound)], readings)


def expect(_: Part, ask: Ask, __: Condition) -> str:
    """The body diode's drop one way; all else blocks."""
    if ask.procedure is OHMS:
        return NOT_SHORT
    low, high = SILICON_V
    return f"{low:g} to {high:g} V" if ask.pair == BODY else "OL"


KIND = PartKind(
    code="mosfet",
    name="MOSFET",
    judge=judge,
    asks=junction_asks(ACROSS, *PAIRS),
    look_for=looking_for("Cracked case, its screw loose, insulation under it; ringed joints."),
    expect=expect,
    advice=advising(SEMICONDUCTOR + " Check its gate resistor and drive before power."),
    marking=JunctionMarking,
    pairs=PAIRS,
    blocking=frozenset(way for pair in GATE for way in (pair, pair.turned)),
    across=ACROSS,
    passes_input=True,
)
