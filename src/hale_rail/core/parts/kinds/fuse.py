"""Fuse: conducts, or is blown; how it blew tells why."""

from __future__ import annotations

import re

from hale_rail.core.parts.conduction import conducts_reason
from hale_rail.core.parts.kinds.common import advising, concluded, looking_for, only_ohms
from hale_rail.core.parts.markings import FUSE_SPEEDS, FuseMarking
from hale_rail.core.parts.measured import PartReadings
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.ratings import Comparison, Rule, same
from hale_rail.core.parts.verdicts import Judgement, Reason, Verdict
from hale_rail.core.procedures import OHMS, Condition
from hale_rail.core.quantities import Unit, show, tidy

LIMIT_OHM = 1.0
#: fuses up to this many amperes may read up to so many ohms
SMALL_A, SMALL_LIMIT_OHM = 0.5, 5.0
#: volts that a small fuse drops at most at its rated current, cold: 63 mA read some 8 Ω
COLD_V = 1.0
_OPEN_HINT = (
    "A clean gap is an overload; a blackened or silvered tube is a hard short: find it before "
    "a second fuse is spent."
)
_ROUNDING = 1e-6
_AMPERE = re.compile(r"(?<![A-Z0-9.,])(TT|T|M|FF|F)?\s*([0-9]+(?:[.,][0-9]+)?)\s*(M)?A(?:T|F)?\b")
_VOLT = re.compile(r"(?<![A-Z0-9.,])([0-9]+(?:[.,][0-9]+)?)\s*V")
_HARD_SHORT = "A hard short blew it: find the short first, before a second fuse is spent."


def limit_ohm(part: Part) -> float:
    """The most ohms a whole fuse of this rating shows."""
    if not part.value or part.value > SMALL_A:
        return LIMIT_OHM
    return max(SMALL_LIMIT_OHM, COLD_V / part.value)


def judge(part: Part, readings: PartReadings) -> Judgement:
    """Whole, high or blown, by its ohms."""
    value = readings.get(OHMS)
    reasons = [conducts_reason(value, limit_ohm(part), _OPEN_HINT)] if value else []
    if readings.fitted:
        reasons += _against_sheet(part, readings.fitted)
    if "blackened" in readings.seen:
        reasons.append(Reason("hard-short", _HARD_SHORT))
    return concluded(reasons, readings)


def read_rating(text: str) -> FuseMarking | None:
    """A fuse's rating as printed, `T 1.6 A 250 V`; None where no amperes stand in the text."""
    clean = tidy(text).upper()
    amps = _AMPERE.search(clean)
    if amps is None:
        return None
    number = float(amps[2].replace(",", ".")) * (1e-3 if amps[3] else 1.0)
    volts = _VOLT.search(clean)
    volt = float(volts[1].replace(",", ".")) if volts else None
    speed = amps[1] or next((w for w in clean.split() if w in FUSE_SPEEDS), "")
    return FuseMarking(number, volt, speed) if number else None


def _against_sheet(part: Part, fitted: str) -> list[Reason]:
    """What was fitted against what the sheet has: current, speed, volts."""
    now, sheet = read_rating(fitted), part.marking
    if now is None or not isinstance(sheet, FuseMarking) or not sheet.ampere or not now.ampere:
        return []
    amps, wanted = show(now.ampere, Unit.AMPERE), show(sheet.ampere, Unit.AMPERE)
    if now.ampere > sheet.ampere * (1 + _ROUNDING):
        text = f"{amps} was fitted where the sheet has {wanted}: never a higher current."
        return [Reason("wrong-fuse", text, Verdict.FAILED)]
    against_sheet = []
    if now.ampere < sheet.ampere * (1 - _ROUNDING):
        text = f"{amps} was fitted where the sheet has {wanted}: for a test only."
        against_sheet.append(Reason("low-fuse", text))
    if now.speed and sheet.speed and now.speed != sheet.speed:
        text = f"Speed {now.speed} was fitted where the sheet has {sheet.speed}."
        against_sheet.append(Reason("wrong-fuse", text, Verdict.FAILED))
    if now.volt and sheet.volt and now.volt < sheet.volt:
        text = f"{now.volt:g} V was fitted where the sheet has {sheet.volt:g} V."
        against_sheet.append(Reason("wrong-fuse", text, Verdict.FAILED))
    return against_sheet


def expect(part: Part, _: Ask, __: Condition) -> str:
    """The ohms of a whole one."""
    return f"below {limit_ohm(part):g} Ω"


KIND = PartKind(
    code="fuse",
    name="fuse",
    model="conductor",
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
    rules=(
        same("value", label="current"),
        same("speed"),
        Rule("volt", Comparison.AT_LEAST, must_say=True),
        Rule("breaking_a", Comparison.AT_LEAST, must_say=True),
        Rule("case", Comparison.SAME),
    ),
    findings=("clean-gap", "blackened", "burnt", "repaired"),
    fails=failing(FaultMode.OPEN),
)
