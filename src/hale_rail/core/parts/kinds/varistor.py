"""Varistor across the mains: insulates below its rating, until a surge has cracked or burnt it."""

from __future__ import annotations

from hale_rail.core.parts.conduction import insulates_reason
from hale_rail.core.parts.kinds.common import advising, concluded, looking_for, only_ohms
from hale_rail.core.parts.markings import ClampMarking
from hale_rail.core.parts.measured import PartReadings
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.ratings import CASE, same
from hale_rail.core.parts.verdicts import Judgement
from hale_rail.core.procedures import OHMS, Condition
from hale_rail.core.quantities import Unit


def judge(_: Part, readings: PartReadings) -> Judgement:
    """OL is good; one that conducts lifted has failed."""
    value = readings.get(OHMS)
    return concluded([insulates_reason(value)] if value else [], readings)


def expect(_: Part, __: Ask, ___: Condition) -> str:
    """A sound one insulates."""
    return "OL"


KIND = PartKind(
    code="varistor",
    name="varistor",
    model="insulator",
    judge=judge,
    asks=only_ohms,
    look_for=looking_for("Cracked, burnt or split disc, soot beside it."),
    expect=expect,
    advice=advising("The same voltage rating and disc size, approved for use across the mains."),
    letters=("MOV", "VDR", "RV"),
    value_unit=Unit.VOLT,
    marking=ClampMarking,
    rules=(same("value", 0.1, label="voltage"), CASE),
    is_series=False,
    fails=failing(FaultMode.SHORT),
)
