"""What is answered when one thing is asked outside any case."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Protocol

from msgspec import Struct, field

from hale_rail.core.parts.verdicts import Reason
from hale_rail.core.rails.judge import Tolerance
from hale_rail.core.safety.bleeding import TOUCH_LIMIT_V, PowerResistor

#: values in which parts are made, a decade of E12
MADE = (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2)


class Circumstances(Struct, frozen=True):
    """What every answer is given under: the year, the workshop's limits, the resistors at hand.

    `stock` is None where no workshop keeps one.
    """

    this_year: int
    tolerance: Tolerance = Tolerance.STRICT
    limit_volt: float = TOUCH_LIMIT_V
    stock: Sequence[PowerResistor] | None = None


class Answer(Struct, frozen=True):
    """A verdict with its numbers.

    `understood`: the question as it was taken; `figure`: what was read, as a meter shows it;
    `shape`: that of the verdict's mark; `expected`: figures by name in SI units, and `text` for all
    of them in words; `next`: what to read or do next.
    """

    understood: str
    verdict: str
    shape: str
    action: str
    reasons: tuple[Reason, ...]
    next: str
    figure: str = ""
    expected: Mapping[str, float | str | None] = field(default_factory=dict)

    def to_json(self) -> dict[str, object]:
        """The command's JSON contract."""
        return {
            "understood": self.understood,
            "verdict": self.verdict,
            "action": self.action,
            "reasons": [{"code": r.code, "text": r.sentence} for r in self.reasons],
            "expected": dict(self.expected),
            "next": self.next,
        }


class Question(Protocol):
    """One thing asked: a part, a rail, its ripple, its ohms to ground, a bleed-down."""

    def answer(self, given: Circumstances) -> Answer:
        """The verdict; raises InputError for figures that cannot be."""
        ...


def listed(*words: str) -> str:
    """Words that are not empty, a comma between them."""
    return ", ".join(word for word in words if word)
