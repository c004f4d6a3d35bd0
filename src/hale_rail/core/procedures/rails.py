"""Procedures at a rail: its volts, its ohms to ground, a low injection."""

from __future__ import annotations

import math
import re

from msgspec.structs import replace

from hale_rail.core.errors import QuantityError, RangeError
from hale_rail.core.procedures.procedure import (
    COLD,
    OHMS_ACCURACY,
    VOLTS_ACCURACY,
    VOLTS_RANGE,
    Condition,
    Need,
    Procedure,
    Subject,
    Understood,
    any_ohms,
    no_voltage_over,
    understood,
    within,
)
from hale_rail.core.quantities import Measured, Unit, read, show, tidy
from hale_rail.core.ranges import read_span
from hale_rail.core.targets import TargetKind

#: the school that injects highest, in volts
_MOST_INJECTED_V = 1.3
#: share of nominal from which a reading of the other sign is not a leak
WRONG_SIGN_SHARE = 0.10
_LOADS = (Condition.NO_LOAD, Condition.DUMMY, Condition.MACHINE)
_GROUNDS = (
    Condition.ATTACHED,
    Condition.ISOLATED,
    Condition.ATTACHED_REVERSED,
    Condition.ISOLATED_REVERSED,
)
_RAIL = frozenset({TargetKind.RAIL})
_AC = re.compile(r"~$|vac\b|\bac\b|[0-9]ac\b", re.IGNORECASE)
_DC = re.compile(r"vdc\b|\bdc\b|[0-9]dc\b", re.IGNORECASE)
_AMPERES = re.compile(r"[0-9] ?(?:[um]|micro|milli)?a(?:mps?|mperes?)?$", re.IGNORECASE)
_AT_CURRENT = re.compile(r"(.+?)\s*(?:@|\bat\b)\s*(.+)")


def _rail_volts(text: str, _: Condition, subject: Subject) -> Understood:
    """`4.93`, jumping `4.8..5.2`, and with the load's current behind it: `4.93 V at 9 A`."""
    volts, amps = _with_current(text)
    ask_of_ac(volts, subject)
    measured = within(no_voltage_over(read_span(volts, Unit.VOLT)), *VOLTS_RANGE)
    limit = max(5 * abs(subject.nominal_v or 0.0), 60.0)
    if max(abs(measured.value), abs(measured.high)) > limit:
        raise RangeError(
            f"{show(measured.value, Unit.VOLT)} on {subject.name}? Check the range and the leads."
        )
    _ask_sign(measured, subject)
    meant = understood(measured)
    if amps is None:
        return meant
    echo = f"{meant.echo} at {show(amps, Unit.AMPERE)}"
    return replace(meant, echo=echo, figures={"load_a": amps})


def ask_of_ac(text: str, subject: Subject) -> None:
    """Raises QuantityError for volts that are marked AC on a DC rail, and DC on an AC one."""
    is_ac, is_dc = bool(_AC.search(tidy(text))), bool(_DC.search(tidy(text)))
    if is_ac and not subject.is_ac:
        raise QuantityError(
            f"AC on {subject.name}, a DC rail: set the meter to DC and read again. AC there is "
            "ripple; an AC rail is marked so on the sheet."
        )
    if is_dc and subject.is_ac:
        raise QuantityError(f"DC on {subject.name}, an AC rail: set the meter to AC.")


def _with_current(text: str) -> tuple[str, float | None]:
    """The volts, and the amperes behind `at` or `@`; raises QuantityError for no current."""
    match = _AT_CURRENT.fullmatch(tidy(text))
    if match is None:
        return text, None
    amps = read(match[2], Unit.AMPERE, allow_words=False).value
    if not amps > 0:
        raise RangeError("A load's current is above 0 A; without one leave it out.")
    return match[1], amps


def _ask_sign(measured: Measured, subject: Subject) -> None:
    """Ask back a sign that is not the rail's."""
    nominal = subject.nominal_v
    if not nominal or subject.is_filed or subject.is_ac:
        return
    if not is_turned(measured.value, measured.high, nominal):
        return
    shown, meant = show(measured.value, Unit.VOLT), show(-measured.value, Unit.VOLT)
    raise QuantityError(
        f"{shown} on {subject.name}: leads the other way round? Turn them and write {meant}."
    )


def is_turned(low_v: float, high_v: float, nominal_v: float) -> bool:
    """True for volts whose sign is against the rail's, by more than a leak into a dead rail."""
    against = [volt for volt in (low_v, high_v) if volt * nominal_v < 0]
    return any(abs(volt) > WRONG_SIGN_SHARE * abs(nominal_v) for volt in against)


def _injection(text: str, _: Condition, __: Subject) -> Understood:
    """`0.4 V 120 mA`, `90 mA at 1.3 V`: volts and amperes; R = V/I in ohms."""
    parts = re.sub(r"[/;@]|\bat\b|\band\b|,\s", " ", tidy(text)).split()
    for cut in range(1, len(parts)):
        first, second = " ".join(parts[:cut]), " ".join(parts[cut:])
        if _AMPERES.search(first) and not _AMPERES.search(second):
            first, second = second, first
        try:
            volt = read(first, Unit.VOLT, allow_words=False)
            ampere = read(second, Unit.AMPERE, allow_words=False)
        except QuantityError:
            continue
        if second.replace(".", "").replace(",", "").isdecimal():
            raise QuantityError(f"“{second}”: milliamperes or amperes? Write {second} mA.")
        return _injected(volt.value, ampere.value)
    raise QuantityError("Write the volts, then the current: 0.4 V 120 mA.")


def _injected(volt: float, ampere: float) -> Understood:
    if not 0 < volt <= _MOST_INJECTED_V:
        raise RangeError("Inject above 0 V and at most 1.3 V; 0.3 to 0.5 V proves.")
    if ampere < 0:
        raise RangeError("The current must not be below 0 A: turn the leads round.")
    ohm = volt / ampere if ampere else math.inf
    echo = f"{show(volt, Unit.VOLT)}, {show(ampere, Unit.AMPERE)}: {show(ohm, Unit.OHM)}"
    return Understood(ohm, ohm, 0.0, echo, {"volt": volt, "ampere": ampere})


def _expect_volts(_: Condition, subject: Subject) -> str:
    if subject.band_v is None:
        return ""
    low, high = subject.band_v
    kind = " AC" if subject.is_ac else ""
    return f"{show(low, Unit.VOLT, 4)} to {show(high, Unit.VOLT, 4)}{kind}"


def _expect_ground(condition: Condition, subject: Subject) -> str:
    if subject.record_ohm:
        return f"about {show(subject.record_ohm, Unit.OHM)}, as a like unit read; let it settle"
    if subject.sheet_ohm:
        return f"about {show(subject.sheet_ohm, Unit.OHM)}; let it settle"
    if condition in (Condition.ISOLATED, Condition.ISOLATED_REVERSED):
        return "kilohms, or a bleeder of 100 Ω and up; let it settle"
    return "above 1 Ω; let it settle"


def _expect_injection(_: Condition, __: Subject) -> str:
    return "0.3 to 0.5 V from a limited supply; write volts and current"


VOLTS = Procedure(
    "volts", "volts", "volts", Unit.VOLT, _RAIL, _rail_volts, VOLTS_ACCURACY, _LOADS,
    frozenset({Need.POWERED}), _expect_volts,
)  # fmt: skip
GROUND = Procedure(
    "ground", "ohms to ground", "to ground", Unit.OHM, _RAIL, any_ohms, OHMS_ACCURACY, _GROUNDS,
    COLD, _expect_ground,
)  # fmt: skip
INJECT = Procedure(
    "inject", "low injection", "injected", Unit.OHM, _RAIL, _injection, OHMS_ACCURACY,
    (Condition.ATTACHED, Condition.ISOLATED), COLD, _expect_injection,
)  # fmt: skip
