"""What is known of faults in one topology: hypotheses, symptoms, tests, and their chances."""

from __future__ import annotations

import re
from collections.abc import Mapping, Set
from typing import Any

from msgspec import Struct, field

DANGERS = ("look", "cold", "lift", "live")


class Hypothesis(Struct, frozen=True):
    """A fault: its stage, what to say of it, its prior weight, and what mends it.

    `faults`: how a part fails and which, such as `short:transistor` (a kind or a role); `side`
    `primary` or `output` where only parts there are meant.
    """

    id: str
    name: str
    stage: str
    weight: float
    remedy: str = ""
    faults: tuple[str, ...] = ()
    side: str = ""


class Symptom(Struct, frozen=True):
    """A symptom and P(symptom | hypothesis); `usual` for hypotheses not named.

    `states`: results that it says already, by test; `words`: what people type; `why` by hypothesis.
    """

    id: str
    name: str
    usual: float
    given: Mapping[str, float]
    states: Mapping[str, str] = field(default_factory=dict)
    words: tuple[str, ...] = ()
    why: Mapping[str, str] = field(default_factory=dict)

    def chance(self, hypothesis: str) -> float:
        """P(symptom | hypothesis)."""
        return self.given.get(hypothesis, self.usual)


class BenchTest(Struct, frozen=True):
    """A test with its results: minutes, danger, and P(result | hypothesis).

    `given` and `usual` are shares for each result; `is_gate`: must be read and good before any test
    under power; `after`: results of other tests that it waits for; `not_with`: symptoms beside
    which it is no test; `points`: how a case answers it; `why` by hypothesis.
    """

    id: str
    name: str
    how: str
    results: tuple[str, ...]
    said: tuple[str, ...]
    minutes: float
    danger: str
    usual: tuple[float, ...]
    given: Mapping[str, tuple[float, ...]]
    points: Mapping[str, Any] = field(default_factory=dict)
    is_gate: bool = False
    after: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    not_with: tuple[str, ...] = ()
    why: Mapping[str, str] = field(default_factory=dict)

    @property
    def is_live(self) -> bool:
        """True where the unit is powered for it."""
        return self.danger == "live"

    @property
    def sound(self) -> str:
        """The result that finds nothing."""
        return self.results[-1]

    def chances(self, hypothesis: str) -> tuple[float, ...]:
        """P(each result | hypothesis)."""
        return self.given.get(hypothesis, self.usual)

    def chance(self, result: str, hypothesis: str) -> float:
        """P(result | hypothesis)."""
        return self.chances(hypothesis)[self.results.index(result)]


def _met(typed: Set[str], phrase: str) -> int:
    """How many words a phrase has, all of them typed (0: not all); `black` is in `blackened`."""
    words = phrase.split()
    return len(words) if all(any(t.startswith(w) for t in typed) for w in words) else 0


class Knowledge(Struct, frozen=True):
    """What is known of one topology: its faults, symptoms and tests."""

    hypotheses: tuple[Hypothesis, ...]
    symptoms: tuple[Symptom, ...]
    tests: tuple[BenchTest, ...]

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
        typed = frozenset(re.split(r"[\s,;:.!?()]+", text.lower()))
        met = [
            (max((_met(typed, phrase) for phrase in s.words), default=0), s) for s in self.symptoms
        ]
        return tuple(s for count, s in sorted(met, key=lambda item: -item[0]) if count)
