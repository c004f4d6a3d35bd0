"""Transformer: ohms prove a winding whole, never that no turns are shorted."""

from __future__ import annotations

from hale_rail.core.parts.kinds.conductors import conductor
from hale_rail.core.parts.markings import WindingMarking
from hale_rail.core.parts.modes import FaultMode, failing

KIND = conductor(
    "transformer",
    "transformer",
    500.0,
    "Charred wrap, smell of varnish, cracked joints under its weight.",
    letters=("T",),
    marking=WindingMarking,
    is_winding=True,
    model="transformer",
    fails=failing(FaultMode.OPEN, FaultMode.TURNS, FaultMode.JOINT),
)
