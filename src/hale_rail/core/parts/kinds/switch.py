"""Mains switch."""

from __future__ import annotations

from hale_rail.core.parts.kinds.conductors import conductor
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.ratings import CASE, at_least, same

KIND = conductor(
    "switch",
    "mains switch",
    1.0,
    "Scorched contacts, a rocker that grates.",
    letters=("S", "SW"),
    map_word="switch",
    rules=(same("style", label="contacts"), at_least("volt"), at_least("ampere"), CASE),
    ask_if_open="Is it on? Read it in both positions.",
    fails=failing(FaultMode.OPEN),
)
