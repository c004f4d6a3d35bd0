"""The state of a part as the map draws it: a verdict, or that there is none yet, or a new part."""

from __future__ import annotations

from enum import Enum

from hale_rail.core.parts.verdicts import Verdict


class PartState(Enum):
    """`value` names the shape that is drawn, `words` says it."""

    UNSEEN = "unseen"
    GOOD = "good"
    WORN = "worn"
    FAILED = "failed"
    UNPROVEN = "unproven"
    REPLACED = "replaced"

    @property
    def words(self) -> str:
        """The state as one says it."""
        return "not looked at" if self is PartState.UNSEEN else self.value


def of_verdict(verdict: Verdict) -> PartState:
    """The state that a verdict gives."""
    return PartState(verdict.value)
