"""Line filter: a choke or a potted block in the mains' way."""

from __future__ import annotations

from hale_rail.core.parts.kinds.conductors import conductor
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.ratings import CASE, at_least

KIND = conductor(
    "filter",
    "line filter",
    5.0,
    "Potting cracked or run out.",
    map_word="filter",
    model="filter",
    rules=(at_least("volt"), at_least("ampere"), CASE),
    fails=failing(FaultMode.OPEN),
)
