"""What all facts of a case are read with: its symptoms, what was replaced, and when."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping, Sequence
from functools import cached_property

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.void_readings import void
from hale_rail.core.diagnosis.effects import HICCUP, LATE, RUNS
from hale_rail.core.diagnosis.knowledge import Knowledge, Symptom
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.procedures import Condition, span_text
from hale_rail.core.quantities import show
from hale_rail.core.safety.energy import EventKind
from hale_rail.formats.knowledge import knowledge_for
from hale_rail.store.decisions import PART_DECISIONS
from hale_rail.store.power_events import POWER_EVENTS
from hale_rail.store.readings import Reading
from hale_rail.store.statements import STATEMENTS

#: what a unit whose rails stand does as a whole, as chances of seeing them so
SEEN_RUNNING = ((RUNS, 0.95), (LATE, 0.95), (HICCUP, 0.05))
_LOADS = {Condition.DUMMY: "on dummy loads", Condition.NO_LOAD: "without a load"}


def standing_statements(case: CaseFile) -> dict[str, dict[str, str]]:
    """What the person said and did not take back: value by key, by kind of statement."""
    standing_statements: dict[str, dict[str, str]] = {"symptom": {}, "result": {}, "belief": {}}
    for statement in case.rows.all(STATEMENTS):
        standing_statements[statement.kind].pop(statement.key, None)
        if statement.value:
            standing_statements[statement.kind][statement.key] = statement.value
    return standing_statements


@facet
def fitted(case: CaseFile) -> Mapping[int, int]:
    """The place in the log at which each part was last replaced, by its id."""
    return {
        part_id: decision.log_id
        for part_id, decision in case.rows.newest(PART_DECISIONS).items()
        if decision.kind is DecisionKind.FITTED and case.sheet.part(part_id)
    }


def load_words(condition: Condition | None) -> str:
    """A load as a sentence ends with it; "" for none that is known."""
    if condition is None:
        return ""
    return f", {_LOADS.get(condition, condition.words)}"


def shown(reading: Reading) -> str:
    """A reading's figure, or both ends of one that jumps."""
    if reading.high == reading.value:
        return show(reading.value, reading.procedure.unit)
    return span_text(reading.value, reading.high, reading.procedure.unit)


def _said_at(case: CaseFile) -> dict[tuple[str, str], int]:
    """The place in the log of what stands: a symptom's first, since it is one complaint however
    often it is said; of a result the last."""
    result: dict[tuple[str, str], int] = {}
    for s in case.rows.all(STATEMENTS):
        key = (s.kind, s.key)
        if not s.value:
            result.pop(key, None)
        elif s.kind != "symptom" or key not in result:
            result[key] = s.log_id
    return result


class FactSource:
    """Reads facts out of a case."""

    def __init__(self, case: CaseFile) -> None:
        self.case = case
        self.knowledge: Knowledge = knowledge_for(case.sheet.topology)
        self.said = standing_statements(case)
        self.fitted = fitted(case)
        self.epochs = sorted(set(self.fitted.values()))
        self.at = _said_at(case)
        known = map(self.knowledge.symptom, self.said["symptom"])
        self.symptoms: list[Symptom] = [s for s in known if s]
        self.stated = {item for s in self.symptoms for item in s.states.items()}

    @cached_property
    def stated_regimes(self) -> frozenset[str]:
        """What the complaint states that the unit does as a whole."""
        return frozenset(regime for s in self.symptoms for regime in s.regimes)

    @cached_property
    def powered_at(self) -> int:
        """The place in the log at which power came last, 0 for never."""
        kind = EventKind.APPLIED.value
        return max(
            (e.log_id for e in self.case.rows.all(POWER_EVENTS) if e.kind == kind), default=0
        )

    def epoch(self, at: int) -> int:
        """How many replacements came before."""
        return bisect_right(self.epochs, at)

    def newest(self, readings: Sequence[Reading]) -> list[Reading]:
        """The newest of each point between two replacements; what is void is left out."""
        bad = void(self.case)
        by_key = {(r.key, self.epoch(r.log_id)): r for r in readings if r.id not in bad}
        return list(by_key.values())
