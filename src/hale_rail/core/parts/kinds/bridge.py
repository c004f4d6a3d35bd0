"""Bridge rectifier: four junctions, each judged by itself; one open is a missing diode."""

from __future__ import annotations

from dataclasses import replace

from hale_rail.core.parts.conduction import no_short_reason
from hale_rail.core.parts.junctions import BRIDGE_V, junction_reason, pair_reasons
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

#: the four junctions in their conducting way
PAIRS = (Pair("~1", "+"), Pair("~2", "+"), Pair("-", "~1"), Pair("-", "~2"))
ACROSS = Pair("+", "-")


def state(pair: Pair, readings: PartReadings) -> Reason:
    """What one junction's readings say."""
    return junction_reason(BRIDGE_V, *readings.both_ways(DIODE, pair))


def judge(_: Part, readings: PartReadings) -> Judgement:
    """All four junctions sound, or which is not."""
    taken = readings.get(OHMS, ACROSS)
    reasons = [no_short_reason(taken, ACROSS.words)] if taken else []
    all_sound = "All four junctions conduct one way and block the other."
    for reason in pair_reasons(PAIRS, readings, state, all_sound):
        if reason.code == "junction-open":
            name = reason.text.partition(":")[0]
            text = f"{name} is open both ways: a missing diode, half-wave."
            reasons.append(replace(reason, text=text))
        else:
            reasons.append(reason)
    return concluded(reasons, readings)


def expect(_: Part, ask: Ask, __: Condition) -> str:
    """One drop in the conducting way, OL the other."""
    if ask.procedure is not DIODE:
        return NOT_SHORT
    low, high = BRIDGE_V
    return f"{low:g} to {high:g} V" if ask.pair in PAIRS else "OL"


KIND = PartKind(
    code="bridge",
    name="bridge",
    judge=judge,
    asks=junction_asks(ACROSS, *PAIRS),
    look_for=looking_for("Cracked body, brown board, rings in the solder round its legs."),
    expect=expect,
    advice=advising(SEMICONDUCTOR),
    letters=("BR", "DB"),
    marking=JunctionMarking,
    pairs=PAIRS,
    across=ACROSS,
)
