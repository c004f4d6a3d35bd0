"""Words that files and the store write as a code."""

from __future__ import annotations

from enum import Enum
from typing import Self


class Coded(Enum):
    """One of a list: `code`, its value, as files and the store have it, `words` as one says it."""

    code: str
    words: str

    def __new__(cls, code: str, words: str) -> Self:
        """A member of the list."""
        member = object.__new__(cls)
        member._value_ = code
        member.code, member.words = code, words
        return member
