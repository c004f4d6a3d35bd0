"""Continuity of a board: pairs that should connect, pairs that should not, and what was measured.

Source: docs/formulas.md, “Drawings”: joined is at most 2 Ω.
"""

from __future__ import annotations

from enum import Enum

from msgspec import Struct

from hale_rail.core.coded import Coded
from hale_rail.core.record.drawings import Check


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
    MEANT = ("meant", "the board is meant so")


MARKS = {mark.code: mark for mark in PairMark}


def state_of(pair: Pairing, ohm: float | None) -> PairState:
    """What a reading in ohms (None: none) says of a pair."""
    if ohm is None:
        return PairState.UNREAD
    if Check(pair.one, pair.other, pair.is_joined, ohm).agrees:
        return PairState.RIGHT
    return PairState.OPEN if pair.is_joined else PairState.UNEXPECTED
