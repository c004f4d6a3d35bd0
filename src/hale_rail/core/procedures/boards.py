"""Procedures of the short trace: along a board's copper, and with parts of the machine detached.

What is read is named by texts: a drop by the map and two pads, each with the pad of its clamp
(`+12 V/p7@P1`), a board's part by the map and its id, a set by its rail and what is attached.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.errors import QuantityError, RangeError
from hale_rail.core.procedures.procedure import (
    COLD,
    OHMS_ACCURACY,
    Accuracy,
    Condition,
    Procedure,
    Subject,
    Understood,
    any_ohms,
    exact_ohms,
    understood,
)
from hale_rail.core.quantities import Measured, Unit, read, show, tidy
from hale_rail.core.targets import Target, TargetKind

#: the most that a limited supply leaves across a shorted rail
_MOST_V = 1.3
#: below this many ohms the rail is still short
_SHORT_OHM = 1.0
_USUAL_A = 1.0
_BARE = re.compile(r"[-−+]?[0-9]*[.,]?[0-9]+")
_WORDS = {"gone": math.inf, "remains": 0.0}


class Ends(Struct, frozen=True):
    """Where probes and clamps are on a map; `inject` and `drain` "" for ohms."""

    rail: str
    plus: str
    minus: str
    inject: str = ""
    drain: str = ""

    @property
    def target(self) -> Target:
        """The same as what is read."""
        plus = f"{self.rail}/{self.plus}" + (f"@{self.inject}" if self.inject else "")
        minus = self.minus + (f"@{self.drain}" if self.drain else "")
        return Target(TargetKind.CONNECTION, plus=plus, minus=minus)

    @property
    def words(self) -> str:
        """The same as one says it."""
        probes = f"pad {self.plus} to pad {self.minus}"
        return f"{probes}, in at {self.inject}, out at {self.drain}" if self.inject else probes


def ends_of(target: Target) -> Ends:
    """Probes and clamps of a target that `Ends.target` made."""
    rail, _, plus = target.plus.partition("/")
    probe, _, inject = plus.partition("@")
    other, _, drain = target.minus.partition("@")
    return Ends(rail, probe, other, inject, drain)


def board_part(rail: str, part_id: str) -> Target:
    """A part that is on a map."""
    return Target(TargetKind.PAD, plus=f"{rail}/{part_id}")


def board_part_of(target: Target) -> str:
    """The id of a part that is on a map."""
    return target.plus.partition("/")[2]


def attached_set(rail: str, ids: Iterable[str]) -> Target:
    """A rail with some items attached, the rest off."""
    return Target(TargetKind.ITEM, plus=rail, minus=";".join(ids))


def attached_of(target: Target) -> tuple[str, ...]:
    """The items that are attached in such a target."""
    return tuple(item for item in target.minus.split(";") if item)


def board_words(target: Target) -> str:
    """What is read of a board or a set, as one says it; "" for another target."""
    if target.kind is TargetKind.CONNECTION:
        return ends_of(target).words
    if target.kind is TargetKind.PAD:
        return f"{target.line}, {board_part_of(target)}"
    if target.kind is TargetKind.ITEM:
        return f"{target.line} with {', '.join(attached_of(target)) or 'nothing'} attached"
    return ""


def _drop(text: str, _: Condition, subject: Subject) -> Understood:
    """`3.1` or `3.1 mV`, and the current behind it where it is not as proposed: `3.1 mV 0.8 A`."""
    words = tidy(text).replace(";", " ").split()
    amps = subject.amps or _USUAL_A
    if len(words) > 1 and words[-1][-1:] in "aA":
        cut = -2 if words[-1].lower() in ("a", "ma") else -1
        amps = read(" ".join(words[cut:]), Unit.AMPERE, allow_words=False).value
        words = words[:cut]
    measured = _millivolts(" ".join(words))
    if abs(measured.value) > _MOST_V:
        shown = show(measured.value, Unit.VOLT)
        raise RangeError(f"{shown} along copper? Limit the supply to 0.5 V; a plain number is mV.")
    if not 0 < amps <= 10:
        raise RangeError("The current must be above 0 A and at most 10 A.")
    echo = f"{understood(measured).echo} at {show(amps, Unit.AMPERE)}"
    return replace(understood(measured), echo=echo, figures={"amps": amps})


def _millivolts(text: str) -> Measured:
    """A drop; a plain number is millivolts, as copper drops them."""
    measured = read(text, Unit.VOLT, allow_words=False)
    if not _BARE.fullmatch(text):
        return measured
    value, digit = measured.value * 1e-3, measured.resolution * 1e-3
    hint = "a plain number is read as mV"
    return replace(measured, value=value, high=value, resolution=digit, hint=hint)


def _lifted(text: str, _: Condition, __: Subject) -> Understood:
    """The rail's ohms with the leg lifted, or the word `gone` or `remains`."""
    word = tidy(text).lower()
    if word in _WORDS:
        ohm = _WORDS[word]
        return Understood(ohm, ohm, 0.0, f"the short {_verb(ohm)}")
    try:
        measured = read(text, Unit.OHM)
    except QuantityError as error:
        raise QuantityError(f"{error} Or write gone or remains.") from error
    meant = understood(measured)
    return replace(meant, echo=f"{meant.echo}: the short {_verb(measured.value)}")


def _verb(ohm: float) -> str:
    return "remains" if ohm < _SHORT_OHM else "is gone"


def is_gone(ohm: float) -> bool:
    """True when a rail of so many ohms is no longer short."""
    return ohm >= _SHORT_OHM


def _warm(text: str, _: Condition, __: Subject) -> Understood:
    """°C above the room, or `rank 1` for the warmest."""
    word = tidy(text).lower()
    if match := re.fullmatch(r"(?:rank|#)\s*([1-9])", word):
        return Understood(float(match[1]), float(match[1]), 0.0, f"number {match[1]} by warmth",
                          {"is_rank": 1.0})  # fmt: skip
    measured = read(text, Unit.CELSIUS, allow_words=False)
    if not -10 <= measured.value <= 150:
        raise RangeError("Write °C above the room, 0 to 150, or rank 1 for the warmest.")
    return replace(understood(measured), echo=f"{measured.value:g} °C above the room")


def _expect_set(_: Condition, __: Subject) -> str:
    return "ohms to ground, power off; let it settle. Or write runs, dead, beep, no beep"


def _expect_lifted(_: Condition, __: Subject) -> str:
    return "the rail's ohms to ground with the leg lifted; or write gone, remains"


def _expect_warm(_: Condition, __: Subject) -> str:
    return "°C above the room by a finger-safe means, or rank 1 for the warmest"


def _spot(text: str, _: Condition, __: Subject) -> Understood:
    """Rail to ground at one suspect while a current flows: millivolts, or ohms as they are."""
    clean = tidy(text)
    if _OHMS_WRITTEN.search(clean):
        measured = read(clean, Unit.OHM, allow_words=False)
        meant = understood(measured)
        return replace(meant, figures={"is_ohm": 1.0})
    return understood(_millivolts(clean))


def _expect_spot(_: Condition, __: Subject) -> str:
    return "least at the short; 0.5 to 1 A into the rail, at most 0.5 V"


_OHMS_WRITTEN = re.compile(r"(?:Ω|ohms?|R)$|[0-9]R[0-9]", re.IGNORECASE)
_PROBES = frozenset({TargetKind.CONNECTION})
_BOARD_PART = frozenset({TargetKind.PAD})


def _set_ohms(text: str, condition: Condition, subject: Subject) -> Understood:
    """Ohms with a set attached; or whether it `runs`, or is `dead`, where none were read."""
    word = tidy(text).lower()
    if word in ("runs", "starts"):
        return Understood(RUNS_OHM, math.inf, 0.0, "it runs: no short in what is attached")
    if word in ("dead", "silent", "does not run", "does not start"):
        return Understood(0.0, DEAD_OHM, 0.0, "it does not run: a short in what is attached")
    return any_ohms(text, condition, subject)


SET_OHMS = Procedure(
    "set-ohms", "ohms to ground", "to ground", Unit.OHM, frozenset({TargetKind.ITEM}), _set_ohms,
    OHMS_ACCURACY, needs=COLD, expect=_expect_set, is_of_health=False,
)  # fmt: skip
BOARD_DROP = Procedure(
    "drop", "drop along copper", "drop", Unit.VOLT, _PROBES, _drop, Accuracy(0.005, 2), needs=COLD,
    is_of_health=False, plain="mV",
)  # fmt: skip
BOARD_OHMS = Procedure(
    "board-ohms", "ohms across the board", "ohms", Unit.OHM, _PROBES, exact_ohms, OHMS_ACCURACY,
    needs=COLD, is_of_health=False,
)  # fmt: skip
WARMTH = Procedure(
    "warm", "warmth", "warmth", Unit.CELSIUS, _BOARD_PART, _warm, Accuracy(0.0, 2), needs=COLD,
    expect=_expect_warm, is_of_health=False, verb="Feel",
)  # fmt: skip
SPOT = Procedure(
    "spot", "millivolts at it", "at it", Unit.VOLT, frozenset({TargetKind.PART}), _spot,
    Accuracy(0.005, 2), needs=COLD, expect=_expect_spot, is_of_health=False, plain="mV",
)  # fmt: skip
LEG_LIFTED = Procedure(
    "lifted", "rail to ground, its leg lifted", "lifted", Unit.OHM, _BOARD_PART, _lifted,
    OHMS_ACCURACY, needs=COLD, expect=_expect_lifted, is_of_health=False,
)  # fmt: skip


#: ohms that a set that runs has at least, and one that does not start at most, by all likelihood
RUNS_OHM, DEAD_OHM = 5.0, 1.0
