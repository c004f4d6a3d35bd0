"""Crowbar SCR: the gate is a junction, anode and cathode block; shorted it holds its rail low."""

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

GATE, ACROSS = Pair("G", "K"), Pair("A", "K")
PAIRS = (GATE, ACROSS)


def state(pair: Pair, readings: PartReadings) -> Reason:
    """What one pair's readings say."""
    ways = readings.both_ways(DIODE, pair)
    return junction_reason(SILICON_V, *ways) if pair == GATE else blocking_reason(*ways)


def judge(_: Part, readings: PartReadings) -> Judgement:
    """Shorted from anode to cathode it has failed, or fired."""
    taken = readings.get(OHMS, ACROSS)
    reasons = [no_short_reason(taken, ACROSS.words)] if taken else []
    sound = "The gate is a junction, anode to cathode blocks."
    return concluded([*reasons, *pair_reasons(PAIRS, readings, state, sound)], readings)


def expect(_: Part, ask: Ask, __: Condition) -> str:
    """The gate's drop one way; all else blocks."""
    if ask.procedure is OHMS:
        return NOT_SHORT
    low, high = SILICON_V
    return f"{low:g} to {high:g} V" if ask.pair == GATE else "OL"


KIND = PartKind(
    code="scr",
    name="crowbar SCR",
    judge=judge,
    asks=junction_asks(ACROSS, *PAIRS),
    look_for=looking_for("Cracked case, ringed joints; it fired for a reason."),
    expect=expect,
    advice=advising(SEMICONDUCTOR + " Find what fired it before power."),
    letters=("SCR", "TY"),
    marking=JunctionMarking,
    pairs=PAIRS,
    blocking=frozenset({ACROSS, ACROSS.turned}),
    across=ACROSS,
    map_word="crowbar",
    is_series=False,
)
