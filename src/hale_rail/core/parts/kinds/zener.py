"""Zener: a silicon junction one way; its breakdown is proven through a resistor."""

from __future__ import annotations

import math

from msgspec.structs import replace

from hale_rail.core.parts.junctions import BIPOLAR_V
from hale_rail.core.parts.kinds.diodes import JUNCTION, rectifier
from hale_rail.core.parts.markings import ClampMarking
from hale_rail.core.parts.measured import MeasuredValue, PartReadings
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.part import Ask, Part
from hale_rail.core.parts.ratings import CASE, TYPE, at_least, same
from hale_rail.core.parts.verdicts import (
    Action,
    Judgement,
    Reason,
    Verdict,
    conclude,
    without_good,
)
from hale_rail.core.procedures import BREAKDOWN, DIODE, Condition
from hale_rail.core.quantities import Unit, show

#: share of its marked volts within which it breaks down
SPREAD = 0.10
#: a zener up to so many volts has a soft knee: at a small current it shows less, by the share
SOFT_V, SOFT_SHARE = 5.0, 0.30
#: the least share of its volts that a junction range shows in reverse at such a one
_METER_SHARE = 0.40

_AS_DIODE = rectifier(
    "zener",
    "zener",
    lambda _: BIPOLAR_V,
    "Brown board round it, cracked glass.",
    "Same breakdown voltage within 5 % and the same power or more.",
    letters=("ZD", "DZ"),
    marking=ClampMarking,
    value_unit=Unit.VOLT,
    rules=(same("value", 0.05, label="breakdown"), at_least("watt"), CASE, TYPE),
)


def judge(part: Part, readings: PartReadings) -> Judgement:
    """As a junction; good only once its breakdown was read too."""
    breakdown = readings.get(BREAKDOWN) or _seen_by_the_meter(part, readings)
    judgement = _AS_DIODE.judge(part, _but_the_knee(part, readings))
    was_sound = any(r.argues is Verdict.GOOD for r in judgement.reasons)
    reasons = without_good(judgement.reasons)
    if breakdown is not None:
        reasons = [r for r in reasons if r.code not in ("not-measured", "both-ways")]
        reasons.append(_breakdown(part, breakdown))
    elif was_sound:
        text = "The junction is sound; where it breaks down was not read."
        change = "Feed it through a resistor and read the volts across it."
        reasons.append(Reason("breakdown-unread", text, Verdict.UNPROVEN, change, Action.MEASURE))
    return conclude(reasons)


def _seen_by_the_meter(part: Part, readings: PartReadings) -> MeasuredValue | None:
    """The reversed drop of a zener so low that the meter itself reaches its breakdown."""
    _, reverse = readings.both_ways(DIODE, JUNCTION)
    if reverse is None or math.isinf(reverse.value) or not part.value:
        return None
    low, high = band(part.value)
    return reverse if low <= reverse.value <= high and part.value <= SOFT_V else None


def _but_the_knee(part: Part, readings: PartReadings) -> PartReadings:
    """The readings, a reversed drop on the soft knee of a low zener taken for blocking."""
    _, reverse = readings.both_ways(DIODE, JUNCTION)
    if reverse is None or not part.value or part.value > SOFT_V:
        return readings
    if not _METER_SHARE * part.value <= reverse.value <= (1 + SPREAD) * part.value:
        return readings
    blocks = replace(reverse, value=math.inf)
    return replace(readings, values={**readings.values, (DIODE.code, JUNCTION.turned): blocks})


def band(marked_v: float) -> tuple[float, float]:
    """Volts across a sound one, lower and upper: within a tenth, or down a soft knee."""
    low = SOFT_SHARE if marked_v <= SOFT_V else SPREAD
    return marked_v * (1 - low), marked_v * (1 + SPREAD)


def _breakdown(part: Part, value: MeasuredValue) -> Reason:
    text = f"{show(value.value, Unit.VOLT)} across it, fed through a resistor"
    if not part.value:
        return Reason("breakdown", f"{text}: no marked volts to hold it against.")
    low, high = band(part.value)
    text += f"; sound {low:.3g} to {high:.3g} V"
    if low <= value.value <= high:
        return Reason("breakdown", f"{text}.", Verdict.GOOD)
    if value.value < low and not value.lifted:
        breakdown = f"{text}: a parallel path may hold it down."
        return Reason("breakdown-low", breakdown, Verdict.UNPROVEN, "Lift one leg.", Action.LIFT)
    return Reason("breakdown-off", f"{text}.", Verdict.FAILED)


def expect(part: Part, ask: Ask, condition: Condition) -> str:
    """A junction's drop, or its marked volts within a tenth."""
    if ask.procedure is not BREAKDOWN:
        return _AS_DIODE.expect(part, ask, condition)
    if not part.value:
        return "its marked volts"
    low, high = band(part.value)
    return f"{low:.3g} to {high:.3g} V"


KIND = replace(
    _AS_DIODE,
    model="zener",
    judge=judge,
    expect=expect,
    extras=lambda _: (Ask(BREAKDOWN),),
    fails=failing(FaultMode.SHORT, FaultMode.OPEN, FaultMode.LEAKY),
)
