"""Several parts at once: “C20 to C27, evenly between two presses”."""

from __future__ import annotations

import re
from collections.abc import Sequence

from hale_rail.core.errors import InputError
from hale_rail.core.places.laying import XY

#: parts that one row may have
MOST_IN_ROW = 60
_SPAN = re.compile(
    r"([A-Z]{1,4})([0-9]{1,4})\s*(?:to|\.\.\.?|…|-|–|—|−)\s*([A-Z]{0,4})([0-9]{1,4})",
    re.IGNORECASE,
)
_BETWEEN = re.compile(r"[,;]|\s+and\s+")


def row_names(text: str) -> list[str]:
    """The designators of a row in order: `C20 to C27`, `C27-C20`, `R3, R1, C5..C7`.

    Raises InputError for a text that is not wholly understood, for a part that is named twice, for
    fewer than two parts, and for too many.
    """
    names: list[str] = []
    for piece in _BETWEEN.split(text.strip()):
        names += _names(piece.strip())
    twice = next((name for name in names if names.count(name) > 1), "")
    if twice:
        raise InputError(f"{twice} stands there twice.", field="refs")
    if not 2 <= len(names) <= MOST_IN_ROW:
        raise InputError(f"A row has from 2 to {MOST_IN_ROW} parts: C20 to C27.", field="refs")
    return names


def _names(piece: str) -> list[str]:
    span = _SPAN.fullmatch(piece)
    if span is None:
        if not re.fullmatch(r"\S{1,24}", piece):
            words = f"“{piece[:24]}” is not a designator: write C20 to C27, or C20, C22."
            raise InputError(words, field="refs")
        return [piece.upper()]
    letters, first, other, last = span[1].upper(), int(span[2]), span[3].upper(), int(span[4])
    if other not in ("", letters):
        raise InputError(f"{letters}{first} to {other}{last} is not one row.", field="refs")
    if abs(last - first) >= MOST_IN_ROW:
        raise InputError(f"A row has at most {MOST_IN_ROW} parts.", field="refs")
    step = 1 if last >= first else -1
    width = len(span[2]) if span[2].startswith("0") else 0
    return [f"{letters}{number:0{width}d}" for number in range(first, last + step, step)]


def evenly(count: int, first: XY, last: XY) -> Sequence[XY]:
    """Places evenly from the first to the last, both ends among them; `count` is two or more."""
    shares = [nth / (count - 1) for nth in range(count)]
    return [
        (first[0] + share * (last[0] - first[0]), first[1] + share * (last[1] - first[1]))
        for share in shares
    ]
