"""Every procedure that yields a reading, one frozen object each.

A procedure says how a reading is taken and understood: its code (as in READINGS.csv), unit,
conditions, what it can be taken of, what it needs, and what a sound unit shows. A kind of reading
that comes later is a module beside these and one line in `PROCEDURES`; nothing else asks which
procedure it is.
"""

from __future__ import annotations

from hale_rail.core.errors import InputError
from hale_rail.core.procedures.behind import (
    ACT,
    BEHIND,
    MEMORY_TEST,
    PIN_OHMS,
    ROM,
    SIGNAL,
    WORK,
)
from hale_rail.core.procedures.boards import (
    BOARD_DROP,
    BOARD_OHMS,
    LEG_LIFTED,
    SET_OHMS,
    SPOT,
    WARMTH,
)
from hale_rail.core.procedures.bring_up import CONTINUITY, EARTH, PIN_VOLTS
from hale_rail.core.procedures.parts import (
    BATTERY,
    BREAKDOWN,
    CAP_ACCURACY,
    CAPACITANCE,
    DIODE,
    ESR,
    ESR_ACCURACY,
    FRESH_CAP,
    FRESH_ESR,
    LEAKAGE,
    NEW_CAP,
    NEW_ESR,
    OHMS,
    STORE,
    TRANSFER,
)
from hale_rail.core.procedures.procedure import (
    CONDITIONS,
    REVERSED,
    Accuracy,
    Condition,
    Need,
    Point,
    Procedure,
    ReadingSource,
    Scale,
    Subject,
    Understood,
    last_digit,
    rounding,
    span_text,
)
from hale_rail.core.procedures.rails import GROUND, INJECT, VOLTS, is_turned
from hale_rail.core.targets import parse_target

__all__ = [
    "ACT",
    "BATTERY",
    "BEHIND",
    "BOARD_DROP",
    "BOARD_OHMS",
    "BREAKDOWN",
    "CAPACITANCE",
    "CAP_ACCURACY",
    "CONDITIONS",
    "CONTINUITY",
    "DIODE",
    "EARTH",
    "ESR",
    "ESR_ACCURACY",
    "FRESH_CAP",
    "FRESH_ESR",
    "GROUND",
    "INJECT",
    "LEAKAGE",
    "LEG_LIFTED",
    "MEMORY_TEST",
    "NEW_CAP",
    "NEW_ESR",
    "OHMS",
    "PIN_OHMS",
    "PIN_VOLTS",
    "PROCEDURES",
    "REVERSED",
    "ROM",
    "SET_OHMS",
    "SIGNAL",
    "SPOT",
    "STORE",
    "TRANSFER",
    "VOLTS",
    "WARMTH",
    "WORK",
    "Accuracy",
    "Condition",
    "Need",
    "Point",
    "Procedure",
    "ReadingSource",
    "Scale",
    "Subject",
    "Understood",
    "by_code",
    "is_turned",
    "last_digit",
    "parse_point",
    "rounding",
    "span_text",
]

#: the whole list; a procedure of a later feature is one line more
PROCEDURES: tuple[Procedure, ...] = (
    ESR,
    CAPACITANCE,
    LEAKAGE,
    OHMS,
    DIODE,
    BREAKDOWN,
    TRANSFER,
    FRESH_ESR,
    FRESH_CAP,
    NEW_ESR,
    NEW_CAP,
    BATTERY,
    STORE,
    VOLTS,
    GROUND,
    INJECT,
    SET_OHMS,
    BOARD_DROP,
    BOARD_OHMS,
    WARMTH,
    LEG_LIFTED,
    SPOT,
    PIN_VOLTS,
    CONTINUITY,
    EARTH,
    *BEHIND,
)


def parse_point(key: str) -> Point:
    """The point of an address; raises InputError when there is none."""
    parts = key.split("~")
    if len(parts) > 3:  # the pins of a bridge are written ~1 and ~2
        parts = ["~".join(parts[:-2]), *parts[-2:]]
    procedure = by_code(parts[1]) if len(parts) == 3 else None
    condition = CONDITIONS.get(parts[2]) if len(parts) == 3 else None
    if procedure is None or condition not in procedure.conditions:
        raise InputError("That is not a test point of this unit.")
    target = parse_target(parts[0])
    if target.kind not in procedure.targets:
        raise InputError("That is not a test point of this unit.")
    return Point(target, procedure, condition)


def by_code(code: str) -> Procedure | None:
    """The procedure of a code, or None."""
    return next((p for p in PROCEDURES if p.code == code), None)
