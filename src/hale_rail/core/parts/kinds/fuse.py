"""Fuse: conducts, or is blown; how it blew tells why."""

from __future__ import annotations

from hale_rail.core.parts.conduction import conducts_reason
from hale_rail.core.parts.kinds.common import advising, concluded, looking_for, only_ohms
from hale_rail.core.parts.markings import FuseMarking
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.taken import PartReadings
from hale_rail.core.parts.verdicts import Judgement, Reason
from hale_rail.core.procedures import OHMS, Condition
from hale_rail.core.quantities import Unit

LIMIT_OHM = 1.0
#: fuses up to this many amperes may read up to so many ohms
SMALL_A, SMALL_LIMIT_OHM = 0.5, 5.0
#: volts that a small fuse drops at most at its rated current, cold: 63 mA read some 8 Ω
COLD_V = 1.0
_OPEN_HINT = (
    "A clean gap is an overload; a blackened or silvered tube is a hard short: find it before "
    "a second fuse is spent."
)
_HARD_SHORT = "A hard short blew it: find the short first, before a second fuse is spent."


def limit_ohm(part: Part) -> float:
    """The most ohms a whole fuse of this rating shows."""
    if not part.value or part.value > SMALL_A:
        return LIMIT_OHM
    return max(SMALL_LIMIT_OHM, COLD_V / part.value)


def judge(part: Part, readings: PartReadings) -> Judgement:
    """Whole, high or blown, by its ohms."""
    taken = readings.get(OHMS)
    reasons = [conducts_reason(taken, limit_ohm(part), _OPEN_HINT)] if taken else []
    if "blackened" in readings.seen:
        reasons.append(Reason("hard-short", _HARD_SHORT))
    return concluded(reasons, readings)


def expect(part: Part, _: Ask, __: Condition) -> str:
    """The ohms of a whole one."""
    return f"below {limit_ohm(part):g} Ω"


KIND = PartKind(
    code="fuse",
    name="fuse",
    judge=judge,
    asks=only_ohms,
    look_for=looking_for(
        "Hold the glass to the light: a clean gap is an overload, a blackened or silvered tube "
        "a hard short."
    ),
    expect=expect,
    advice=advising(
        "The same current, speed, voltage and breaking capacity; never a higher current. A lower "
        "one may be used for a test."
    ),
    letters=("F",),
    value_unit=Unit.AMPERE,
    marking=FuseMarking,
    shows_value=True,
    findings=("clean-gap", "blackened", "burnt", "repaired"),
)
