"""What a judgement is: one of four verdicts, what to do, and the reasons with their numbers."""

from __future__ import annotations

from collections.abc import Sequence
from enum import Enum

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.targets import Pair

#: the one reason that rests on age, not on a reading or a look
AGE = "paper-age"


class Verdict(Enum):
    """What is concluded of a part."""

    GOOD = "good"
    WORN = "worn"
    FAILED = "failed"
    UNPROVEN = "unproven"

    @property
    def words(self) -> str:
        """As one says it."""
        return self.value

    @property
    def shape(self) -> str:
        """The shape that it takes, by the code of a part's state."""
        return self.value


class Action(Enum):
    """What to do with a part."""

    KEEP = "keep"
    REPLACE = "replace"
    LIFT = "lift"
    MEASURE = "measure"


class Reason(Struct, frozen=True):
    """One argument: what it says (`argues`; None when it is only context), why, and what next.

    `change` tells which reading would change it; `action` overrides the verdict's usual action;
    `pair`: the pins it is about, where it is about two of several.
    """

    code: str
    text: str
    argues: Verdict | None = None
    change: str = ""
    action: Action | None = None
    pair: Pair | None = None

    @property
    def sentence(self) -> str:
        """The reason with what would change it."""
        return f"{self.text} {self.change}".strip()


class Judgement(Struct, frozen=True):
    """A verdict with its action, its reasons (deciding ones first), and what was expected (SI).

    `good_esr_ohm`: up to what an ESR is good, the expected one by its family's or a fresh part's
    limit.
    """

    verdict: Verdict
    action: Action
    reasons: tuple[Reason, ...]
    expected_farad: float | None = None
    expected_esr_ohm: float | None = None
    good_esr_ohm: float | None = None

    @property
    def verdict_but_age(self) -> Verdict:
        """The verdict of what was read and seen alone, age left aside."""
        return conclude([r for r in self.reasons if r.code != AGE]).verdict


def without_good(reasons: Sequence[Reason]) -> list[Reason]:
    """The same reasons, none of them arguing that the part is good."""
    return [replace(r, argues=None) if r.argues is Verdict.GOOD else r for r in reasons]


_USUAL_ACTION = {
    Verdict.GOOD: Action.KEEP,
    Verdict.WORN: Action.REPLACE,
    Verdict.FAILED: Action.REPLACE,
    Verdict.UNPROVEN: Action.MEASURE,
}
#: proof of a fault outranks doubt, and doubt outranks proof of health
_RANK = (Verdict.FAILED, Verdict.WORN, Verdict.UNPROVEN, Verdict.GOOD)


def conclude(
    reasons: Sequence[Reason],
    expected_farad: float | None = None,
    expected_esr_ohm: float | None = None,
    good_esr_ohm: float | None = None,
) -> Judgement:
    """Combine reasons: the strongest proof of a fault wins; good needs a proof and no doubt."""
    verdict = next((v for v in _RANK if any(r.argues is v for r in reasons)), Verdict.UNPROVEN)
    deciding = [r for r in reasons if r.argues is verdict]
    action = next((r.action for r in deciding if r.action), None)
    if action is None and not deciding:
        action = next((r.action for r in reasons if r.action), None)
    ordered = sorted(reasons, key=lambda r: _RANK.index(r.argues) if r.argues else len(_RANK))
    ordered.sort(key=lambda r: r.argues is not verdict)
    return Judgement(
        verdict,
        action or _USUAL_ACTION[verdict],
        tuple(ordered),
        expected_farad,
        expected_esr_ohm,
        good_esr_ohm,
    )
