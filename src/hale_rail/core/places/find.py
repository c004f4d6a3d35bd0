"""Finds parts on a photo by designator, value, verdict, or what is still to be done with them."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable

from msgspec import Struct

from hale_rail.core.coded_words import Coded
from hale_rail.core.errors import InputError
from hale_rail.core.parts.states import PartState
from hale_rail.core.quantities import Unit, read

#: values are the same when they differ by less than this share
_SAME = 1e-3


class Wish(Coded):
    """What can be asked of a part beside its verdict."""

    UNREAD = "unread", "unread"
    TO_REPLACE = "to-replace", "to replace"
    UNPLACED = "unplaced", "unplaced"


class Findable(Struct, frozen=True):
    """A part as it can be found: what is printed on it, its verdict, what is to be done with it.

    `value` in SI with its unit, `volt` its rated voltage; None where not known.
    """

    id: int
    ref: str
    name: str
    value: float | None
    unit: Unit | None
    volt: float | None
    state: PartState
    wishes: frozenset[Wish]


Test = Callable[[Findable], bool]
_WORDS: dict[str, Test] = {
    **{state.value: (lambda one, state=state: one.state is state) for state in PartState},  # type: ignore[misc]
    **{wish.words: (lambda one, wish=wish: wish in one.wishes) for wish in Wish},  # type: ignore[misc]
    "not looked at": lambda one: one.state is PartState.UNSEEN,
    "not read": lambda one: Wish.UNREAD in one.wishes,
    "not placed": lambda one: Wish.UNPLACED in one.wishes,
    "bad": lambda one: one.state in (PartState.FAILED, PartState.WORN),
}
#: the words that are offered as presses, in order
OFFERED = ("failed", "worn", "unproven", "good", "unread", "to replace", "replaced", "unplaced")
_WORD = re.compile(rf"\b(?:{'|'.join(sorted(_WORDS, key=len, reverse=True))})\b")
_REF = re.compile(r"[A-Z]{1,4}[0-9]{1,4}[A-Z]?(#[0-9]+)?", re.IGNORECASE)


def find(text: str, parts: Iterable[Findable]) -> list[Findable]:
    """The parts that all of a text's words fit: `C13`, `C`, `100u`, `25V`, `failed`, `to replace`.

    An empty text fits every part. Raises InputError for a word that is not understood.
    """
    rest = " ".join(text.lower().replace(",", " ").split())
    tests = [_WORDS[match[0]] for match in _WORD.finditer(rest)]
    known = list(parts)
    tests += [_test(word, known) for word in _WORD.sub(" ", rest).split()]
    return [one for one in known if all(test(one) for test in tests)]


def _test(word: str, parts: Iterable[Findable]) -> Test:
    sought = word.upper()
    if any(sought in (one.ref.upper(), one.name.upper()) for one in parts):
        return lambda one: sought in (one.ref.upper(), one.name.upper())
    if word.isalpha() and any(_letters(one.ref) == sought for one in parts):
        return lambda one: _letters(one.ref) == sought
    values = {unit: value for unit in Unit if (value := _value(word, unit)) is not None}
    if values:
        return lambda one: _has(one, values)
    if _REF.fullmatch(word):
        return lambda _: False
    raise InputError(
        f"“{word[:20]}” is not a designator, a value, a voltage or a verdict.", field="find"
    )


def _letters(ref: str) -> str:
    return ref.upper().rstrip("0123456789")


def _value(word: str, unit: Unit) -> float | None:
    try:
        return read(word, unit, allow_words=False).value
    except InputError:
        return None


def _has(one: Findable, values: dict[Unit, float]) -> bool:
    return _is(one.value, values.get(one.unit) if one.unit else None) or _is(
        one.volt, values.get(Unit.VOLT)
    )


def _is(own: float | None, sought: float | None) -> bool:
    return own is not None and sought is not None and abs(own - sought) <= _SAME * abs(sought)
