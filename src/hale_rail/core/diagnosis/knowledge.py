"""What is known of faults in one topology: groups of them, their rates, symptoms and tests."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Set
from functools import cached_property, lru_cache
from typing import Any

from msgspec import Struct, field

DANGERS = ("look", "cold", "lift", "live")
#: weight of a fault that nothing names
_LEAST_RATE = 0.02


class FaultGroup(Struct, frozen=True):
    """Faults that are mended alike: their stage, what to say of them, and what mends them.

    `faults`: how a part fails and which, such as `short:transistor` (a kind or a role); `side`
    `primary` or `output` where only parts there are meant.
    """

    id: str
    name: str
    stage: str
    remedy: str = ""
    faults: tuple[str, ...] = ()
    side: str = ""


class Symptom(Struct, frozen=True):
    """A symptom, what people type of it, and what it says already.

    `regimes`: what the unit can have done as a whole; `states`: results by test that need no test.
    """

    id: str
    name: str
    words: tuple[str, ...] = ()
    regimes: tuple[str, ...] = ()
    states: Mapping[str, str] = field(default_factory=dict)


class BenchTest(Struct, frozen=True):
    """A test with its results in words, the last the one that finds nothing: minutes, danger.

    `points`: which parts or rails it is about, and what is read there; `is_gate`: must be read and
    good before any test under power; `not_with`: symptoms beside which it is not a test.
    """

    id: str
    name: str
    how: str
    results: tuple[str, ...]
    minutes: float
    danger: str
    points: Mapping[str, Any] = field(default_factory=dict)
    is_gate: bool = False
    not_with: tuple[str, ...] = ()

    @property
    def is_live(self) -> bool:
        """True where the unit is powered for it."""
        return self.danger == "live"

    @property
    def is_lift(self) -> bool:
        """True where a leg is lifted for it."""
        return self.danger == "lift"

    @property
    def sound(self) -> str:
        """The result that finds nothing."""
        return self.results[-1]

    @property
    def reads(self) -> str:
        """What is read at its points: `part`, `look`, `ground`, `rails`, `output`, `harness`,
        `ripple` (a record answers it, or the hand), or "" where the hand alone answers."""
        return str(self.points.get("reads", ""))


@lru_cache(maxsize=1024)
def _stems(text: str) -> tuple[str, ...]:
    words = re.split(r"[\s,;:.!?()\"“”]+", text.lower().replace("−", "-"))
    return tuple(word for word in words if word)


def _met(typed: Set[str], phrase: str) -> int:
    """How many words a phrase has, all of them typed (0: not all); `black` is in `blackened`."""
    words = _stems(phrase)
    return len(words) if all(any(t.startswith(w) for t in typed) for w in words) else 0


class Knowledge(Struct, frozen=True, dict=True):
    """What is known of one topology: its groups of faults, rates by fault, symptoms and tests."""

    groups: tuple[FaultGroup, ...]
    rates: Mapping[str, float]
    symptoms: tuple[Symptom, ...]
    tests: tuple[BenchTest, ...]

    def rate(self, mode: str, tokens: Iterable[str]) -> float:
        """How often a part fails so, against others: by the first word that has a rate."""
        rate = (self.rates[key] for t in tokens if (key := f"{mode}:{t}") in self.rates)
        return next(rate, _LEAST_RATE)

    @cached_property
    def group_rates(self) -> dict[str, float]:
        """The rates of each group's faults together, by its id."""
        return {g.id: sum(self.rates.get(code, 0.0) for code in g.faults) for g in self.groups}

    def group(self, group_id: str) -> FaultGroup | None:
        """The group of an id, or None."""
        return next((g for g in self.groups if g.id == group_id), None)

    def test(self, test_id: str) -> BenchTest | None:
        """The test of an id, or None."""
        return next((t for t in self.tests if t.id == test_id), None)

    def symptom(self, symptom_id: str) -> Symptom | None:
        """The symptom of an id, or None."""
        return next((s for s in self.symptoms if s.id == symptom_id), None)

    def suggested(self, text: str) -> tuple[Symptom, ...]:
        """The symptoms that a typed one may mean: all words of one of their phrases are in it.

        The longest phrase first.
        """
        typed = frozenset(_stems(text))
        met = [
            (max((_met(typed, phrase) for phrase in s.words), default=0), s) for s in self.symptoms
        ]
        return tuple(s for count, s in sorted(met, key=lambda item: -item[0]) if count)
