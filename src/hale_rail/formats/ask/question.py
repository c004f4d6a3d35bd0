"""Reads a question asked in one line. What may be asked is a list: a topic is one line in it."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.ask.answer import Question
from hale_rail.core.ask.parts import PartQuestion, UnmarkedQuestion
from hale_rail.core.supply.sheet import TRUNK
from hale_rail.formats.ask import bleed_words, rail_words
from hale_rail.formats.ask.part_words import read_part
from hale_rail.formats.ask.words import words_of
from hale_rail.formats.units.part_words import write_part


class Topic(Struct, frozen=True):
    """What may be asked besides a part: whether words ask it, and how they are read."""

    is_asked: Callable[[list[str]], bool]
    read: Callable[[str], Question]


TOPICS = (
    Topic(bleed_words.is_bleed, bleed_words.read_bleed),
    Topic(rail_words.is_ripple, rail_words.read_ripple),
    Topic(rail_words.is_ground, rail_words.read_ground),
    Topic(rail_words.is_rail, rail_words.read_rail_volts),
)


def read_question(text: str) -> Question:
    """The question that a line asks; a part unless a topic knows its words.

    Raises InputError, with what would be understood.
    """
    words = words_of(text)
    topic = next((topic for topic in TOPICS if topic.is_asked(words)), None)
    return topic.read(text) if topic else read_part(text)


def follow_up(text: str, before: str) -> str:
    """A reading without a part, of the part that was asked before; any other text as it is.

    Raises InputError for a text that is not understood.
    """
    if not isinstance(read_question(text), UnmarkedQuestion) or not before:
        return text
    asked = read_question(before)
    if not isinstance(asked, PartQuestion) or asked.part.capacitor is None:
        return text
    times = f"{asked.count}x" if asked.count > 1 else ""
    line = "" if asked.part.line == TRUNK else asked.part.line
    return f"{times}{write_part(replace(asked.part, bank='', line=line))} {text}"
