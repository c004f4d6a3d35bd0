"""Schottky rectifier."""

from __future__ import annotations

from hale_rail.core.parts.junctions import SCHOTTKY_V
from hale_rail.core.parts.kinds.diodes import rectifier
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.ratings import CASE, TYPE, at_least

KIND = rectifier(
    "schottky",
    "Schottky",
    lambda _: SCHOTTKY_V,
    "Heatsink fast, ringed joints at its legs.",
    "A Schottky stays a Schottky.",
    model="schottky",
    rules=(at_least("volt"), at_least("ampere"), CASE, TYPE),
    fails=failing(FaultMode.SHORT, FaultMode.OPEN, FaultMode.REVERSED, FaultMode.JOINT),
)
