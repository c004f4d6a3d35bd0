"""Silicon rectifier diode; one marked as fast drops less."""

from __future__ import annotations

from hale_rail.core.parts.junctions import FAST_V, GERMANIUM_V, SILICON_V, Band
from hale_rail.core.parts.kinds.diodes import rectifier
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.part import Part
from hale_rail.core.parts.ratings import CASE, TYPE, Comparison, Rule, at_least

#: the role of a diode that is known to be fast
FAST = "fast"


def band(part: Part) -> Band:
    """Sound forward drop; one of unknown speed is judged by the band of both."""
    if getattr(part.marking, "material", "") == "germanium":
        return GERMANIUM_V
    return FAST_V if part.role == FAST else SILICON_V


KIND = rectifier(
    "diode",
    "diode",
    band,
    "Brown board round it, ringed joints.",
    "A fast part stays a fast part.",
    letters=("D", "CR"),
    rules=(at_least("volt"), at_least("ampere"), Rule("speed", Comparison.AS_FAST), CASE, TYPE),
    fails=failing(FaultMode.SHORT, FaultMode.OPEN, FaultMode.REVERSED, FaultMode.JOINT),
)
