"""The one thing to do next in a case, the side list, and the bench page's line."""

from __future__ import annotations

from msgspec import Struct

import hale_rail.stages as stages
from hale_rail.case.file import CaseFile, facet
from hale_rail.case.safety.energy import charge_words, energy
from hale_rail.case.soak.soaks import hours_done, soak_plan, verdict_of
from hale_rail.case.waits import waits_for
from hale_rail.core.procedures import Point
from hale_rail.core.safety.energy import Energy
from hale_rail.core.soak.soak import SoakVerdict
from hale_rail.stages.stage import Stage, StageState, Urgency
from hale_rail.store.bench_lines import BenchLine

HANDED_BACK = "Handed back"


class NextStep(Struct, frozen=True):
    """What to do, on which stage's page, and at which point (None: at none)."""

    text: str
    stage: Stage
    point: Point | None = None
    urgency: Urgency = Urgency.LATER

    @property
    def comes_before_the_hunt(self) -> bool:
        """True for what is more pressing than the diagnosis's next test."""
        return self.urgency > Urgency.HUNT

    @property
    def point_key(self) -> str:
        """The point's key, or ""."""
        return self.point.key if self.point else ""


class ListedStage(Struct, frozen=True):
    """A stage with its state."""

    stage: Stage
    state: StageState


@facet
def side_list(case: CaseFile) -> tuple[ListedStage, ...]:
    """Every stage in the order of work, with its state."""
    return tuple(ListedStage(stage, stage.state(case)) for stage in stages.STAGES)


@facet
def next_step(case: CaseFile) -> NextStep:
    """The one recommendation: the most pressing step, of equal ones the earliest stage's.

    The bench, the case and the diagnosis page all show this one.
    """
    best = None
    for stage in (*stages.STAGES, *stages.BESIDE):
        step = stage.next_step(case)
        if step and (best is None or step.urgency > best[1].urgency):
            best = (stage, step)
    if best is None:
        return NextStep("Nothing is left to do", stages.STAGES[-1])
    stage, step = best
    return NextStep(step.text, stages.stage(step.stage_key) or stage, step.point, step.urgency)


def stage_reached(case: CaseFile) -> str:
    """The stage of the next step; while that only makes safe again, the furthest one begun."""
    if case.case.closed_at:
        return HANDED_BACK
    reached = next_step(case).stage
    reached = stages.stage(reached.under) or reached
    is_work = reached in stages.STAGES
    if is_work and (energy(case).guard_open or not reached.begun(case)):
        return reached.name
    return [stage for stage in stages.STAGES if stage.begun(case)][-1].name


def bench_line(case: CaseFile) -> BenchLine:
    """The bench page's line for a case; one that waits for parts says so before what comes then."""
    step = next_step(case)
    state, text = _standing(case, step)
    wait = waits_for(case)
    return BenchLine(
        stage_reached(case), energy(case).energy.code, step.text, step.stage.key, step.point_key,
        int(step.urgency), state, text, wait.until if wait and state == "parts" else "",
    )  # fmt: skip


def _standing(case: CaseFile, step: NextStep) -> tuple[str, str]:
    """The state a case stands in, by code and in words; two empty ones for none."""
    power = energy(case).energy
    if step.urgency is Urgency.STOP:
        return "stopped", "stopped"
    if power is Energy.LIVE:
        return "live", "power on"
    if power is Energy.CHARGED:
        return "charged", f"charged, {charge_words(case)}"
    wait = waits_for(case)
    if wait:
        return "parts", f"waits for {wait.what or 'parts'}, due {wait.until}"
    if verdict_of(case) is SoakVerdict.TOO_SHORT:
        left = soak_plan(case).hours - hours_done(case)
        return "soaking", f"soaking, {left:.3g}\u00a0h left of {soak_plan(case).hours:g}"
    return "", ""
