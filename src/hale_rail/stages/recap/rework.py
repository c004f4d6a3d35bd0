"""Rework: one position at a time, from the old part out to the new one looked at."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.case.file import CaseFile
from hale_rail.case.history import case_photos
from hale_rail.case.recap.demands import capacitor_needs
from hale_rail.case.recap.plans import case_plan
from hale_rail.case.recap.rework import (
    BeforeAfter,
    Job,
    after_done,
    grounds_around,
    in_work,
    jobs,
    judge_new,
    last_fitted,
    new_part_readings,
    new_points,
)
from hale_rail.case.words import show_reading
from hale_rail.case.worker import AnalysisState
from hale_rail.core.parts.polarity import Mark, unpolarised_words
from hale_rail.core.parts.verdicts import Judgement, Verdict
from hale_rail.core.procedures import NEW_CAP, NEW_ESR, Point
from hale_rail.core.recap.needs import Build
from hale_rail.core.recap.rework import (
    METHODS,
    NOT_MEASURED,
    USUAL_METHOD,
    After,
    Method,
    ReworkAct,
    heat_hint,
    mark_differs,
    marks_of,
)
from hale_rail.stages.recap.recap import build_words
from hale_rail.stages.shorts.trace import asked_target
from hale_rail.stages.stage import (
    Meaning,
    PageQuery,
    Stage,
    StageState,
    StageStep,
    Status,
    Urgency,
    is_part_id,
)
from hale_rail.store.board_marks import BOARD_MARKS, ProvenMark
from hale_rail.store.photos import Photo
from hale_rail.store.readings import Reading
from hale_rail.store.rework import RECAP_NOTES, REWORK_STEPS, ReworkStep


class ActKey(Struct, frozen=True):
    """One of the keys in the row: the act, whether it is done, whether it is the next one."""

    act: ReworkAct
    step: ReworkStep | None
    is_next: bool
    is_read: bool = True

    @property
    def words(self) -> str:
        """What it says: a new part without a figure is not measured."""
        is_measured = self.is_read and not (self.step and self.step.note == NOT_MEASURED)
        return self.act.words if is_measured else NOT_MEASURED

    @property
    def press(self) -> str:
        """What its press says."""
        return self.act.press if self.words == self.act.words else f"Mark as {NOT_MEASURED}"


class AtPosition(Struct, frozen=True):
    """The position in hand: its keys, both parts' marks, the board's own, what was read.

    `second_look` why a second look is due, or ""; `judged` the new part by its readings.
    """

    job: Job
    keys: tuple[ActKey, ...]
    old_marks: tuple[Mark, ...]
    new_marks: tuple[Mark, ...]
    unpolarised: str
    board_mark: ProvenMark | None
    second_look: str
    new_words: str
    readings: tuple[tuple[Reading, str], ...]
    judged: Judgement | None
    method: Method
    method_key: str
    heat: str
    has_plane: bool
    photos: tuple[Photo, ...]
    last_step: ReworkStep | None


class ReworkPage(Struct, frozen=True):
    """The position in hand, the strip of all, and what comes when the last part is in."""

    here: AtPosition | None
    jobs: tuple[Job, ...]
    fitted: int
    after: Mapping[After, ReworkStep]
    is_all_in: bool
    grounds: tuple[BeforeAfter, ...]
    outcome: AnalysisState
    methods: Mapping[str, Method]


def state(case: CaseFile) -> StageState:
    """How many are in; attention while something is out."""
    all_jobs = jobs(case, with_plan=False)
    if not all_jobs:
        return StageState(Status.OPEN, "nothing planned")
    fitted = sum(job.is_fitted for job in all_jobs)
    out = in_work(all_jobs)
    if out:
        return StageState(Status.ATTENTION, f"{out.part.ref} is out")
    todo = sum(not job.is_fitted and not job.is_left_out for job in all_jobs)
    status = Status.DONE if not todo and fitted else Status.OPEN
    return StageState(status, f"{fitted} of {fitted + todo} in")


def page(case: CaseFile, query: PageQuery) -> ReworkPage:
    """The position asked for, else the one in work, else the next."""
    all_jobs = jobs(case)
    job = _asked_job(all_jobs, query)
    wanted = [j for j in all_jobs if not j.is_left_out]
    return ReworkPage(
        _at(case, job, all_jobs) if job else None,
        tuple(all_jobs),
        sum(j.is_fitted for j in all_jobs),
        after_done(case),
        bool(wanted) and all(j.is_fitted for j in wanted),
        grounds_around(case),
        replace(case_plan(case).outcome, previous=None),  # nothing is fitted by a plan of before
        METHODS,
    )


def _asked_job(jobs: Sequence[Job], query: PageQuery) -> Job | None:
    part_id = int(query.by) if is_part_id(query.by) else 0
    target = asked_target(query)
    part_id = part_id or (target.part_id or 0 if target else 0)
    named = next((job for job in jobs if job.part.id == part_id), None)
    return named or in_work(jobs) or next((job for job in jobs if job.next), None)


def _at(case: CaseFile, job: Job, jobs: Sequence[Job]) -> AtPosition:
    readings = new_part_readings(case, job)
    family = job.family
    old = capacitor_needs(case, job.part)
    new = job.new.build if job.new else None
    board = case.rows.newest(RECAP_NOTES).get(job.part.board)
    body: Mapping[str, Any] = board.body if board else {}
    key = body.get("method") or USUAL_METHOD
    has_plane = body.get("plane") == "yes"
    steps = [step for step in case.rows.active(REWORK_STEPS) if step.part_id == job.part.id]
    return AtPosition(
        job,
        tuple(_key(job, act, readings) for act in job.acts),
        marks_of(job.part.family, old.mount if old else None),
        marks_of(family, new.mount if isinstance(new, Build) else None),
        unpolarised_words(family),
        case.rows.newest(BOARD_MARKS).get(job.part.board),
        _second_look(job, jobs),
        build_words(job.new.build) if job.new else "",
        tuple((r, f"{r.procedure.short} {show_reading(r)}") for r in readings.values()),
        judge_new(job, readings),
        METHODS[key],
        key,
        heat_hint(has_plane=has_plane),
        has_plane,
        tuple(p for p in case_photos(case) if p.part_id == job.part.id),
        steps[-1] if steps else None,
    )


def _key(job: Job, act: ReworkAct, readings: Mapping[Any, Reading]) -> ActKey:
    step = job.done.get(act)
    is_next = act is job.next
    is_bare = act is ReworkAct.MEASURED and is_next and not readings
    return ActKey(act, step, is_next, not is_bare)


def _second_look(job: Job, jobs: Sequence[Job]) -> str:
    """Why this position needs a second look, or "": a family changes here, or since the last."""
    new = job.family
    if mark_differs(job.part.family, new) and job.part.family and new:
        return (
            f"{job.part.family.label} comes out, {new.label} goes in: what marks the one end of "
            "the old part may mark the other end of the new one."
        )
    last = last_fitted(jobs)
    if job.needs_second_look and last and last.family and new:
        return f"The last part in was {last.family.label}, this one is {new.label}: other marks."
    return ""


def points(case: CaseFile, query: PageQuery) -> Sequence[Point]:
    """The new part's C and ESR, once the old one is out and the polarity is settled."""
    job = _asked_job(jobs(case), query)
    return new_points(job) if job and job.next is ReworkAct.MEASURED else ()


def first(case: CaseFile, order: Sequence[Point]) -> Point | None:
    """What was not read of this new part yet; a reading of a former one does not count."""
    part = case.sheet.part(order[0].part_id) if order else None
    job = next((j for j in jobs(case, with_plan=False) if part and j.part.id == part.id), None)
    readings = new_part_readings(case, job) if job else {}
    return next((point for point in order if point.procedure not in readings), None)


def new_meaning(case: CaseFile, reading: Reading) -> Meaning:
    """Whether the new part may be fitted."""
    job = next((j for j in jobs(case) if j.part.id == reading.target.part_id), None)
    judged = judge_new(job, {reading.procedure: reading}) if job else None
    if judged is None:
        return Meaning.noted()
    new_meaning = judged.reasons[0].sentence if judged.reasons else ""
    do = (
        "Fit it."
        if judged.verdict is Verdict.GOOD
        else "Do not fit it: take another, and read that one."
    )
    return Meaning(judged.verdict.shape, judged.verdict.words, f"{new_meaning} {do}")


def next_step(case: CaseFile) -> StageStep | None:
    """A position that is open; then what is done to the whole board before power."""
    all_jobs = jobs(case, with_plan=False)
    out = in_work(all_jobs)
    if out and out.next:
        text = f"{out.part.ref}: {out.next.words}"
        return StageStep(f"Rework: {text}", Urgency.FAULT)
    fitted = [job for job in all_jobs if ReworkAct.FITTED in job.done]
    if not fitted or any(not j.is_fitted and not j.is_left_out for j in all_jobs):
        return None
    left = [after.words for after in After if after not in after_done(case)]
    if left:
        return StageStep(f"Board: not yet {left[0]}", Urgency.FAULT)
    unread = next((row for row in grounds_around(case) if not row.after), None)
    if unread:
        text = "Read every rail to ground again, after the rework"
        return StageStep(text, Urgency.FAULT, unread.point, "shorts")
    return None


def begun(case: CaseFile) -> bool:
    """True once something was done at a position."""
    return bool(case.rows.active(REWORK_STEPS))


STAGE = Stage(
    key="rework",
    name="Rework",
    templates="recap/rework",
    state=state,
    page=page,
    points=points,
    first=first,
    next_step=next_step,
    begun=begun,
    is_guarded=True,
    has_panel=True,
    meanings={NEW_ESR.code: new_meaning, NEW_CAP.code: new_meaning},
)
