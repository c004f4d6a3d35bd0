"""Which end of a capacitor is which, by family and mounting, and what a board's own mark may mean.

Source: docs/formulas.md, “Polarity”. A stripe on one family is plus, on another minus; a board's
mark differs by maker, so it is asked once per board and proven on a part known to be original.
"""

from __future__ import annotations

from enum import Enum

from msgspec import Struct

from hale_rail.core.coded_words import Coded
from hale_rail.core.parts.families import Family


class Mounting(Enum):
    """How a part sits on its board."""

    RADIAL = "radial can"
    AXIAL = "axial"
    SURFACE = "surface mount"
    DIPPED = "dipped bead"


class BoardMark(Coded):
    """What a board prints at a polarised part: `code` as stored, `words` as one says it."""

    PLUS_SIGN = ("plus-sign", "plus sign at the positive pad")
    HALF_NEGATIVE = ("half-negative", "filled half at the negative pad")
    HALF_POSITIVE = ("half-positive", "filled half at the positive pad")
    SQUARE_POSITIVE = ("square-positive", "square pad is positive")
    SQUARE_NEGATIVE = ("square-negative", "square pad is negative")
    DOT_POSITIVE = ("dot-positive", "dot at the positive pad")
    NONE = ("none", "no mark at all")


MARKS_BY_CODE = {mark.code: mark for mark in BoardMark}


class Mark(Struct, frozen=True):
    """What is printed on a part, which end it marks, and how to say it."""

    mounting: Mounting
    is_positive: bool
    words: str


_ALUMINIUM = (
    Mark(Mounting.RADIAL, False, "The stripe with minus signs is negative."),
    Mark(
        Mounting.AXIAL,
        False,
        "The arrow points at negative; the crimped, insulated end is positive.",
    ),
    Mark(Mounting.SURFACE, False, "The black quarter on top is negative."),
)
_TANTALUM = (
    Mark(Mounting.DIPPED, True, "The plus sign, or the band beside it, is positive."),
    Mark(Mounting.SURFACE, True, "The band is positive."),
    Mark(Mounting.AXIAL, True, "The band, or the plus sign, is positive."),
)
_POLYMER = (
    Mark(Mounting.RADIAL, False, "The coloured half or stripe is negative."),
    Mark(Mounting.SURFACE, True, "Moulded: the band is positive."),
)
_MARKS = {Family.ALUMINIUM: _ALUMINIUM, Family.TANTALUM: _TANTALUM, Family.POLYMER: _POLYMER}


def marks(family: Family | None) -> tuple[Mark, ...]:
    """The marks to be met on a family; empty where there is no polarity, or none is known."""
    return _MARKS.get(family, ()) if family else ()


def unpolarised_words(family: Family | None) -> str:
    """What to say of a part that has no polarity; "" where it has one or none is known."""
    if family is None or family in _MARKS:
        return ""
    if family is Family.ALUMINIUM_BIPOLAR:
        return "Bipolar: either way round, and only a bipolar part takes its place."
    return "No polarity: either way round."
