"""What a person decides of a part."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.coded_words import Coded


class DecisionKind(Coded):
    """`code` as the store keeps it, `words` as one says it."""

    FITTED = ("fitted", "replaced")
    KEEP = ("keep", "keep")
    REPLACE = ("replace", "to replace")
    LEFT_OUT = ("left-out", "left out")
    UNDONE = ("undone", "back to as it was")


DECISIONS = {kind.code: kind for kind in DecisionKind}
#: decisions against what a school would do: each needs its reason
REASONED = (DecisionKind.KEEP, DecisionKind.REPLACE, DecisionKind.LEFT_OUT)


class Decision(Struct, frozen=True):
    """The latest decision about a part, its reason or "", and its place in the log."""

    kind: DecisionKind
    reason: str
    log_id: int = 0

    @property
    def stands(self) -> bool:
        """False for one that takes the last back."""
        return self.kind is not DecisionKind.UNDONE
