"""Bridge rectifier: four junctions, each judged by itself; one open is a missing diode."""

from __future__ import annotations

from msgspec.structs import replace

from hale_rail.core.parts.junctions import BRIDGE_V, junction_reason
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
from hale_rail.core.parts.ratings import CASE, TYPE, at_least
from hale_rail.core.parts.verdicts import Reason
from hale_rail.core.procedures import DIODE
from hale_rail.core.targets import Pair

#: the four junctions in their conducting way
PAIRS = (Pair("~1", "+"), Pair("~2", "+"), Pair("-", "~1"), Pair("-", "~2"))
ACROSS = Pair("+", "-")


def state(_: Part, pair: Pair, readings: PartReadings) -> Reason:
    """What one junction's readings say; one that is open leaves half a wave."""
    reason = junction_reason(BRIDGE_V, *readings.both_ways(DIODE, pair), is_new=readings.is_new)
    if reason.code == "junction-open":
        return replace(reason, text="Open both ways: a missing diode, half-wave.")
    return reason


KIND = PartKind(
    code="bridge",
    name="bridge",
    model="bridge",
    judge=by_pairs(
        PAIRS,
        ACROSS,
        state,
        "All four junctions conduct one way and block the other.",
    ),
    asks=junction_asks(ACROSS, *PAIRS),
    extras=pair_ohms(PAIRS, ACROSS),
    look_for=looking_for("Cracked body, brown board, rings in the solder round its legs."),
    expect=expecting(PAIRS, BRIDGE_V),
    advice=advising(SEMICONDUCTOR),
    letters=("BR", "DB"),
    marking=JunctionMarking,
    pairs=PAIRS,
    across=ACROSS,
    rules=(at_least("volt"), at_least("ampere"), CASE, TYPE),
    fails=failing(FaultMode.SHORT, FaultMode.OPEN, FaultMode.REVERSED, FaultMode.JOINT),
)
