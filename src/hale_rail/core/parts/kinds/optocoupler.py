"""Optocoupler: the LED drops about a volt, the transistor side blocks while the LED is dark.

Good only once light was seen to pass: the transistor side conducts while the LED is fed.
"""

from __future__ import annotations

from hale_rail.core.parts.junctions import LED_V
from hale_rail.core.parts.kinds.common import (
    SEMICONDUCTOR,
    advising,
    looking_for,
)
from hale_rail.core.parts.kinds.pairs import by_pairs, expecting, one_junction, pair_ohms
from hale_rail.core.parts.markings import JunctionMarking
from hale_rail.core.parts.measured import MeasuredValue, PartReadings
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.verdicts import (
    Action,
    Judgement,
    Reason,
    Verdict,
    conclude,
    without_good,
)
from hale_rail.core.procedures import DIODE, TRANSFER, Condition
from hale_rail.core.quantities import Unit, show
from hale_rail.core.targets import Pair

LED, OUTPUT = Pair("A", "K"), Pair("C", "E")
PAIRS = (LED, OUTPUT)
_ASKS = tuple(Ask(DIODE, way) for pair in PAIRS for way in (pair, pair.turned))


#: ohms of the output while the LED has its milliamperes: up to the first it conducts, above the
#: second it does not
CONDUCTS_OHM, DARK_OHM = 10e3, 100e3
_BY_JUNCTIONS = by_pairs(
    PAIRS,
    None,
    one_junction(LED, LED_V),
    "The LED drops about a volt, the transistor side blocks.",
)
_JUNCTION = expecting((LED,), LED_V)


def judge(part: Part, readings: PartReadings) -> Judgement:
    """By its junctions, and by what its output does while the LED is fed."""
    transfer = readings.get(TRANSFER)
    judgement = _BY_JUNCTIONS(part, readings)
    reasons = without_good(judgement.reasons)
    if transfer is None and judgement.verdict is Verdict.GOOD:
        text = "Its junctions are sound; whether light passes was not read."
        change = "Feed the LED some milliamperes through a resistor, read its output's ohms."
        reasons.append(Reason("transfer-unread", text, Verdict.UNPROVEN, change, Action.MEASURE))
    elif transfer is not None:
        reasons = [r for r in judgement.reasons if r.code != "not-measured"]
        reasons += _transfer(transfer, judgement.verdict is Verdict.GOOD)
    return conclude(reasons)


def _transfer(value: MeasuredValue, is_sound: bool) -> list[Reason]:
    text = f"{show(value.value, Unit.OHM)} at its output while the LED is fed"
    if value.value > DARK_OHM:
        return [Reason("no-transfer", f"{text}: no light passes.", Verdict.FAILED)]
    if value.value > CONDUCTS_OHM:
        transfer = f"{text}: weak, sound below {show(CONDUCTS_OHM, Unit.OHM)}."
        return [Reason("weak-transfer", transfer, Verdict.WORN)]
    if is_sound:
        return [Reason("transfer", f"{text}: it conducts.", Verdict.GOOD)]
    return [Reason("transfer", f"{text}: it conducts; read that it blocks in the dark.")]


def expect(part: Part, ask: Ask, condition: Condition) -> str:
    """The LED's drop, OL at its output in the dark, some ohms there while it is fed."""
    if ask.procedure is TRANSFER:
        return f"below {show(CONDUCTS_OHM, Unit.OHM)} while the LED is fed"
    return _JUNCTION(part, ask, condition)


KIND = PartKind(
    code="optocoupler",
    name="optocoupler",
    model="optocoupler",
    judge=judge,
    asks=lambda _: (*_ASKS, Ask(TRANSFER)),
    extras=pair_ohms(PAIRS, None),
    look_for=looking_for("Cracked body, ringed joints, dirt that bridges its two sides."),
    expect=expect,
    advice=advising(SEMICONDUCTOR + " Same isolation voltage and current ratio."),
    letters=("PC", "OK", "OC"),
    marking=JunctionMarking,
    pairs=PAIRS,
    blocking=frozenset({OUTPUT, OUTPUT.turned}),
    is_series=False,
    fails=failing(FaultMode.OPEN, FaultMode.SHORT),
)
