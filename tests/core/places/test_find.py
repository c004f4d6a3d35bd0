"""Finding parts on a photo."""

from __future__ import annotations

import pytest

from hale_rail.core.errors import InputError
from hale_rail.core.parts.states import PartState
from hale_rail.core.places.find import OFFERED, Findable, Wish, find
from hale_rail.core.quantities import Unit


def part(
    ref: str, value: float | None, unit: Unit | None, volt: float | None, state: PartState,
    *wishes: Wish, name: str = "",
) -> Findable:  # fmt: skip
    place = next(NUMBERS)
    return Findable(place, ref, name or ref, value, unit, volt, state, frozenset(wishes))


NUMBERS = iter(range(1, 100))
F, R = Unit.FARAD, Unit.OHM
PARTS = (
    part("C1", 150e-6, F, 400, PartState.GOOD),
    part("C13", 1e-3, F, 25, PartState.WORN, Wish.TO_REPLACE),
    part("C14", 470e-6, F, 25, PartState.FAILED, Wish.TO_REPLACE, Wish.UNPLACED),
    part("C40", 10e-6, F, 16, PartState.UNSEEN, Wish.UNREAD, name="C40#1"),
    part("C40", 10e-6, F, 16, PartState.UNPROVEN, name="C40#2"),
    part("R1", 100e3, R, None, PartState.GOOD),
    part("Q1", None, None, None, PartState.REPLACED),
    part("F1", 1.25, Unit.AMPERE, None, PartState.UNSEEN, Wish.UNREAD),
)


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("", "C1 C13 C14 C40#1 C40#2 R1 Q1 F1"),
        ("C13", "C13"),
        ("c13", "C13"),
        ("C40", "C40#1 C40#2"),
        ("C40#2", "C40#2"),
        ("C", "C1 C13 C14 C40#1 C40#2"),
        ("Q9", ""),
        ("470u", "C14"),
        ("1000uF", "C13"),
        ("100k", "R1"),
        ("25V", "C13 C14"),
        ("25v 470u", "C14"),
        ("1.25A", "F1"),
        ("failed", "C14"),
        ("worn, 25V", "C13"),
        ("bad", "C13 C14"),
        ("unread", "C40#1 F1"),
        ("not read", "C40#1 F1"),
        ("to replace", "C13 C14"),
        ("to replace unplaced", "C14"),
        ("replaced", "Q1"),
        ("unproven C", "C40#2"),
        ("good R", "R1"),
    ],
)
def test_every_word_must_fit(text: str, names: str) -> None:
    assert " ".join(one.name for one in find(text, PARTS)) == names


@pytest.mark.parametrize("text", ["zzz!", "12 of them", "C13 ??", "0.47 mF", "goodish"])
def test_a_word_that_means_nothing_is_named(text: str) -> None:
    with pytest.raises(InputError, match="is not a designator"):
        find(text, PARTS)


@pytest.mark.parametrize("word", OFFERED)
def test_what_is_offered_is_understood(word: str) -> None:
    assert {one.name for one in find(word, PARTS)} < {one.name for one in PARTS}
