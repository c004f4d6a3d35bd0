"""Hand back: the report, read through and issued; what was issued stays as it is."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.case.bring_up.pins import is_earth_good
from hale_rail.case.file import CaseFile
from hale_rail.case.history import issued_reports
from hale_rail.case.report.report import OUTCOMES, CaseOutcome, Report, report
from hale_rail.case.report.report_end import bad, earth, earth_applies
from hale_rail.core.procedures import EARTH, Point
from hale_rail.core.procedures.bring_up import EARTH_TARGET
from hale_rail.stages.rails import rails
from hale_rail.stages.stage import Meaning, PageQuery, Stage, StageState, StageStep, Status, Urgency
from hale_rail.store.readings import Reading
from hale_rail.store.reports import IssuedReport


class HandBackPage(Struct, frozen=True):
    """The report as it would be issued now (None once handed back), and how it went back.

    `issued`: the reports issued, newest first; `outcomes`: how it can go back; `bad`: what is bad
    as it goes back.
    """

    draft: Report | None
    outcome: str
    issued: tuple[IssuedReport, ...]
    outcomes: tuple[CaseOutcome, ...]
    bad: tuple[str, ...]


def state(case: CaseFile) -> StageState:
    """Done when the unit was handed back."""
    if case.case.outcome:
        return StageState(Status.DONE, _words(case))
    return StageState(Status.OPEN, "report")


def _words(case: CaseFile) -> str:
    outcome = case.case.outcome
    return OUTCOMES[outcome].words if outcome else ""


def page(case: CaseFile, _: PageQuery) -> HandBackPage:
    """What would be issued, and what was."""
    draft = None if case.case.closed_at else report(case)
    return HandBackPage(
        draft, _words(case), tuple(issued_reports(case)), tuple(CaseOutcome), tuple(bad(case))
    )


def next_step(case: CaseFile) -> StageStep | None:
    """Read the report, once the rails are right or the case is closed."""
    if case.case.closed_at:
        return StageStep("Read the report", Urgency.CLOSED)
    if rails.state(case).status is Status.DONE:
        return StageStep("Hand back: read the report through", Urgency.LATER)
    return None


def points(case: CaseFile, _: PageQuery) -> Sequence[Point]:
    """Earth continuity, of a unit fed by the mains."""
    return [Point(EARTH_TARGET, EARTH)] if earth_applies(case) else []


def meaning(case: CaseFile, reading: Reading) -> Meaning:
    """What earth continuity says."""
    is_good = is_earth_good(reading)
    return Meaning("good" if is_good else "failed", "good" if is_good else "too much", earth(case))


STAGE = Stage(
    key="hand-back",
    name="Hand back",
    templates="report/hand_back",
    state=state,
    page=page,
    points=points,
    next_step=next_step,
    meanings={EARTH.code: meaning},
)
