"""Shorts: every rail to ground, cold, attached and isolated, and low injection."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.case.file import CaseFile
from hale_rail.case.shorts.boards import board_maps
from hale_rail.case.shorts.grounds import (
    REVERSED,
    SIDES,
    GroundFacts,
    RailGround,
    grounds,
    judge_reading,
)
from hale_rail.case.shorts.traces import culprit, is_closed, shorted_rails
from hale_rail.case.walks import done, ground_points, next_undone
from hale_rail.core.procedures import GROUND, INJECT, Condition, Point
from hale_rail.core.targets import rail_target
from hale_rail.stages.stage import Meaning, PageQuery, Stage, StageState, StageStep, Status, Urgency
from hale_rail.store.readings import Reading


class Cell(Struct, frozen=True):
    """One reading of the table with the key of its point; `reading` None while unread."""

    point_key: str
    reading: Reading | None
    is_low: bool = False
    words: str = ""


class RailSide(Struct, frozen=True):
    """A rail on one side of its connector: both ways round, and what that says."""

    cells: tuple[Cell, Cell]
    shape: str
    verdict: str


class ShortsRow(Struct, frozen=True):
    """One rail of the table."""

    ground: RailGround
    sides: tuple[RailSide, ...]
    injections: tuple[Cell, ...]


class ShortsPage(Struct, frozen=True):
    """The table of rails to ground; `low_rail` the first that is short, or ""."""

    rows: tuple[ShortsRow, ...]
    low_rail: str


def state(case: CaseFile) -> StageState:
    """Attention while a rail is low; done when each was read attached and isolated."""
    low = [g.rail.key for g in grounds(case) if any(f.is_low for f in g.sides.values())]
    if low:
        return StageState(Status.ATTENTION, f"{', '.join(low)} low")
    total = len(SIDES) * len(case.sheet.rails)
    read = sum(f.judgement is not None for g in grounds(case) for f in g.sides.values())
    status = Status.DONE if total and read == total else Status.OPEN
    return StageState(status, f"{read} of {total} read")


def page(case: CaseFile, _: PageQuery) -> ShortsPage:
    """Every rail with its cells."""
    low = shorted_rails(case)
    return ShortsPage(tuple(_row(ground) for ground in grounds(case)), low[0] if low else "")


def _row(ground: RailGround) -> ShortsRow:
    sides = tuple(_side(ground, side, ground.sides[side]) for side in SIDES)
    shown = [s for s in SIDES if s in ground.injections] or [Condition.ATTACHED]
    return ShortsRow(ground, sides, tuple(_injection(ground, side) for side in shown))


def _side(ground: RailGround, side: Condition, facts: GroundFacts) -> RailSide:
    ways = ((side, facts.usual), (REVERSED[side], facts.reversed))
    usual, turned = (
        Cell(Point(rail_target(ground.rail.key), GROUND, how).key, reading, facts.is_low)
        for how, reading in ways
    )
    if facts.judgement is None:
        return RailSide((usual, turned), "", "")
    verdict = facts.judgement.verdict
    return RailSide((usual, turned), verdict.shape, verdict.value)


def _injection(ground: RailGround, side: Condition) -> Cell:
    key = Point(rail_target(ground.rail.key), INJECT, side).key
    if side not in ground.injections:
        return Cell(key, None)
    reading, judged = ground.injections[side]
    return Cell(key, reading, judged.verdict.shape == "failed", side.words)


def points(case: CaseFile, _: PageQuery) -> Sequence[Point]:
    """Every rail, both sides, both ways round."""
    return ground_points(case)


def first(case: CaseFile, order: Sequence[Point]) -> Point | None:
    """When all are read: a rail that says something."""
    if next_undone(order, done(case)):
        return None
    telling = {g.rail.key for g in grounds(case) if g.polarity_text or g.side_text}
    return next((p for p in order if p.target.rail in telling), None)


def next_step(case: CaseFile) -> StageStep | None:
    """A short before all other cold work; else what is still unread."""
    step = _of_short(case)
    if step:
        return step
    if any(f.judgement is None for g in grounds(case) for f in g.sides.values()):
        point = next_undone(ground_points(case), done(case))
        return StageStep("Read every rail to ground", Urgency.WORK, point)
    return None


def _of_short(case: CaseFile) -> StageStep | None:
    """What is done of the first rail that is low: lifted, replaced, traced, or isolated."""
    for rail in shorted_rails(case):
        current_culprit = culprit(case, rail)
        if current_culprit and current_culprit.sheet_part and not is_closed(case, rail):
            name = current_culprit.part.name
            text = f"{name} shorts {rail}: the short is gone with its leg lifted. Close the trace"
            return StageStep(text, Urgency.PROVEN, stage_key="trace")
        if current_culprit:
            point = Point(rail_target(rail), GROUND, Condition.ATTACHED)
            return StageStep(f"Read {rail} to ground again: {current_culprit.part.name} was lifted",
                        Urgency.FAULT, point)  # fmt: skip
        if rail in board_maps(case):
            return StageStep(f"Trace {rail} on its map", Urgency.FAULT, stage_key="trace")
        return StageStep(f"{rail} low: find what removes the short", Urgency.FAULT,
                    stage_key="isolate")  # fmt: skip
    return None


def begun(case: CaseFile) -> bool:
    """True once a rail was read to ground."""
    return not case.rows.procedures.isdisjoint((GROUND, INJECT))


def ground_meaning(case: CaseFile, reading: Reading) -> Meaning:
    """What ohms to ground say, those just read first."""
    ground = next(g for g in grounds(case) if g.rail.key == reading.target.rail)
    side = next(s for s in SIDES if reading.condition in (s, REVERSED[s]))
    judged = ground.sides[side].judgement
    if judged is None:
        return Meaning.noted()
    own = judge_reading(case, ground.rail, reading)
    both = judged.text if judged.verdict is not own.verdict else ""
    turned = (
        ground.polarity_text if ground.sides[side].usual and ground.sides[side].reversed else ""
    )
    text = " ".join(text for text in (own.text, both, turned, ground.side_text) if text)
    return Meaning(own.verdict.shape, own.verdict.value, text)


def injection_meaning(case: CaseFile, reading: Reading) -> Meaning:
    """What a low injection says."""
    ground = next(g for g in grounds(case) if g.rail.key == reading.target.rail)
    judged = ground.injections[reading.condition][1]
    return Meaning(judged.verdict.shape, judged.verdict.value, judged.text)


STAGE = Stage(
    key="shorts",
    name="Shorts",
    state=state,
    page=page,
    points=points,
    first=first,
    next_step=next_step,
    begun=begun,
    is_guarded=True,
    meanings={GROUND.code: ground_meaning, INJECT.code: injection_meaning},
)
