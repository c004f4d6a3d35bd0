"""The facet of rails: volts by load and place, judged, and what they say together."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.shorts.grounds import shorted_rails
from hale_rail.core.procedures import VOLTS, Condition, Point, Understood
from hale_rail.core.rails.judge import RailJudgement, RailReading, RailVerdict, judge
from hale_rail.core.rails.patterns import RailPattern, patterns
from hale_rail.core.safety.energy import EventKind
from hale_rail.core.supply.sheet import Rail
from hale_rail.core.targets import Place
from hale_rail.store.power_events import POWER_EVENTS
from hale_rail.store.readings import Reading

#: loads by what they tell, the most telling first
TELLING = (Condition.MACHINE, Condition.DUMMY, Condition.NO_LOAD)
#: share of nominal from which volts on a line say that nothing shorts it
_NO_SHORT = 0.5
Judged = tuple[Reading, RailJudgement]


class RailVolts(Struct, frozen=True):
    """A rail with its newest reading and judgement by load and place.

    `by_load` is its own: what was read without naming a place, else at the supply end, else the
    worst of the others. A rail is as good as its worst place: `worst_at`, `most_telling`.
    """

    rail: Rail
    by_place: Mapping[tuple[Condition, Place], Judged]
    by_load: Mapping[Condition, Judged]

    def worst_at(self, load: Condition) -> Judged | None:
        """The worst of all places at a load; None where it was not read at it."""
        here = [found for (at, _), found in self.by_place.items() if at is load]
        return min(here, key=rank, default=None)

    @property
    def most_telling(self) -> Judged | None:
        """The worst place under the machine, else with a dummy, else with nothing."""
        return next((self.worst_at(load) for load in TELLING if load in self.by_load), None)

    @property
    def is_right(self) -> bool:
        """True when it passed at every load it was read at."""
        loads = (Condition.DUMMY, Condition.MACHINE)
        verdicts = [j.verdict for (load, _), (_, j) in self.by_place.items() if load in loads]
        return bool(verdicts) and all(v is RailVerdict.PASS for v in verdicts)

    @property
    def has_volts(self) -> bool:
        """True when volts stood on its line at the newest reading of any load."""
        newest = max((r for r, _ in self.by_place.values()), key=lambda r: r.id, default=None)
        if newest is None:
            return False
        return min(abs(newest.value), abs(newest.high)) > _NO_SHORT * abs(self.rail.nominal_v)


_WORST = (RailVerdict.FAIL, RailVerdict.MARGINAL, RailVerdict.NOT_JUDGED, RailVerdict.PASS)


def rank(readings: Judged) -> tuple[int, float]:
    """The worst first: by its verdict, then by how far it is off."""
    return _WORST.index(readings[1].verdict), -abs(readings[1].off_share)


@facet
def rails(case: CaseFile) -> tuple[RailVolts, ...]:
    """Every rail in drawing order."""
    return tuple(_rail(case, rail) for rail in case.sheet.rails)


def _rail(case: CaseFile, rail: Rail) -> RailVolts:
    by_place: dict[tuple[Condition, Place], Judged] = {}
    for reading in case.rows.of_rail.get(rail.key, ()):
        if reading.procedure is VOLTS:
            judgement = judge(rail_reading(case, rail, reading), case.tolerance)
            by_place[reading.condition, reading.target.place] = (reading, judgement)
    loads = dict.fromkeys(load for load, _ in by_place)
    return RailVolts(rail, by_place, {load: _speaking(by_place, load) for load in loads})


def _speaking(by_place: Mapping[tuple[Condition, Place], Judged], load: Condition) -> Judged:
    for place in (Place.NONE, Place.SUPPLY):
        if (load, place) in by_place:
            return by_place[load, place]
    others = [found for (at, _), found in by_place.items() if at is load]
    return max(others, key=lambda found: abs(found[1].off_share))


def rail_reading(case: CaseFile, rail: Rail, reading: Reading) -> RailReading:
    """A stored reading in the form that the judgement of rails takes."""
    return RailReading(
        rail,
        reading.value,
        reading.high,
        reading.digit,
        reading.condition,
        reading.accuracy,
        reading.target.place,
        reading.figures.get("load_a"),
        case.sheet.topology.is_switching,
        reading.id,
    )


def rail_reading_of(case: CaseFile, rail: Rail, point: Point, meant: Understood) -> RailReading:
    """What is typed at a point and not saved, in the form that the judgement of rails takes."""
    return RailReading(
        rail, meant.value, meant.high, meant.digit, point.condition, point.procedure.accuracy,
        point.target.place, meant.figures.get("load_a"), case.sheet.topology.is_switching,
    )  # fmt: skip


@facet
def rails_right(case: CaseFile) -> frozenset[str]:
    """Keys of the rails that passed under load."""
    return frozenset(volts.rail.key for volts in rails(case) if volts.is_right)


@facet
def rails_with_volts(case: CaseFile) -> frozenset[str]:
    """Keys of the rails on which volts stood, so that nothing shorts them."""
    return frozenset(volts.rail.key for volts in rails(case) if volts.has_volts)


@facet
def rail_patterns(case: CaseFile) -> tuple[RailPattern, ...]:
    """What the readings say together, the urgent first.

    A rail that reads short to ground is off for that: what would be guessed of it is not said.
    """
    return _patterns(case)


@facet
def stop_now(case: CaseFile) -> RailPattern | None:
    """What asks for power off at once in what was read since power was last removed, or None.

    A rail that was missing before is not missing now until it was read again.
    """
    removed = (e.log_id for e in case.rows.all(POWER_EVENTS) if e.kind == EventKind.REMOVED.value)
    return next((p for p in _patterns(case, max(removed, default=0)) if p.urgent), None)


def _patterns(case: CaseFile, since: int = 0) -> tuple[RailPattern, ...]:
    """What the readings behind an entry of the log say together."""
    shorted = shorted_rails(case)
    read = [
        rail_reading(case, volts.rail, reading)
        for volts in rails(case)
        for reading, _ in volts.by_place.values()
        if reading.log_id > since
    ]
    found = patterns(read, case.tolerance)
    return tuple(p for p in found if not (p.is_guess and shorted.intersection(p.rails)))
