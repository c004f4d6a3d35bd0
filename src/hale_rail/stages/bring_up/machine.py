"""In the machine: the board behind the supply comes up; harness, continuity and soak beside it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct

from hale_rail.case.bring_up.bring_up import (
    ChipPin,
    EventFacts,
    Memory,
    RegulatorFacts,
    SignFacts,
    Swap,
    chip_pins,
    events,
    memory,
    regulators,
    signs,
    signs_known,
    swaps,
)
from hale_rail.case.bring_up.continuity import lists
from hale_rail.case.bring_up.harness import harness
from hale_rail.case.file import CaseFile
from hale_rail.case.soak.soaks import hours_done, soaks
from hale_rail.core.bring_up.bring_up import WHY_NOT, Moved, Sign
from hale_rail.core.bring_up.collateral import RailEvent
from hale_rail.core.procedures import Point
from hale_rail.core.rails.judge import RailVerdict
from hale_rail.stages.bring_up import continuity
from hale_rail.stages.bring_up import harness as harness_stage
from hale_rail.stages.rails import rails
from hale_rail.stages.soak import soak
from hale_rail.stages.stage import PageQuery, Stage, StageState, StageStep, Status, Urgency

#: the pages beside this one, in the order of work
BESIDE = (harness_stage.STAGE, continuity.STAGE, soak.STAGE)


class PageLink(Struct, frozen=True):
    """A page beside this one, and its state."""

    stage: Stage
    state: StageState


class MachinePage(Struct, frozen=True):
    """The board's bring-up, rail events with what they may have taken along, and regulators."""

    ways: tuple[PageLink, ...]
    chips: tuple[ChipPin, ...]
    signs: tuple[SignFacts, ...]
    why_not: Mapping[Sign, str]
    memory: Memory
    swaps: tuple[Swap, ...]
    moves: tuple[Moved, ...]
    events: tuple[EventFacts, ...]
    kinds_of_event: tuple[RailEvent, ...]
    regulators: tuple[RegulatorFacts, ...]
    linear_refs: tuple[str, ...]
    rails: tuple[str, ...]

    @property
    def missing(self) -> SignFacts | None:
        """The first sign of life that is missing."""
        return next((one for one in self.signs if one.is_seen is False), None)


def page(case: CaseFile, _: PageQuery) -> MachinePage:
    """The page as it is now."""
    refs = tuple(part.ref for part in case.sheet.parts if part.kind.code == "regulator")
    return MachinePage(
        tuple(PageLink(stage, stage.state(case)) for stage in BESIDE),
        chip_pins(case),
        signs(case),
        WHY_NOT,
        memory(case),
        swaps(case),
        tuple(Moved),
        events(case),
        tuple(RailEvent),
        regulators(case),
        refs,
        tuple(rail.key for rail in case.sheet.rails),
    )


def state(case: CaseFile) -> StageState:
    """The most pressing of the pages beside it; else what the board shows."""
    states = [stage.state(case) for stage in BESIDE]
    pressing = next((s for s in states if s.status is Status.ATTENTION), None)
    if pressing:
        return pressing
    missing = next((one for one in signs(case) if one.is_seen is False), None)
    if missing:
        return StageState(Status.ATTENTION, f"no {missing.sign.words}")
    if soak.state(case).status is Status.DONE:
        return StageState(Status.DONE, f"soaked {hours_done(case):.3g} h")
    begun = next((s for s in states if s.note), None)
    return StageState(Status.OPEN, begun.note if begun else "soak")


def points(case: CaseFile, _: PageQuery) -> Sequence[Point]:
    """The supply pins of chips."""
    return [chip.point for chip in chip_pins(case)]


def next_step(case: CaseFile) -> StageStep | None:
    """Chips without their rail; once the rails are right, a soak."""
    for chip in chip_pins(case):
        if chip.judgement and chip.judgement.verdict is RailVerdict.FAIL:
            text = f"{chip.name} has no right {chip.rail.key}: follow it from the connector"
            return StageStep(text, Urgency.WORK, chip.point)
    if not soaks(case) and rails.state(case).status is Status.DONE and not case.case.closed_at:
        return StageStep("Soak it in the machine", Urgency.LATER, stage_key=soak.STAGE.key)
    return None


def begun(case: CaseFile) -> bool:
    """True once anything was done here or beside it."""
    return bool(
        signs_known(case) or harness(case).is_planned or lists(case) or soaks(case) or events(case)
    )


STAGE = Stage(
    key="machine",
    name="In the machine",
    templates="bring_up",
    state=state,
    page=page,
    points=points,
    next_step=next_step,
    begun=begun,
)
