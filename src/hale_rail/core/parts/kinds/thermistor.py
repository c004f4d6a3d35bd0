"""Inrush thermistor: its cold value within a quarter."""

from __future__ import annotations

import math

from hale_rail.core.parts.conduction import BESIDE, band_reason
from hale_rail.core.parts.kinds.common import advising, concluded, looking_for, only_ohms
from hale_rail.core.parts.markings import ThermistorMarking
from hale_rail.core.parts.measured import MeasuredValue, PartReadings
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.ratings import CASE, at_least, same
from hale_rail.core.parts.verdicts import Action, Judgement, Reason, Verdict
from hale_rail.core.procedures import OHMS, Condition
from hale_rail.core.quantities import Unit, show

#: cold, where no value is marked
USUAL_OHM = (2.0, 50.0)
#: share of the marked value allowed either way at 25 °C, and what a cold bench adds above: some
#: 4 % a degree below that
SPREAD, COLD_BENCH = 0.25, 0.10


def band_ohm(part: Part) -> tuple[float, float]:
    """Cold ohms of a sound one, lower and upper."""
    if part.value:
        return (1 - SPREAD) * part.value, (1 + SPREAD + COLD_BENCH) * part.value
    return USUAL_OHM


def judge(part: Part, readings: PartReadings) -> Judgement:
    """By its cold ohms: open failed, high worn, low perhaps warm still."""
    value = readings.get(OHMS)
    return concluded([_cold(part, value)] if value else [], readings)


def _cold(part: Part, value: MeasuredValue) -> Reason:
    text = show(value.value, Unit.OHM)
    if math.isinf(value.value):
        return Reason("open", f"{text}: open.", Verdict.FAILED)
    low, high = band_ohm(part)
    if value.value > BESIDE * high:
        cold = f"{text}: open; only what stands beside it conducts."
        return Reason("open", cold, Verdict.FAILED)
    if value.value < low and not value.lifted:
        cold = f"{text}: cold it reads {low:.3g} to {high:.3g} Ω."
        change = "Let it cool, or lift one leg."
        return Reason("cold-low", cold, Verdict.UNPROVEN, change, Action.MEASURE)
    return band_reason(value, low, high, Verdict.WORN, is_alone=True)


def expect(part: Part, _: Ask, __: Condition) -> str:
    """The cold ohms of a sound one."""
    low, high = band_ohm(part)
    return f"{low:.3g} to {high:.3g} Ω, cold"


KIND = PartKind(
    code="thermistor",
    name="inrush thermistor",
    model="conductor",
    judge=judge,
    asks=only_ohms,
    look_for=looking_for("Split disc, brown board under it."),
    expect=expect,
    advice=advising("The same cold resistance and current, stood off the board: it runs hot."),
    letters=("RT", "NTC", "TH"),
    value_unit=Unit.OHM,
    marking=ThermistorMarking,
    map_word="inrush",
    rules=(same("value", 0.2, label="cold resistance"), at_least("ampere"), CASE),
    fails=failing(FaultMode.OPEN),
)
