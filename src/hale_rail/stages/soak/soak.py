"""Soak: rails over the hours, each with its trend, its gaps and its limits."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import UTC, datetime

from msgspec import Struct

from hale_rail.bench.driver import SOAK
from hale_rail.case.behind.evidence import symptoms
from hale_rail.case.file import CaseFile
from hale_rail.case.instruments.instruments import instrument_for
from hale_rail.case.soak.soaks import (
    RailSoak,
    SoakEvent,
    SoakPlan,
    hours_done,
    soak_events,
    soak_plan,
    soaks,
    verdict_of,
)
from hale_rail.core.behind.symptoms import SYMPTOMS
from hale_rail.core.charts import Chart
from hale_rail.core.soak.chart import soak_chart
from hale_rail.core.soak.soak import EVENTS, SoakVerdict
from hale_rail.errors import InputError
from hale_rail.stages.stage import PageQuery, Stage, StageState, StageStep, Status, Urgency
from hale_rail.store.practice import PRACTICE
from hale_rail.store.soaks import SOAK_ROWS, SoakRow

SHAPES = {
    SoakVerdict.PASS: "good",
    SoakVerdict.DRIFTING: "worn",
    SoakVerdict.FAIL: "failed",
    SoakVerdict.TOO_SHORT: "unproven",
}
_NEWEST = 12
#: seconds between two rows of a series, at least and at most
LEAST_S, MOST_S = 2, 3600
#: width and height of a rail's plot: three stand on a screen
_SIZE = (640.0, 82.0)


class DrawnSoak(Struct, frozen=True):
    """A rail's soak with its drawing, its verdict's shape and its last figure."""

    soak: RailSoak
    chart: Chart
    shape: str

    @property
    def last(self) -> SoakRow:
        """The newest row."""
        return self.soak.rows[-1]


class Series(Struct, frozen=True):
    """A series of captures under way: the rail that the meter is on, a row every `every_s`."""

    rail: str
    every_s: int

    @property
    def code(self) -> str:
        """As an address has it."""
        return f"{self.rail}~{self.every_s}"


def series_of(rail: str, every: str) -> Series:
    """A series as typed; raises InputError naming the field."""
    text = every.strip()
    if not (text.isascii() and text.isdecimal()) or not LEAST_S <= int(text) <= MOST_S:
        raise InputError(
            f"Seconds between two rows: a whole number from {LEAST_S} to {MOST_S}.", field="every"
        )
    return Series(rail, int(text))


def _under_way(case: CaseFile, code: str) -> Series | None:
    """The series of an address; None where it is not one of this unit."""
    rail, _, every = code.rpartition("~")
    try:
        return series_of(rail, every) if case.sheet.rail(rail) else None
    except InputError:
        return None


class SoakPage(Struct, frozen=True):
    """How long it has run of how long it is to, each rail, and the newest rows."""

    plan: SoakPlan
    hours: float
    verdict: SoakVerdict | None
    shape: str
    rails: tuple[DrawnSoak, ...]
    newest: tuple[SoakRow, ...]
    keys: tuple[str, ...]
    now: str
    events: tuple[SoakEvent, ...] = ()
    meter: str = ""
    series: Series | None = None
    shows: tuple[str, ...] = ()

    @property
    def kinds(self) -> Mapping[str, str]:
        """What a machine can do, by code."""
        return EVENTS


def page(case: CaseFile, wanted: PageQuery) -> SoakPage:
    """The soak as it is now."""
    rail_soaks = soaks(case)
    verdict = verdict_of(case)
    shown = tuple(
        DrawnSoak(
            one, soak_chart(one.samples, one.limits, one.judged, *_SIZE), SHAPES[one.judged.verdict]
        )
        for one in rail_soaks
    )
    rows = [row for row in case.rows.active(SOAK_ROWS) if row.id > soak_plan(case).since]
    newest = tuple(sorted(rows, key=lambda row: (row.sample.at_s, row.id))[: -_NEWEST - 1 : -1])
    meter = instrument_for(case.store, SOAK) if case.rows.last(PRACTICE) is None else None
    now = datetime.now(UTC).astimezone().strftime("%Y-%m-%d %H:%M")
    return SoakPage(
        soak_plan(case), hours_done(case), verdict, SHAPES[verdict] if verdict else "unseen",
        shown, newest, tuple(rail.key for rail in case.sheet.rails), now, soak_events(case),
        meter.name if meter else "", _under_way(case, wanted.by),
        tuple(SYMPTOMS[code].words for code in symptoms(case) if code in SYMPTOMS),
    )  # fmt: skip


def state(case: CaseFile) -> StageState:
    """Done when every rail that was watched passes."""
    verdict = verdict_of(case)
    if verdict is None:
        return StageState(Status.OPEN, "")
    hours = f"{hours_done(case):.3g} of {soak_plan(case).hours:g} h"
    if symptoms(case):
        return StageState(Status.ATTENTION, "the machine is not well")
    if verdict is SoakVerdict.PASS:
        return StageState(Status.DONE, hours)
    if verdict is SoakVerdict.TOO_SHORT:
        return StageState(Status.OPEN, hours)
    return StageState(Status.ATTENTION, verdict.words)


def next_step(case: CaseFile) -> StageStep | None:
    """A soak that was begun is brought to its end; one that failed is looked into."""
    verdict = verdict_of(case)
    if verdict in (None, SoakVerdict.PASS):
        return None
    if verdict is SoakVerdict.TOO_SHORT:
        left = soak_plan(case).hours - hours_done(case)
        return StageStep(f"Soak on: {left:.3g} h are left", Urgency.LATER)
    names = ", ".join(one.rail.key for one in soaks(case) if one.judged.verdict is verdict)
    return StageStep(
        f"Soak: {names} {'fails' if verdict is SoakVerdict.FAIL else 'drifts'}", Urgency.WORK
    )


STAGE = Stage(
    key="soak",
    name="Soak",
    state=state,
    page=page,
    next_step=next_step,
    begun=lambda case: bool(soaks(case)),
    under="machine",
)
