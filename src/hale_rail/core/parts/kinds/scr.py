"""Crowbar SCR: the gate is a junction, anode and cathode block; shorted it holds its rail low."""

from __future__ import annotations

from hale_rail.core.parts.junctions import (
    SILICON_V,
)
from hale_rail.core.parts.kinds.common import (
    SEMICONDUCTOR,
    advising,
    junction_asks,
    looking_for,
)
from hale_rail.core.parts.kinds.pairs import by_pairs, expecting, one_junction, pair_ohms
from hale_rail.core.parts.markings import JunctionMarking
from hale_rail.core.parts.part import PartKind
from hale_rail.core.targets import Pair

GATE, ACROSS = Pair("G", "K"), Pair("A", "K")
PAIRS = (GATE, ACROSS)


KIND = PartKind(
    code="scr",
    name="crowbar SCR",
    judge=by_pairs(
        PAIRS,
        ACROSS,
        one_junction(GATE, SILICON_V),
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
    is_series=False,
)
