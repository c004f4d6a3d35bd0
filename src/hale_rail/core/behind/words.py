"""Data words as monitors and tests print them, in hexadecimal, decimal or binary.

A word that means two numbers is asked back where the bad bits would differ, never guessed.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from enum import Enum

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import has_odd_figure, tidy

MOST_BITS = 64
#: a number is asked back in one of these
_HEX = re.compile(r"(?:0x|\$|&h|h')([0-9a-f]{1,16})|([0-9a-f]{1,16})h", re.IGNORECASE)
_BINARY = re.compile(r"(?:0b|%)([01]{1,64})", re.IGNORECASE)
_DECIMAL = re.compile(r"(?:0d|#)([0-9]{1,20})|([0-9]{1,20})\.|dec(?:imal)? ?([0-9]{1,20})",
                      re.IGNORECASE)  # fmt: skip
_BARE_HEX = re.compile(r"[0-9a-f]{1,16}", re.IGNORECASE)
_BARE_DECIMAL = re.compile(r"[0-9]{1,20}")
_BARE_BINARY = re.compile(r"[01]{8}|[01]{16}|[01]{32}")
_THOUSANDS = re.compile(r"[0-9]{1,3}(?:,[0-9]{3})+")
_COMMA = re.compile(r"[0-9a-fx$&h]+(?:,[0-9a-fx$&h]+)+", re.IGNORECASE)


class Base(Enum):
    """The base in which a word is written."""

    HEX = "hex"
    DECIMAL = "decimal"
    BINARY = "binary"


class Written(Struct, frozen=True):
    """A word as written: its values by the base that it may be in.

    `is_marked`: a sign or a letter says its base.
    """

    typed: str
    values: dict[Base, int]
    is_marked: bool

    def fits(self, base: Base, bits: int) -> bool:
        """True where the word is a number of at most so many bits in a base."""
        return base in self.values and not self.values[base] >> bits


def read_written(text: str) -> Written:
    """A word and what it may mean; raises InputError for what is none."""
    clean = "" if has_odd_figure(text) else tidy(text).replace(" ", "")
    marked = _marked(clean)
    if marked:
        return Written(text.strip(), dict([marked]), is_marked=True)
    _refuse_commas(clean)
    values: dict[Base, int] = {}
    if _BARE_HEX.fullmatch(clean):
        values[Base.HEX] = int(clean, 16)
    if _BARE_DECIMAL.fullmatch(clean):
        values[Base.DECIMAL] = int(clean)
    if _BARE_BINARY.fullmatch(clean):
        values[Base.BINARY] = int(clean, 2)
    if not values:
        raise InputError(
            f"“{text.strip()[:20]}” is not a data word: write A5, 0xA5, $A5, A5h, 165. or "
            "0b10100101."
        )
    return Written(text.strip(), values, is_marked=len(values) == 1)


def _marked(clean: str) -> tuple[Base, int] | None:
    """A word whose base is written with it."""
    for pattern, base, radix in (
        (_HEX, Base.HEX, 16),
        (_BINARY, Base.BINARY, 2),
        (_DECIMAL, Base.DECIMAL, 10),
    ):
        match = pattern.fullmatch(clean)
        if match:
            figures = next(group for group in match.groups() if group)
            return base, int(figures, radix)
    return None


def _refuse_commas(clean: str) -> None:
    if _THOUSANDS.fullmatch(clean):
        raise InputError(
            f"“{clean}”: one number with a comma for thousands, or two words? Write "
            f"{clean.replace(',', '')}. for the decimal number, or {clean.replace(',', ':')}."
        )
    if _COMMA.fullmatch(clean):
        raise InputError(f"“{clean}”: two words? Write {clean.replace(',', ':', 1)}.")


def numbers(words: Sequence[Written], bits: int, base: Base | None = None) -> list[int]:
    """The numbers of words of one reading, all bare ones in one base.

    `base`: the base that a person chose for bare words. Raises InputError where a word is too wide,
    or hexadecimal and decimal would show other bad bits.
    """
    choices = [base] if base else _bases(words, bits)
    found = {
        one: [_value(word, one) for word in words] for one in choices if _all(words, one, bits)
    }
    if not found:
        _refuse_wide(words, bits)
    if len({_told(values) for values in found.values()}) > 1:
        _ask(words, list(found))
    return next(iter(found.values()))


def _refuse_wide(words: Sequence[Written], bits: int) -> None:
    for word in words:
        if not any(word.fits(base, bits) for base in word.values):
            raise InputError(f"“{word.typed[:20]}” has more than {bits} bits.")
    both = " and ".join(f"“{word.typed[:20]}”" for word in words)
    raise InputError(
        f"{both} are in no one base within {bits} bits: mark each, 0x80 or 128. with a point."
    )


def _told(values: Sequence[int]) -> tuple[int, ...]:
    """What numbers tell: of two the bad bits and how they read, of one, a mask, its bits."""
    if len(values) == 1:
        return tuple(values)
    written, read = values
    return written & ~read, read & ~written


def _bases(words: Sequence[Written], bits: int) -> list[Base]:
    """The bases in which bare words may be; one that is marked decides for those beside it."""
    marked = [next(iter(word.values)) for word in words if word.is_marked]
    bare = [word for word in words if not word.is_marked]
    if marked and bare and all(marked[0] in word.values for word in bare):
        return [marked[0]]
    return [base for base in Base if _all(words, base, bits)] or list(Base)


def _all(words: Sequence[Written], base: Base, bits: int) -> bool:
    return all(
        word.fits(next(iter(word.values)) if word.is_marked else base, bits) for word in words
    )


def _value(word: Written, base: Base) -> int:
    return next(iter(word.values.values())) if word.is_marked else word.values[base]


def _ask(words: Sequence[Written], bases: Sequence[Base]) -> None:
    bare = next(word.typed for word in words if not word.is_marked)
    names = {
        Base.HEX: f"0x{bare} for hexadecimal",
        Base.DECIMAL: f"{bare}. (with a point) for decimal",
        Base.BINARY: f"0b{bare} for binary",
    }
    ways = " or ".join(names[base] for base in bases)
    asked = " or ".join(base.value for base in bases)
    raise InputError(f"“{bare}”: {asked}? The bad bits differ. Write {ways}.")
