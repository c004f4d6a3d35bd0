"""Procedures of the end of the work: volts at a pin, a connection between two, earth continuity.

What is read is named by texts: a pin of the harness `harness/3`, a chip's pin `chip/U7 pin 16`, two
ends of a list `list/board-1/P1.3` and `U7.16`, earth by `earth`.
"""

from __future__ import annotations

from msgspec.structs import replace

from hale_rail.core.errors import RangeError
from hale_rail.core.procedures.procedure import (
    COLD,
    OHMS_ACCURACY,
    VOLTS_ACCURACY,
    Condition,
    Need,
    Procedure,
    Subject,
    Understood,
    no_voltage_over,
    shown_ohms,
    understood,
)
from hale_rail.core.procedures.rails import ask_of_ac
from hale_rail.core.quantities import Unit, show, tidy
from hale_rail.core.ranges import read_span
from hale_rail.core.targets import Target, TargetKind

_PIN = frozenset({TargetKind.PIN})
_MOST_V = 60.0
HARNESS, CHIP, LIST, EARTH_POINT = "harness", "chip", "list", "earth"


def pin_target(group: str, name: str) -> Target:
    """A pin by the group that it is of: `harness` or `chip`."""
    return Target(TargetKind.PIN, plus=f"{group}/{name}")


def joint_target(key: str, one: str, other: str) -> Target:
    """Two ends of a list of connections, by its key."""
    return Target(TargetKind.PIN, plus=f"{LIST}/{key}/{one}", minus=other)


EARTH_TARGET = Target(TargetKind.PIN, plus=EARTH_POINT)


def group_of(target: Target) -> tuple[str, str]:
    """The group of a pin and its name there; of a joint the list's key and its first end."""
    group, _, name = target.plus.partition("/")
    return group, name


def machine_words(target: Target) -> str:
    """A pin, or two ends, as one says it; "" for another target."""
    if target.kind is not TargetKind.PIN:
        return ""
    group, name = group_of(target)
    if group == EARTH_POINT:
        return "earth pin to case"
    if group == LIST:
        return f"{name.partition('/')[2]} to {target.minus}"
    return f"harness pin {name}" if group == HARNESS else name


def _volts(text: str, _: Condition, subject: Subject) -> Understood:
    ask_of_ac(text, subject)
    measured = no_voltage_over(read_span(text, Unit.VOLT))
    if max(abs(measured.value), abs(measured.high)) > _MOST_V:
        raise RangeError(
            f"{show(measured.value, Unit.VOLT)} at {subject.name}? Check the range and the leads."
        )
    return understood(measured)


def _continuity(text: str, condition: Condition, subject: Subject) -> Understood:
    """Ohms between two points; a beep is a connection."""
    understood = shown_ohms(text, condition, subject)
    is_beep = tidy(text).lower() in ("beep", "beeps")
    return replace(understood, value=0.0) if is_beep else understood


PIN_VOLTS = Procedure(
    "pin-volts", "volts", "volts", Unit.VOLT, _PIN, _volts, VOLTS_ACCURACY,
    needs=frozenset({Need.POWERED}),
)  # fmt: skip
CONTINUITY = Procedure(
    "continuity", "continuity", "continuity", Unit.OHM, _PIN, _continuity, OHMS_ACCURACY,
    needs=COLD, verb="Touch",
)  # fmt: skip
EARTH = Procedure(
    "earth", "earth continuity", "earth", Unit.OHM, _PIN, shown_ohms, OHMS_ACCURACY, needs=COLD,
)  # fmt: skip
