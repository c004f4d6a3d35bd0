"""Procedures at a rail: its volts, its ohms to ground, a low injection."""

from __future__ import annotations

from hale_rail.core.errors import QuantityError, RangeError
from hale_rail.core.procedures.procedure import (
    COLD,
    OHMS_ACCURACY,
    VOLTS_ACCURACY,
    Condition,
    Need,
    Procedure,
    Subject,
    Understood,
    any_ohms,
    no_voltage_over,
    understood,
)
from hale_rail.core.quantities import Unit, read, read_span, show, tidy
from hale_rail.core.targets import TargetKind

#: the school that injects highest, in volts
_MOST_INJECTED_V = 1.3
_LOADS = (Condition.NO_LOAD, Condition.DUMMY, Condition.MACHINE)
_GROUNDS = (
    Condition.ATTACHED,
    Condition.ISOLATED,
    Condition.ATTACHED_REVERSED,
    Condition.ISOLATED_REVERSED,
)
_RAIL = frozenset({TargetKind.RAIL})


def _rail_volts(text: str, _: Condition, subject: Subject) -> Understood:
    measured = no_voltage_over(read_span(text, Unit.VOLT))
    limit = max(5 * abs(subject.nominal_v or 0.0), 60.0)
    if max(abs(measured.value), abs(measured.high)) > limit:
        raise RangeError(
            f"{show(measured.value, Unit.VOLT)} on {subject.name}? Check the range and the leads."
        )
    return understood(measured)


def _injection(text: str, _: Condition, __: Subject) -> Understood:
    """`0.4 V 120 mA`: volts, then amperes, apart by a space or a slash; R = V/I in ohms."""
    parts = tidy(text).replace("/", " ").replace(";", " ").split()
    for cut in range(1, len(parts)):
        try:
            volt = read(" ".join(parts[:cut]), Unit.VOLT, allow_words=False)
            ampere = read(" ".join(parts[cut:]), Unit.AMPERE, allow_words=False)
        except QuantityError:
            continue
        if not 0 < volt.value <= _MOST_INJECTED_V:
            raise RangeError("Inject above 0 V and at most 1.3 V; 0.3 to 0.5 V proves.")
        if ampere.value <= 0:
            raise RangeError("The current must be above 0 A.")
        ohm = volt.value / ampere.value
        echo = f"{show(volt.value, Unit.VOLT)}, {show(ampere.value, Unit.AMPERE)}: "
        figures = {"volt": volt.value, "ampere": ampere.value}
        return Understood(ohm, ohm, 0.0, echo + show(ohm, Unit.OHM), figures)
    raise QuantityError("Write the volts, then the current: 0.4 V 120 mA.")


def _expect_volts(_: Condition, subject: Subject) -> str:
    if subject.band_v is None:
        return ""
    low, high = subject.band_v
    return f"{show(low, Unit.VOLT, 4)} to {show(high, Unit.VOLT, 4)}"


def _expect_ground(condition: Condition, subject: Subject) -> str:
    if subject.record_ohm:
        return f"about {show(subject.record_ohm, Unit.OHM)}, as a like unit read; let it settle"
    if subject.sheet_ohm:
        return f"about {show(subject.sheet_ohm, Unit.OHM)}; let it settle"
    if condition in (Condition.ISOLATED, Condition.ISOLATED_REVERSED):
        return "a kilohm or more; let it settle"
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
