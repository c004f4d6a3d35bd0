"""Backup battery: its volts; a flat one leaks."""

from __future__ import annotations

from hale_rail.core.parts.kinds.board import FLAT_V, battery_reason
from hale_rail.core.parts.kinds.common import advising, concluded, looking_for
from hale_rail.core.parts.markings import BatteryMarking
from hale_rail.core.parts.measured import PartReadings
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.ratings import CASE, Comparison, minded, same
from hale_rail.core.parts.verdicts import Judgement
from hale_rail.core.procedures import BATTERY, Condition
from hale_rail.core.quantities import Unit


def judge(_: Part, readings: PartReadings) -> Judgement:
    """By its volts, and by looks: it holds and looks sound, it is good."""
    value = readings.get(BATTERY)
    reasons = [battery_reason(value.value)] if value else []
    return concluded(reasons, readings, sound_is_good=value is not None)


def expect(_: Part, __: Ask, ___: Condition) -> str:
    """Its marked volts."""
    return f"its marked volts; below {FLAT_V:g} V flat"


KIND = PartKind(
    code="battery",
    name="battery",
    model="nothing",
    judge=judge,
    asks=lambda _: (Ask(BATTERY),),
    look_for=looking_for("Crust, green copper round it, a swollen case."),
    expect=expect,
    advice=advising("Same volts and chemistry, or a holder away from the board."),
    letters=("BT", "BAT"),
    is_turned=True,
    value_unit=Unit.VOLT,
    marking=BatteryMarking,
    findings=("battery-leak", "leak", "corroded", "vented"),
    rules=(
        same("volt", 0.03),
        same("style", label="chemistry"),
        minded("ampere_hour", Comparison.AT_LEAST),
        CASE,
    ),
    is_series=False,
    walks=False,
)
