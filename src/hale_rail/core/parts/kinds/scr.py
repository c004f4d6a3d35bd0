"""Crowbar SCR: the gate is a junction, anode and cathode block; shorted it holds its rail low."""

from __future__ import annotations

from hale_rail.core.parts.junctions import (
    SHORT_BESIDE_RESISTORS_V,
    SILICON_V,
    blocking_reason,
    junction_reason,
)
from hale_rail.core.parts.kinds.common import (
    SEMICONDUCTOR,
    advising,
    junction_asks,
    looking_for,
)
from hale_rail.core.parts.kinds.pairs import by_pairs, expecting, pair_ohms
from hale_rail.core.parts.markings import JunctionMarking
from hale_rail.core.parts.measured import PartReadings
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.part import Part, PartKind
from hale_rail.core.parts.ratings import CASE, OTHER_TYPE, at_least
from hale_rail.core.parts.verdicts import Reason, Verdict
from hale_rail.core.procedures import DIODE
from hale_rail.core.quantities import Unit, show
from hale_rail.core.targets import Pair

GATE, ACROSS = Pair("G", "K"), Pair("A", "K")
PAIRS = (GATE, ACROSS)


def state(_: Part, pair: Pair, readings: PartReadings) -> Reason:
    """What one pair's readings say; many gates have a resistance to the cathode inside."""
    forward, reverse = readings.both_ways(DIODE, pair)
    if pair != GATE:
        return blocking_reason(forward, reverse)
    is_new = readings.is_new
    short_v = SHORT_BESIDE_RESISTORS_V
    reason = junction_reason(SILICON_V, forward, reverse, is_new=is_new, short_v=short_v)
    if reason.code == "both-ways" and forward and reverse and forward.lifted:
        text = f"{show(forward.value, Unit.VOLT)} and {show(reverse.value, Unit.VOLT)}"
        return Reason("gate-resistance", f"{text}: a resistance inside.", Verdict.GOOD)
    return reason


KIND = PartKind(
    code="scr",
    name="crowbar SCR",
    model="scr",
    judge=by_pairs(
        PAIRS,
        ACROSS,
        state,
        "The gate is a junction, anode to cathode blocks.",
    ),
    asks=junction_asks(ACROSS, *PAIRS),
    extras=pair_ohms(PAIRS, ACROSS),
    look_for=looking_for("Cracked case, ringed joints; it fired for a reason."),
    expect=expecting((GATE,), SILICON_V),
    advice=advising(SEMICONDUCTOR + " Find what fired it before power."),
    letters=("SCR", "TY"),
    marking=JunctionMarking,
    pairs=PAIRS,
    blocking=frozenset({ACROSS, ACROSS.turned}),
    across=ACROSS,
    map_word="crowbar",
    rules=(at_least("volt"), at_least("ampere"), CASE, OTHER_TYPE),
    is_series=False,
    fails=failing(FaultMode.SHORT, FaultMode.LEAKY),
)
