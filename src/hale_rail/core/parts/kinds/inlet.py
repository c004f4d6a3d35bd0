"""Mains inlet or DC socket: looked at; its ohms, lead included, where the way in is in doubt."""

from __future__ import annotations

from hale_rail.core.parts.conduction import conducts_reason
from hale_rail.core.parts.kinds.common import concluded, looking_for, nothing, only_ohms
from hale_rail.core.parts.measured import PartReadings
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.ratings import CASE, at_least
from hale_rail.core.parts.verdicts import Judgement
from hale_rail.core.procedures import OHMS, Condition

LIMIT_OHM = 1.0


def judge(_: Part, readings: PartReadings) -> Judgement:
    """By looks, and by ohms from a pin of the plug to where the lead ends."""
    value = readings.get(OHMS)
    reasons = [conducts_reason(value, LIMIT_OHM)] if value else []
    return concluded(reasons, readings, sound_is_good=True)


def expect(_: Part, __: Ask, ___: Condition) -> str:
    """The ohms of a whole lead."""
    return f"below {LIMIT_OHM:g} Ω, pin to pin"


KIND = PartKind(
    code="inlet",
    name="inlet",
    model="conductor",
    judge=judge,
    asks=nothing,
    extras=only_ohms,
    look_for=looking_for("Lead perished or nicked? Earth wire tight at the case? Pins burnt?"),
    expect=expect,
    findings=("perished", "no-earth", "burnt", "joint", "repaired"),
    rules=(at_least("volt"), at_least("ampere"), CASE),
    is_series=True,
    is_measured=False,
    walks=False,
    fails=failing(FaultMode.OPEN, FaultMode.JOINT),
)
