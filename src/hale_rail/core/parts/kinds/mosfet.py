"""MOSFET: its body diode conducts one way, its gate is insulated."""

from __future__ import annotations

from hale_rail.core.parts.junctions import SILICON_V, blocking_reason
from hale_rail.core.parts.kinds.common import (
    SEMICONDUCTOR,
    advising,
    junction_asks,
    looking_for,
)
from hale_rail.core.parts.kinds.pairs import by_pairs, expecting, one_junction, pair_ohms
from hale_rail.core.parts.markings import JunctionMarking
from hale_rail.core.parts.measured import PartReadings
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.part import Part, PartKind
from hale_rail.core.parts.ratings import RATED_TYPE
from hale_rail.core.parts.verdicts import Action, Judgement, Reason, Verdict, conclude
from hale_rail.core.procedures import DIODE, OHMS
from hale_rail.core.targets import Pair

BODY, ACROSS = Pair("S", "D"), Pair("D", "S")
GATE = (Pair("G", "S"), Pair("G", "D"))
PAIRS = (BODY, *GATE)


_judge_pairs = by_pairs(
    PAIRS,
    ACROSS,
    one_junction(BODY, SILICON_V),
    "The body diode conducts one way, the gate is insulated.",
)
#: what says that drain and source conduct both ways
_LOW = ("shorted", "both-ways")


def judge(part: Part, readings: PartReadings) -> Judgement:
    """By its pairs; a channel that conducts both ways may be held on by a charged gate."""
    judgement = _judge_pairs(part, readings)
    if any(_is_gate_bad(pair, readings) for pair in GATE) or _was_read_again(readings):
        return judgement
    return conclude([_perhaps_charged(reason) for reason in judgement.reasons])


def _is_gate_bad(pair: Pair, readings: PartReadings) -> bool:
    return blocking_reason(*readings.both_ways(DIODE, pair)).argues is Verdict.FAILED


def _was_read_again(readings: PartReadings) -> bool:
    """True when drain to source was read a second time, the gate shorted to the source."""
    ways = [*readings.both_ways(DIODE, BODY), readings.get(OHMS, ACROSS)]
    return any(taken.again for taken in ways if taken)


def _perhaps_charged(reason: Reason) -> Reason:
    if reason.code not in _LOW or reason.argues is not Verdict.FAILED:
        return reason
    change = "Short gate to source, read drain to source again."
    text = f"{reason.text.rstrip('.')}; a charged gate may do that."
    return Reason("charged-gate", text, Verdict.UNPROVEN, change, Action.MEASURE)


KIND = PartKind(
    code="mosfet",
    name="MOSFET",
    model="mosfet",
    judge=judge,
    asks=junction_asks(ACROSS, *PAIRS),
    extras=pair_ohms(PAIRS, ACROSS),
    look_for=looking_for("Cracked case, its screw loose, insulation under it; ringed joints."),
    expect=expecting((BODY,), SILICON_V),
    advice=advising(SEMICONDUCTOR + " Check its gate resistor and drive before power."),
    marking=JunctionMarking,
    pairs=PAIRS,
    blocking=frozenset(way for pair in GATE for way in (pair, pair.turned)),
    across=ACROSS,
    passes_input=True,
    rules=RATED_TYPE,
    fails=failing(FaultMode.SHORT, FaultMode.OPEN),
)
