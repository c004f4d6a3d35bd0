"""Hand back: the report, read through and issued; what was issued stays as it is."""

from __future__ import annotations

from dataclasses import dataclass

from hale_rail.case.file import CaseFile
from hale_rail.case.history import issued_reports
from hale_rail.stages import rails
from hale_rail.stages.report import Report, report
from hale_rail.stages.stage import Asked, Stage, StageState, Status, Step, Urgency
from hale_rail.store.reports import IssuedReport

#: how a unit goes back: code as the store has it, and in words
OUTCOMES = {"repaired": "repaired", "as-it-is": "given back as it is"}


@dataclass(frozen=True)
class HandBackPage:
    """The report as it would be issued now, those issued before, and the outcomes to choose."""

    draft: Report
    issued: tuple[IssuedReport, ...]
    outcomes: dict[str, str]


def state(case: CaseFile) -> StageState:
    """Done when the unit was handed back."""
    if case.case.outcome:
        return StageState(Status.DONE, OUTCOMES[case.case.outcome])
    return StageState(Status.OPEN, "report")


def page(case: CaseFile, _: Asked) -> HandBackPage:
    """What would be issued, and what was."""
    return HandBackPage(report(case), tuple(issued_reports(case)), OUTCOMES)


def next_step(case: CaseFile) -> Step | None:
    """Read the report, once the rails are right or the case is closed."""
    if case.case.closed_at:
        return Step("Read the report", Urgency.CLOSED)
    if rails.state(case).status is Status.DONE:
        return Step("Hand back: read the report through", Urgency.LATER)
    return None


STAGE = Stage(key="hand-back", name="Hand back", state=state, page=page, next_step=next_step)
