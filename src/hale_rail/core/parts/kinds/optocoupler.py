"""Optocoupler: the LED drops about a volt, the transistor side blocks while the LED is dark."""

from __future__ import annotations

from hale_rail.core.parts.junctions import LED_V
from hale_rail.core.parts.kinds.common import (
    SEMICONDUCTOR,
    advising,
    looking_for,
)
from hale_rail.core.parts.kinds.pairs import by_pairs, expecting, one_junction, pair_ohms
from hale_rail.core.parts.markings import JunctionMarking
from hale_rail.core.parts.part import Ask, PartKind
from hale_rail.core.procedures import DIODE
from hale_rail.core.targets import Pair

LED, OUTPUT = Pair("A", "K"), Pair("C", "E")
PAIRS = (LED, OUTPUT)
_ASKS = tuple(Ask(DIODE, way) for pair in PAIRS for way in (pair, pair.turned))


KIND = PartKind(
    code="optocoupler",
    name="optocoupler",
    judge=by_pairs(
        PAIRS,
        None,
        one_junction(LED, LED_V),
        "The LED drops about a volt, the transistor side blocks.",
    ),
    asks=lambda _: _ASKS,
    extras=pair_ohms(PAIRS, None),
    look_for=looking_for("Cracked body, ringed joints, dirt that bridges its two sides."),
    expect=expecting((LED,), LED_V),
    advice=advising(SEMICONDUCTOR + " Same isolation voltage and current ratio."),
    letters=("PC", "OK", "OC"),
    marking=JunctionMarking,
    pairs=PAIRS,
    blocking=frozenset({OUTPUT, OUTPUT.turned}),
    is_series=False,
)
