"""The facet of the soak: each rail's rows, judged, since the soak was last begun."""

from __future__ import annotations

import math

from msgspec import Struct

from hale_rail.case.file import CaseFile, facet
from hale_rail.core.errors import InputError
from hale_rail.core.rails.judge import band
from hale_rail.core.soak.soak import (
    EVENTS,
    USUAL_HOURS,
    USUAL_WARM_UP_S,
    Sample,
    Soak,
    SoakLimits,
    SoakVerdict,
    soak,
)
from hale_rail.core.supply.sheet import Rail
from hale_rail.store.machine_notes import MACHINE_NOTES
from hale_rail.store.soaks import SOAK_ROWS, SoakRow


class SoakPlan(Struct, frozen=True):
    """How long a soak is to run, its warm-up in seconds, and the row's id behind which it began."""

    hours: float = USUAL_HOURS
    warm_up_s: float = USUAL_WARM_UP_S
    since: int = 0


class RailSoak(Struct, frozen=True):
    """A rail's soak: its rows in order of time, what they were held against, the judgement."""

    rail: Rail
    rows: tuple[SoakRow, ...]
    limits: SoakLimits
    judged: Soak

    @property
    def samples(self) -> tuple[Sample, ...]:
        """What was read."""
        return tuple(row.sample for row in self.rows)


@facet
def soak_plan(case: CaseFile) -> SoakPlan:
    """How the soak is to run."""
    note = case.rows.newest(MACHINE_NOTES).get(("soak", ""))
    body = (note.body or {}) if note else {}
    usual = SoakPlan()
    hours, warm, since = (body.get(name) for name in ("hours", "warm_up_s", "since"))
    return SoakPlan(
        float(hours) if isinstance(hours, int | float) else usual.hours,
        float(warm) if isinstance(warm, int | float) else usual.warm_up_s,
        since if isinstance(since, int) else 0,
    )


class SoakEvent(Struct, frozen=True):
    """What the machine did: its key among what is said, seconds since 1970, a code of `EVENTS`."""

    key: str
    at_s: float
    event: str

    @property
    def words(self) -> str:
        """What it did, as one says it."""
        return EVENTS.get(self.event, self.event)

    @property
    def sample(self) -> Sample:
        """As the judgement wants it: without volts."""
        return Sample(self.at_s, math.nan, event=self.event)


@facet
def soak_events(case: CaseFile) -> tuple[SoakEvent, ...]:
    """What the machine did since the soak was begun, in order of time."""
    since = soak_plan(case).since
    rows = [row.sample.at_s for row in case.rows.active(SOAK_ROWS) if row.id > since]
    begun = min(rows, default=math.inf)
    events = [
        SoakEvent(key, float(note.body["at_s"]), str(note.body["event"]))
        for (kind, key), note in case.rows.newest(MACHINE_NOTES).items()
        if kind == "soak" and key and note.body
    ]
    events = [event for event in events if event.at_s >= begun]
    return tuple(sorted(events, key=lambda event: event.at_s))


@facet
def soaks(case: CaseFile) -> tuple[RailSoak, ...]:
    """The soak of each rail that has rows, in the sheet's order."""
    chosen = soak_plan(case)
    by_rail: dict[str, list[SoakRow]] = {}
    for row in case.rows.active(SOAK_ROWS):
        if row.id > chosen.since:
            by_rail.setdefault(row.rail, []).append(row)
    events = [event.sample for event in soak_events(case)]
    soaks = []
    for rail in case.sheet.rails:
        rows = sorted(by_rail.get(rail.key, []), key=lambda row: row.sample.at_s)
        if not rows:
            continue
        low, high = band(rail, case.tolerance)
        limits = SoakLimits(
            low, high, chosen.hours, chosen.warm_up_s, rail.ripple_mv, rail.nominal_v
        )
        try:
            judged = soak([*(row.sample for row in rows), *events], limits)
        except InputError:
            continue
        soaks.append(RailSoak(rail, tuple(rows), limits, judged))
    return tuple(soaks)


def verdict_of(case: CaseFile) -> SoakVerdict | None:
    """The worst verdict of all rails, None without rows."""
    order = (SoakVerdict.FAIL, SoakVerdict.TOO_SHORT, SoakVerdict.DRIFTING, SoakVerdict.PASS)
    verdicts = {one.judged.verdict for one in soaks(case)}
    return next((verdict for verdict in order if verdict in verdicts), None)


def hours_done(case: CaseFile) -> float:
    """The hours of the rail with the fewest, 0.0 without rows."""
    return min((one.judged.hours for one in soaks(case)), default=0.0)
