"""Schottky rectifier."""

from __future__ import annotations

from hale_rail.core.parts.junctions import SCHOTTKY_V
from hale_rail.core.parts.kinds.diodes import rectifier

KIND = rectifier(
    "schottky",
    "Schottky",
    lambda _: SCHOTTKY_V,
    "Heatsink fast, ringed joints at its legs.",
    "A Schottky stays a Schottky.",
)
