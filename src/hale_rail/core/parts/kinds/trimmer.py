"""Trimmer: its track within a fifth of its value, end to end."""

from __future__ import annotations

from msgspec.structs import replace

from hale_rail.core.parts.kinds import resistor
from hale_rail.core.parts.kinds.common import advising, looking_for
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.ratings import CASE, Comparison, minded, same

#: what a track may be off where nothing is marked
USUAL_TOLERANCE = (0.20, 0.20)


KIND = replace(
    resistor.KIND,
    code="trimmer",
    name="trimmer",
    model="nothing",
    judge=resistor.judging(USUAL_TOLERANCE),
    look_for=looking_for("Cracked track, dirt at the wiper, somebody's mark where it stood."),
    advice=advising("Same value and taper; note where it stood before it is turned."),
    letters=("VT", "RP", "POT", "TRIM"),
    rules=(
        same("value", 0.01, label="resistance"),
        minded("watt", Comparison.AT_LEAST),
        minded("style", label="taper"),
        CASE,
    ),
    findings=("burnt", "crack", "corroded", "joint", "bad-repair"),
    fails=failing(FaultMode.OPEN, FaultMode.DRIFT),
)
