"""Board behind a connector: looked at; its backup battery is read, since flat ones leak."""

from __future__ import annotations

from hale_rail.core.parts.kinds.common import concluded, looking_for, nothing
from hale_rail.core.parts.markings import JointMarking
from hale_rail.core.parts.measured import PartReadings
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.verdicts import Judgement, Reason, Verdict
from hale_rail.core.procedures import BATTERY, Condition
from hale_rail.core.quantities import Unit, show

#: two thirds of the 3.6 V that most backup batteries are
FLAT_V = 2.4


def judge(_: Part, readings: PartReadings) -> Judgement:
    """By looks, and by the volts of its backup battery."""
    value = readings.get(BATTERY)
    reasons = [battery_reason(value.value)] if value else []
    return concluded(reasons, readings, sound_is_good=True)


def battery_reason(volt: float) -> Reason:
    """What the volts of a backup battery say."""
    text = f"Backup battery {show(volt, Unit.VOLT)}"
    if volt < FLAT_V:
        text += f": below {FLAT_V:g} V, flat. Flat ones leak: take it out."
        return Reason("battery-flat", text, Verdict.WORN)
    return Reason("battery-holds", f"{text}: it holds. Any crust on it, and it comes out.")


def expect(_: Part, __: Ask, ___: Condition) -> str:
    """Its battery's volts."""
    return f"its marked volts; below {FLAT_V:g} V flat"


KIND = PartKind(
    code="board",
    name="board",
    model="load",
    judge=judge,
    asks=nothing,
    extras=lambda _: (Ask(BATTERY),),
    look_for=looking_for(
        "Backup battery leaking? Screws missing, wires added, parts changed before?"
    ),
    expect=expect,
    marking=JointMarking,
    findings=("battery-leak", "burnt", "corroded", "screws", "repaired", "smell"),
    rules=(),
    is_series=False,
    is_measured=False,
    walks=False,
    fails=failing(FaultMode.SHORT, FaultMode.OVERLOAD, FaultMode.FAULTY),
)
