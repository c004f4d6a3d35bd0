"""Continuity of a board: pairs that should connect, pairs that should not, and what was measured.

Source: docs/formulas.md, “Drawings”: joined is at most 2 Ω.
"""

from __future__ import annotations

import re
from enum import Enum

from msgspec import Struct

from hale_rail.core.coded_words import Coded
from hale_rail.core.errors import InputError
from hale_rail.core.intake.drawings import Check

MOST_PINS = 200


class Pairing(Struct, frozen=True):
    """Two ends that should connect, or should not."""

    one: str
    other: str
    is_joined: bool
    note: str = ""


class PairState(Enum):
    """What is known of a pair: as it should be, open where it should connect, or connected where it
    should not."""

    UNREAD = "unread"
    RIGHT = "right"
    OPEN = "open"
    UNEXPECTED = "unexpected"

    @property
    def is_wrong(self) -> bool:
        """True for a pair that is not as it should be."""
        return self in (PairState.OPEN, PairState.UNEXPECTED)


class PairMark(Coded):
    """What came of a pair that was not as it should be."""

    BODGE = ("bodge", "bodge wire fitted")
    CLEARED = ("cleared", "fault cleared")
    MEANT = ("meant", "the board is meant that way")


MARKS = {mark.code: mark for mark in PairMark}
#: so many open pairs of a list ask whether the list is of this board at all
MANY_OPEN = 3
#: what is written where an open end was walked along the other part and met no pin
NO_PARTNER = "none"
_PIN = re.compile(r"(.+?)(?:\.|-| pin | )\s*([A-Za-z]?[0-9]+)")


def part_of(end: str) -> str:
    """The part that an end is a pin of: `U3` of `U3.11`; the end itself where it names no pin."""
    match = _PIN.fullmatch(end)
    return match[1] if match else end


def neighbours(part: str, pins: int, *, is_row: bool) -> list[Pairing]:
    """Pins of a socket that lie side by side and should not connect.

    Dual in line, the two sides are rows of their own; `is_row`: one row. Raises InputError for a
    count that cannot be.
    """
    if pins < 2 or pins > MOST_PINS or (pins % 2 and not is_row):
        raise InputError(f"{part}: 2 to {MOST_PINS} pins, even unless it is a row")
    side = pins if is_row else pins // 2
    beside = [(n, n + 1) for n in range(1, pins) if n % side]
    return [Pairing(f"{part}.{a}", f"{part}.{b}", False, "side by side") for a, b in beside]


def state_of(pair: Pairing, ohm: float | None) -> PairState:
    """What a reading in ohms (None: none) says of a pair."""
    if ohm is None:
        return PairState.UNREAD
    if Check(pair.one, pair.other, pair.is_joined, ohm).agrees:
        return PairState.RIGHT
    return PairState.OPEN if pair.is_joined else PairState.UNEXPECTED
