"""The facet of rails: volts by load, judged, and what they say together."""

from __future__ import annotations

from dataclasses import dataclass

from hale_rail.case.file import CaseFile, facet
from hale_rail.core.procedures import VOLTS, Condition
from hale_rail.core.rails.judge import (
    Pattern,
    RailJudgement,
    RailReading,
    RailVerdict,
    judge,
    patterns,
)
from hale_rail.core.supply.sheet import Rail
from hale_rail.core.targets import Place
from hale_rail.store.readings import Reading

#: loads by what they tell, the most telling first
TELLING = (Condition.MACHINE, Condition.DUMMY, Condition.NO_LOAD)


@dataclass(frozen=True)
class RailVolts:
    """A rail with its newest reading and judgement by load."""

    rail: Rail
    by_load: dict[Condition, tuple[Reading, RailJudgement]]

    @property
    def most_telling(self) -> tuple[Reading, RailJudgement] | None:
        """The reading under the machine, else a dummy, else nothing."""
        return next((self.by_load[load] for load in TELLING if load in self.by_load), None)

    @property
    def is_right(self) -> bool:
        """True when it passed at every load it was read at."""
        loads = (Condition.DUMMY, Condition.MACHINE)
        verdicts = [self.by_load[load][1].verdict for load in loads if load in self.by_load]
        return bool(verdicts) and all(v is RailVerdict.PASS for v in verdicts)


@facet
def rails(case: CaseFile) -> tuple[RailVolts, ...]:
    """Every rail in drawing order; readings at a place along its line are not the rail's own."""
    found = []
    for rail in case.sheet.rails:
        by_load = {}
        for reading in case.rows.of_rail.get(rail.key, ()):
            if reading.procedure is VOLTS and reading.target.place is Place.NONE:
                judgement = judge(rail_reading(rail, reading), case.tolerance)
                by_load[reading.condition] = (reading, judgement)
        found.append(RailVolts(rail, by_load))
    return tuple(found)


def rail_reading(rail: Rail, reading: Reading) -> RailReading:
    """A stored reading as the judgement of rails wants it."""
    return RailReading(
        rail, reading.value, reading.high, reading.digit, reading.condition, reading.accuracy
    )


@facet
def rails_right(case: CaseFile) -> frozenset[str]:
    """Keys of the rails that passed under load."""
    return frozenset(volts.rail.key for volts in rails(case) if volts.is_right)


@facet
def rail_patterns(case: CaseFile) -> tuple[Pattern, ...]:
    """What the readings at the most telling load say together, the urgent first."""
    for load in (Condition.MACHINE, Condition.DUMMY):
        together = [
            rail_reading(volts.rail, volts.by_load[load][0])
            for volts in rails(case)
            if load in volts.by_load
        ]
        if together:
            return tuple(patterns(together, case.tolerance))
    return ()
