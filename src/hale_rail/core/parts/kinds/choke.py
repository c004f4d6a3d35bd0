"""Choke: whole while it conducts; a shorted turn does not show in ohms."""

from __future__ import annotations

from hale_rail.core.parts.kinds.conductors import conductor
from hale_rail.core.parts.markings import WindingMarking
from hale_rail.core.parts.modes import FaultMode, failing

KIND = conductor(
    "choke",
    "choke",
    5.0,
    "Varnish charred, winding loose.",
    letters=("L",),
    marking=WindingMarking,
    is_winding=True,
    model="choke",
    fails=failing(FaultMode.OPEN, FaultMode.JOINT),
)
