"""MOSFET: its body diode conducts one way, its gate is insulated."""

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
from hale_rail.core.parts.kinds.pairs import by_pairs, expecting, one_junction
from hale_rail.core.parts.markings import JunctionMarking
from hale_rail.core.parts.part import PartKind
from hale_rail.core.targets import Pair

BODY, ACROSS = Pair("S", "D"), Pair("D", "S")
GATE = (Pair("G", "S"), Pair("G", "D"))
PAIRS = (BODY, *GATE)


KIND = PartKind(
    code="mosfet",
    name="MOSFET",
    judge=by_pairs(
        PAIRS,
        ACROSS,
        one_junction(BODY, SILICON_V),
        "The body diode conducts one way, the gate is insulated.",
    ),
    asks=junction_asks(ACROSS, *PAIRS),
    look_for=looking_for("Cracked case, its screw loose, insulation under it; ringed joints."),
    expect=expecting((BODY,), SILICON_V),
    advice=advising(SEMICONDUCTOR + " Check its gate resistor and drive before power."),
    marking=JunctionMarking,
    pairs=PAIRS,
    blocking=frozenset(way for pair in GATE for way in (pair, pair.turned)),
    across=ACROSS,
    passes_input=True,
)
