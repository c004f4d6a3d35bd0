"""Marks that are drawn on a photo and kept as data: a ring, an arrow, a word."""

from __future__ import annotations

import math

from msgspec import Struct

from hale_rail.core.coded_words import Coded
from hale_rail.core.errors import InputError
from hale_rail.core.places.laying import XY

#: characters that a mark may say
LONGEST_WORDS = 40


class MarkShape(Coded):
    """What is drawn. `NONE` takes a mark off again."""

    NONE = "", "taken off"
    RING = "ring", "ring"
    ARROW = "arrow", "arrow"
    WORD = "word", "word"


class DrawnMark(Struct, frozen=True):
    """A mark on a photo, in its pixels.

    From the ring's middle to its rim, from the arrow's tail to its head; a word stands at `start`.
    """

    shape: MarkShape
    start: XY
    end: XY
    words: str = ""


def check_mark(mark: DrawnMark, photo_px: tuple[int, int]) -> DrawnMark:
    """The mark with its words tidied; raises InputError for one that cannot be drawn."""
    words = " ".join(mark.words.split())
    if len(words) > LONGEST_WORDS:
        raise InputError(f"At most {LONGEST_WORDS} characters.", field="words")
    if mark.shape is MarkShape.WORD and not words:
        raise InputError("Type the word that is to stand there.", field="words")
    width, height = photo_px
    for x, y in (mark.start, mark.end):
        if not (-width <= x <= 2 * width and -height <= y <= 2 * height):
            raise InputError("The mark is not on the photo.")
    if mark.shape in (MarkShape.RING, MarkShape.ARROW) and math.dist(mark.start, mark.end) < 1:
        raise InputError("Press twice: the two points lie on one another.")
    return DrawnMark(mark.shape, mark.start, mark.end, words)
