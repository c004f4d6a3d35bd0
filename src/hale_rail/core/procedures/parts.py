"""Procedures at a part: its health, its junctions, the volts that it holds."""

from __future__ import annotations

import math
import re

from msgspec.structs import replace

from hale_rail.core.errors import QuantityError, RangeError
from hale_rail.core.procedures.procedure import (
    COLD,
    OHMS_ACCURACY,
    OHMS_RANGE,
    VOLTS_ACCURACY,
    VOLTS_RANGE,
    Accuracy,
    Condition,
    Procedure,
    Scale,
    Subject,
    Understood,
    no_voltage_over,
    understood,
    within,
)
from hale_rail.core.quantities import Measured, Unit, read, show, show_exact, tidy
from hale_rail.core.ranges import read_span
from hale_rail.core.targets import TargetKind

#: more than this through a capacitor is a slip of the prefix
_MOST_LEAK_A = 0.5
#: multiples of the marked value from which a prefix was mistyped; in circuit neighbours may add
_MOST_LIFTED, _MOST_IN_CIRCUIT = 20.0, 1000.0
#: the most a junction's drop and a backup battery show, in volts
_MOST_DROP_V, _MOST_BATTERY_V = 5.0, 15.0
_MOST_BREAKDOWN_V = 400.0
#: above this share of its rating a capacitor would have burst
_MOST_OF_RATING = 1.5

#: the least and the most that a meter shows: ohms of ESR, farads, amperes, volts of a junction
_ESR_RANGE = (1e-4, 1e6)
_FARAD_RANGE = (1e-13, 1.0)
_LEAK_RANGE = (1e-12, math.inf)
_LEAST_DROP_V = 1e-4

_ON_PART = (Condition.IN_CIRCUIT, Condition.LIFTED)
_PART = frozenset({TargetKind.PART})
_PART_OR_PAIR = frozenset({TargetKind.PART, TargetKind.PAIR})
_PAIR = frozenset({TargetKind.PAIR})
#: an LCR or ESR meter's, where none is chosen
CAP_ACCURACY = Accuracy(0.03, 1)
ESR_ACCURACY = Accuracy(0.05, 0, 0.010)


def _not_negative(measured: Measured) -> Measured:
    if not measured.is_over and measured.value < 0:
        raise RangeError("This reading cannot be negative: check the leads.")
    return measured


def _ohms(text: str, _: Condition, __: Subject) -> Understood:
    return understood(_not_negative(within(read_span(text, Unit.OHM), *OHMS_RANGE)))


def _esr(text: str, _: Condition, __: Subject) -> Understood:
    measured = read(text, Unit.OHM)
    if measured.is_span:
        raise QuantityError("An ESR is a figure: write what the meter shows, or OL.")
    return understood(_not_negative(within(measured, *_ESR_RANGE)))


def _farads(text: str, condition: Condition, subject: Subject) -> Understood:
    measured = _not_negative(_exact_farads(text))
    marked = subject.marked_farad
    most = _MOST_LIFTED if condition is Condition.LIFTED else _MOST_IN_CIRCUIT
    if marked and not measured.is_over and measured.value >= most * marked:
        raise RangeError(
            f"{show(measured.value, Unit.FARAD)} at a part of {show_exact(marked, Unit.FARAD)}? "
            "Check the prefix: p, n or u."
        )
    return understood(measured)


def _any_farads(text: str, _: Condition, __: Subject) -> Understood:
    return understood(_exact_farads(text))


def _exact_farads(text: str) -> Measured:
    measured = read(text, Unit.FARAD)
    if measured.is_span:
        raise QuantityError("A capacitance is a figure: write what the meter shows, or OL.")
    return within(measured, *_FARAD_RANGE)


def _leakage(text: str, _: Condition, __: Subject) -> Understood:
    """A leakage; a plain number is microamperes, as meters for it show it."""
    is_plain = bool(re.fullmatch(r"[0-9.,]+", tidy(text)))
    measured = _not_negative(read_span(f"{text}u" if is_plain else text, Unit.AMPERE))
    if is_plain:
        measured = replace(measured, typed=text, hint="a plain number is read as µA")
    measured = within(replace(measured, value=measured.high), *_LEAK_RANGE)
    if _MOST_LEAK_A < measured.value < math.inf:
        raise RangeError(
            f"{show(measured.value, Unit.AMPERE)} through a capacitor? Write 12u for microamperes."
        )
    return understood(measured)


def _drop(text: str, _: Condition, subject: Subject) -> Understood:
    """A junction's drop; whole numbers are millivolts, as many meters show it: `543`."""
    measured = read(text, Unit.VOLT)
    plain = tidy(measured.typed)
    if plain == "1":
        way = "the way that blocks" if subject.is_blocking else "this way"
        raise QuantityError(f"“1” {way}: over-range, as old meters show it? Write OL, or 1.0.")
    if re.fullmatch(r"[2-9]", plain):
        raise QuantityError(f"“{plain}”: {plain} mV or {plain} V? Write 0.00{plain}, or {plain}.0.")
    if re.fullmatch(r"[0-9]{2,4}", plain):
        value, digit = measured.value / 1000, measured.resolution / 1000
        measured = replace(measured, value=value, high=value, resolution=digit, hint="read as mV")
    return understood(_volts_up_to(within(measured, _LEAST_DROP_V, math.inf), _MOST_DROP_V))


def _transfer(text: str, condition: Condition, subject: Subject) -> Understood:
    """Ohms of an optocoupler's output; or in a word, whether it conducts."""
    word = tidy(text).lower()
    transfer = {"conducts": "0", "yes": "0", "dark": "OL", "no": "OL"}.get(word, text)
    return _ohms(transfer, condition, subject)


def _breakdown(text: str, _: Condition, __: Subject) -> Understood:
    """Volts across a zener that is fed through a resistor."""
    measured = no_voltage_over(read(text, Unit.VOLT))
    return understood(_volts_up_to(replace(measured, hint=""), _MOST_BREAKDOWN_V))


def _battery(text: str, _: Condition, __: Subject) -> Understood:
    measured = no_voltage_over(read(text, Unit.VOLT))
    return understood(_volts_up_to(measured, _MOST_BATTERY_V))


def _volts_up_to(measured: Measured, most: float) -> Measured:
    if not measured.is_over and not 0 <= measured.value <= most:
        raise RangeError(
            f"{show(measured.value, Unit.VOLT)}? Here a meter shows 0 to {most:g} V, or OL: "
            "check the range and the leads."
        )
    return measured


def _held(text: str, _: Condition, subject: Subject) -> Understood:
    measured = within(no_voltage_over(read_span(text, Unit.VOLT)), *VOLTS_RANGE)
    worst = max(measured.value, measured.high, key=abs)
    if subject.rated_v and abs(worst) > _MOST_OF_RATING * subject.rated_v:
        raise RangeError(
            f"{show(worst, Unit.VOLT)} across {subject.name}, a {subject.rated_v:g} V "
            "part? It would have burst. Check the range and the leads."
        )
    return understood(measured)


def _expect_held(_: Condition, subject: Subject) -> str:
    return f"at most {show(subject.limit_v, Unit.VOLT)} to touch, at most 5 V for a meter"


def _expect_fresh(_: Condition, __: Subject) -> str:
    return "a new part of the same value on your meter, or its data sheet"


ESR = Procedure(
    "esr", "ESR", "ESR", Unit.OHM, _PART, _esr, ESR_ACCURACY, _ON_PART, COLD,
    scale=Scale.ESR, verb="Probe",
)  # fmt: skip
CAPACITANCE = Procedure(
    "c", "capacitance", "C", Unit.FARAD, _PART, _farads, CAP_ACCURACY, _ON_PART, COLD,
    scale=Scale.CAPACITANCE, verb="Probe",
)  # fmt: skip
LEAKAGE = Procedure(
    "leak", "leakage", "leakage", Unit.AMPERE, _PART, _leakage, Accuracy(0.03, 2), _ON_PART, COLD,
    settles_s=120.0, verb="Probe", plain="µA",
)  # fmt: skip
OHMS = Procedure(
    "ohms", "resistance", "ohms", Unit.OHM, _PART_OR_PAIR, _ohms, OHMS_ACCURACY, _ON_PART, COLD,
    verb="Probe",
)  # fmt: skip
DIODE = Procedure(
    "diode", "junction drop", "drop", Unit.VOLT, _PAIR, _drop, Accuracy(0.01, 2), _ON_PART, COLD,
    verb="Probe",
)  # fmt: skip
FRESH_ESR = Procedure(
    "fresh-esr", "fresh ESR", "fresh ESR", Unit.OHM, _PART, _esr, ESR_ACCURACY,
    expect=_expect_fresh, is_of_health=False, scale=Scale.ESR,
)  # fmt: skip
FRESH_CAP = Procedure(
    "fresh-c", "fresh C", "fresh C", Unit.FARAD, _PART, _any_farads, CAP_ACCURACY,
    expect=_expect_fresh, is_of_health=False, scale=Scale.CAPACITANCE,
)  # fmt: skip
NEW_ESR = Procedure(
    "new-esr", "ESR of the new part", "new ESR", Unit.OHM, _PART, _esr, ESR_ACCURACY,
    is_of_health=False, scale=Scale.ESR,
)  # fmt: skip
NEW_CAP = Procedure(
    "new-c", "C of the new part", "new C", Unit.FARAD, _PART, _any_farads, CAP_ACCURACY,
    is_of_health=False, scale=Scale.CAPACITANCE,
)  # fmt: skip
BREAKDOWN = Procedure(
    "breakdown", "breakdown through a resistor", "breakdown", Unit.VOLT, _PART, _breakdown,
    VOLTS_ACCURACY, _ON_PART, verb="Probe",
)  # fmt: skip
TRANSFER = Procedure(
    "transfer", "output while the LED is fed", "transfer", Unit.OHM, _PART, _transfer,
    OHMS_ACCURACY, _ON_PART, COLD, verb="Probe",
)  # fmt: skip
BATTERY = Procedure(
    "battery", "backup battery", "battery", Unit.VOLT, _PART, _battery, VOLTS_ACCURACY
)
STORE = Procedure(
    "store", "volts held", "held", Unit.VOLT, _PART, _held, VOLTS_ACCURACY, expect=_expect_held,
    corrects=False, is_of_health=False,
)  # fmt: skip
