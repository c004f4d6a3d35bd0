"""Reads the designators that begin a line: one, a list of them, or a range."""

from __future__ import annotations

import re

from msgspec import Struct

from hale_rail.core.errors import InputError

#: parts that one line may name
MAX_REFS = 64
_REF = r"([A-Za-z]{1,3})(\d{1,4})([A-Za-z]?)"
_HEAD = re.compile(rf"{_REF}(?!\w|\.(?!\.))")
#: `, R4`, `/R4`, `& R4`; ` - D4`, `-4`, `..D4`
_AND = re.compile(rf"\s*[,;/&+]\s*{_REF}(?![\w.])")
_TO = re.compile(
    rf"(?:\s*(?:-|–|—|\.\.|…)\s*|\s+to\s+){_REF}(?![\w.])|(?:-|–|—|\.\.|…)(\d{{1,4}})(?![\w.])"
)


class Refs(Struct, frozen=True):
    """The designators of a line and the words behind them; `is_certain` where no value reads so."""

    refs: tuple[str, ...]
    rest: str
    is_certain: bool


def read_refs(line: str) -> Refs | None:
    """The designators of a line that names several, or None for one that names one.

    All have the letters of the first, so `F1, T1A` stays one fuse; of `R1,R47` only the words
    behind can tell whether `R47` is a value. Raises InputError for a range that cannot be.
    """
    head = _HEAD.match(line)
    if head is None:
        return None
    letters, at = head[1].upper(), head.end()
    refs, is_certain = [_named(head[1], head[2], head[3])], False
    last = int(head[2])
    while True:
        to, more = _TO.match(line, at), _AND.match(line, at)
        if to and (to[1] or letters).upper() == letters and not to[3]:
            end = int(to[2] or to[4])
            refs += _range(letters, last, end)
            at, last, is_certain = to.end(), end, True
        elif more and more[1].upper() == letters:
            refs.append(_named(more[1], more[2], more[3]))
            at, last = more.end(), int(more[2])
        else:
            break
    if len(refs) == 1:
        return None
    if len(refs) > MAX_REFS:
        raise InputError(f"{len(refs)} parts in one line: at most {MAX_REFS}.")
    return Refs(tuple(refs), line[at:].lstrip(" \t,;"), is_certain)


def _named(letters: str, number: str, suffix: str) -> str:
    return f"{letters}{number}{suffix}".upper()


def _range(letters: str, first: int, last: int) -> list[str]:
    """The designators behind the first of a range."""
    if last <= first:
        raise InputError(f"{letters}{first} to {letters}{last}: write the lower one first.")
    if last - first >= MAX_REFS:
        raise InputError(f"{last - first + 1} parts in one line: at most {MAX_REFS}.")
    return [f"{letters}{number}" for number in range(first + 1, last + 1)]
