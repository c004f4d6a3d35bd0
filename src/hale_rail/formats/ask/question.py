"""Reads a question asked in one line. What may be asked is a list: a topic is one line in it."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct

from hale_rail.core.ask.answer import Question
from hale_rail.core.parts.part import Part
from hale_rail.formats.ask import bleed_words, rail_words
from hale_rail.formats.ask.part_words import read_part
from hale_rail.formats.ask.words import words_of


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


def read_question(text: str, before: Part | None = None) -> Question:
    """The question that a line asks; a part unless a topic knows its words.

    `before`: the part asked last, of which a reading alone is taken. Raises InputError, with what
    would be understood.
    """
    words = words_of(text)
    topic = next((topic for topic in TOPICS if topic.is_asked(words)), None)
    return topic.read(text) if topic else read_part(text, before)
