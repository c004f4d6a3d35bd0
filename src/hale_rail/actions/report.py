"""The report of a case: found, done, read, left undone."""

from __future__ import annotations

from dataclasses import dataclass

from hale_rail.actions.dossier import Dossier, LogEntry
from hale_rail.actions.facts import FITTED, StationFacts
from hale_rail.core.recap.demand import KEEP, LEFT_OUT, Line
from hale_rail.core.safety.energy import EventKind
from hale_rail.core.supply.sheet import Kind
from hale_rail.store.readings import Reading


@dataclass(frozen=True)
class Report:
    """What the report page prints."""

    failed: list[StationFacts]
    worn: list[StationFacts]
    unproven: list[StationFacts]
    replaced: list[StationFacts]
    left_out: list[StationFacts]
    kept: list[StationFacts]
    unseen_count: int
    still_to_replace: list[Line]
    guard_reasons: list[LogEntry]
    notes: list[LogEntry]
    struck: list[Reading]


def report(dossier: Dossier) -> Report:
    """Gather a case for its report."""
    facts = [
        f for f in dossier.facts.values() if f.station.kind not in (Kind.CONNECTOR, Kind.BOARD)
    ]

    def decided(kind: str) -> list[StationFacts]:
        return [f for f in facts if f.decision and f.decision.kind == kind]

    def in_state(state: str) -> list[StationFacts]:
        return [f for f in facts if f.state == state and not (f.decision and f in replaced)]

    replaced = decided(FITTED)
    open_lines = [
        line
        for line in dossier.recap(dossier.school)
        if any(not p.is_fitted for p in line.positions)
    ]
    return Report(
        failed=in_state("failed"),
        worn=in_state("worn"),
        unproven=in_state("unproven"),
        replaced=replaced,
        left_out=decided(LEFT_OUT),
        kept=decided(KEEP),
        unseen_count=len(in_state("unseen")),
        still_to_replace=open_lines,
        guard_reasons=[e for e in dossier.log if e.kind == EventKind.GUARD_PASSED.value],
        notes=[e for e in dossier.log if e.kind == "note"],
        struck=[r for r in dossier.readings if r.struck and r.struck != "superseded"],
    )
