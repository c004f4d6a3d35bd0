"""The facet of stale readings: what was read of a line before a part on it was replaced.

A rail's ohms and volts; and what read short in circuit, since what stood beside it may have been
what was read. They stay facts of the time at which they were taken, and are asked for again.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from hale_rail.case.diagnosis.fact_source import fitted
from hale_rail.case.file import CaseFile, facet
from hale_rail.core.parts.families import SHORT_OHM
from hale_rail.core.parts.junctions import SHORT_V
from hale_rail.core.parts.kinds import varistor
from hale_rail.core.procedures import DIODE, GROUND, OHMS, VOLTS, Condition, Procedure
from hale_rail.core.supply.sheet import TRUNK
from hale_rail.store.readings import Reading

#: below this a reading in circuit may be of what stands beside it
_SHORT: Mapping[Procedure, float] = {OHMS: SHORT_OHM, DIODE: SHORT_V}


@facet
def stale(case: CaseFile) -> tuple[Reading, ...]:
    """Readings that a later replacement on their line outdated; volts, one on the trunk too."""
    at: dict[str, int] = {}
    for part_id, log_id in fitted(case).items():
        part = case.sheet.part(part_id)
        for line in (part.rails or (part.line,)) if part else ():
            at[line] = max(at.get(line, 0), log_id)
    return (*_of_rails(case, at), *_of_parts(case, at)) if at else ()


def _of_rails(case: CaseFile, at: Mapping[str, int]) -> Iterator[Reading]:
    for rail in case.sheet.rails:
        own = at.get(rail.key, 0)
        limits = {GROUND: own, VOLTS: max(own, at.get(TRUNK, 0))}
        for reading in case.rows.of_rail.get(rail.key, ()):
            if reading.log_id < limits.get(reading.procedure, 0):
                yield reading


def _of_parts(case: CaseFile, at: Mapping[str, int]) -> Iterator[Reading]:
    for part in case.sheet.in_power_order:
        # what only has to conduct reads a short where it is sound
        blocks = bool(part.kind.pairs) or part.capacitor or part.kind is varistor.KIND
        limit = at.get(part.line, 0) if blocks else 0
        for reading in case.rows.of_part.get(part.id, ()) if limit else ():
            is_short = reading.value < _SHORT.get(reading.procedure, 0.0)
            is_old = fitted(case).get(part.id, 0) < reading.log_id < limit
            if is_short and is_old and reading.condition is Condition.IN_CIRCUIT:
                yield reading


@facet
def stale_keys(case: CaseFile) -> frozenset[str]:
    """Keys of the points whose standing reading is stale."""
    return frozenset(reading.key for reading in stale(case))


@facet
def last_fitted(case: CaseFile) -> int:
    """The place in the log of the last replacement, 0 for none."""
    return max(fitted(case).values(), default=0)
