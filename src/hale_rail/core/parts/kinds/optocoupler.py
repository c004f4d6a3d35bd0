"""Optocoupler: the LED drops about a volt, the transistor side blocks while the LED is dark."""

from __future__ import annotations

from hale_rail.core.parts.junctions import LED_V, blocking_reason, junction_reason, pair_reasons
from hale_rail.core.parts.kinds.common import (
    SEMICONDUCTOR,
    advising,
    concluded,
    looking_for,
)
from hale_rail.core.parts.markings import JunctionMarking
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.taken import PartReadings
from hale_rail.core.parts.verdicts import Judgement, Reason
from hale_rail.core.procedures import DIODE, Condition
from hale_rail.core.targets import Pair

LED, OUTPUT = Pair("A", "K"), Pair("C", "E")
PAIRS = (LED, OUTPUT)
_ASKS = tuple(Ask(DIODE, way) for pair in PAIRS for way in (pair, pair.turned))


def state(pair: Pair, readings: PartReadings) -> Reason:
    """What one pair's readings say."""
    ways = readings.both_ways(DIODE, pair)
    return junction_reason(LED_V, *ways) if pair == LED else blocking_reason(*ways)


def judge(_: Part, readings: PartReadings) -> Judgement:
    """LED and transistor side, each by itself."""
    sound = "The LED drops about a volt, the transistor side blocks."
    return concluded(pair_reasons(PAIRS, readings, state, sound), readings)


def expect(_: Part, ask: Ask, __: Condition) -> str:
    """The LED's drop one way; all else blocks."""
    low, high = LED_V
    return f"{low:g} to {high:g} V" if ask.pair == LED else "OL"


KIND = PartKind(
    code="optocoupler",
    name="optocoupler",
    judge=judge,
    asks=lambda _: _ASKS,
    look_for=looking_for("Cracked body, ringed joints, dirt that bridges its two sides."),
    expect=expect,
    advice=advising(SEMICONDUCTOR + " Same isolation voltage and current ratio."),
    letters=("PC", "OK", "OC"),
    marking=JunctionMarking,
    pairs=PAIRS,
    blocking=frozenset({OUTPUT, OUTPUT.turned}),
    is_series=False,
)
