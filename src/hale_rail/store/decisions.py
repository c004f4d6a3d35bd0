"""What a person decided of parts; the newest about a part counts."""

from __future__ import annotations

from hale_rail.core.parts.decisions import Decision, DecisionKind
from hale_rail.store.append_only import AppendedRow, AppendOnly


class PartDecision(AppendedRow, frozen=True):
    """One decision about one part."""

    part_id: int
    kind: DecisionKind
    reason: str

    @property
    def decision(self) -> Decision:
        """The decision by itself."""
        return Decision(self.kind, self.reason, self.log_id)


PART_DECISIONS = AppendOnly("decision", PartDecision, newest_by=lambda row: row.part_id)
