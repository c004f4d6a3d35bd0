"""Whether a drawing is of this board: three connections that can be seen are measured first.

Source: docs/formulas.md, “Drawings”.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.coded_words import Coded

#: connections that must agree before a drawing is trusted
NEEDED = 3
#: copper and a connector read less, anything else more
JOINED_OHM = 2.0


class Trust(Coded):
    """How far a drawing's revision is trusted for a board."""

    UNPROVEN = ("unproven", "unproven")
    PROVEN = ("proven", "proven")
    NOT_THIS_BOARD = ("not-this-board", "not this board")

    @property
    def shape(self) -> str:
        """The shape that it takes, by the code of a part's state."""
        return _SHAPES[self]


_SHAPES = {Trust.UNPROVEN: "unproven", Trust.PROVEN: "good", Trust.NOT_THIS_BOARD: "failed"}


class Check(Struct, frozen=True):
    """A connection as drawn, and what was measured across it in ohms (inf for OL)."""

    one_end: str
    other_end: str
    is_drawn_joined: bool
    ohm: float

    @property
    def is_joined(self) -> bool:
        """True when what was measured is a connection."""
        return not math.isinf(self.ohm) and self.ohm <= JOINED_OHM

    @property
    def agrees(self) -> bool:
        """True when the board is as drawn here."""
        return self.is_joined == self.is_drawn_joined


def trust(checks: Sequence[Check]) -> Trust:
    """One disagreement is enough against a drawing; for it three different connections agree."""
    if any(not check.agrees for check in checks):
        return Trust.NOT_THIS_BOARD
    pairs = {frozenset((c.one_end.casefold(), c.other_end.casefold())) for c in checks}
    return Trust.PROVEN if len(pairs) >= NEEDED else Trust.UNPROVEN
