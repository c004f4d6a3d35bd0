"""The one thing to do next in a case, the side list, and the bench page's line."""

from __future__ import annotations

from dataclasses import dataclass

import hale_rail.stages as stages
from hale_rail.case.energy import energy
from hale_rail.case.file import CaseFile, facet
from hale_rail.core.procedures import Point
from hale_rail.stages.stage import Stage, StageState
from hale_rail.store.bench_lines import BenchLine

HANDED_BACK = "Handed back"


@dataclass(frozen=True)
class NextStep:
    """What to do, on which stage's page, and at which point (None: at none)."""

    text: str
    stage: Stage
    point: Point | None = None

    @property
    def point_key(self) -> str:
        """The point's key, or ""."""
        return self.point.key if self.point else ""


@dataclass(frozen=True)
class Listed:
    """A stage with how it stands."""

    stage: Stage
    state: StageState


@facet
def side_list(case: CaseFile) -> tuple[Listed, ...]:
    """Every stage in the order of work, with its state."""
    return tuple(Listed(stage, stage.state(case)) for stage in stages.STAGES)


@facet
def next_step(case: CaseFile) -> NextStep:
    """The most pressing step; of equally pressing ones the earliest stage's."""
    best = None
    for stage in stages.STAGES:
        step = stage.next_step(case)
        if step and (best is None or step.urgency > best[1].urgency):
            best = (stage, step)
    if best is None:
        return NextStep("Nothing is left to do", stages.STAGES[-1])
    stage, step = best
    return NextStep(step.text, stage, step.point)


def stage_reached(case: CaseFile) -> str:
    """The stage of the next step; while that only makes safe again, the furthest one begun."""
    if case.case.closed_at:
        return HANDED_BACK
    reached = next_step(case).stage
    if energy(case).guard_open or not reached.begun(case):
        return reached.name
    return [stage for stage in stages.STAGES if stage.begun(case)][-1].name


def bench_line(case: CaseFile) -> BenchLine:
    """The bench page's line for a case."""
    step = next_step(case)
    return BenchLine(
        stage_reached(case), energy(case).energy.code, step.text, step.stage.key, step.point_key
    )
