"""Words that files and the store write as a code."""

from __future__ import annotations

from enum import Enum


class Coded(Enum):
    """One of a list: `code` as files and the store have it, `words` as one says it."""

    def __init__(self, code: str, words: str) -> None:
        self.code = code
        self.words = words
