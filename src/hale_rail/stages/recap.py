"""Recap: what is replaced under each school, grouped for buying."""

from __future__ import annotations

from dataclasses import dataclass

from hale_rail.case.file import CaseFile
from hale_rail.case.recap import (
    count_replaced,
    has_unread,
    kept,
    others,
    recap_lines,
    settled,
    to_replace,
)
from hale_rail.core.recap.demand import SCHOOLS, Line, Position, School
from hale_rail.core.recap.others import OtherLine
from hale_rail.stages.stage import Asked, Stage, StageState, Status, Step, Urgency

#: what each school is about, for its heading
SCHOOL_WORDS = {
    School.PROVEN: "what was found bad",
    School.OFFENDERS: "and old suppressors, stressed tantalums",
    School.BLANKET: "every wet, tantalum and paper part",
}


@dataclass(frozen=True)
class SchoolCount:
    """A school with how many parts it replaces."""

    school: School
    words: str
    count: int
    is_own: bool


@dataclass(frozen=True)
class RecapPage:
    """The list of the school that is looked at, the others' counts, and what decisions keep.

    `others`: what is replaced besides capacitors, the same under every school.
    """

    school: School
    schools: tuple[SchoolCount, ...]
    lines: tuple[Line, ...]
    others: tuple[OtherLine, ...]
    kept: tuple[Position, ...]


def state(case: CaseFile) -> StageState:
    """Open while something is to be replaced, or a capacitor was never read."""
    todo, done = to_replace(case), settled(case)
    if todo:
        return StageState(Status.OPEN, f"{todo} to replace, {done} done")
    return StageState(Status.OPEN if has_unread(case) else Status.DONE, f"{done} replaced")


def page(case: CaseFile, asked: Asked) -> RecapPage:
    """The list by the school asked for, else the case's own."""
    school = SCHOOLS.get(asked.by, case.school)
    counts = {s: count_replaced(case, s) for s in School}
    return RecapPage(
        school,
        tuple(SchoolCount(s, SCHOOL_WORDS[s], counts[s], s is case.school) for s in School),
        tuple(recap_lines(case, school)),
        tuple(others(case)),
        tuple(kept(case)),
    )


def next_step(case: CaseFile) -> Step | None:
    """What is still to be replaced."""
    todo = to_replace(case)
    text = f"Recap: {todo} to replace, {settled(case)} done"
    return Step(text, Urgency.REPAIR) if todo else None


STAGE = Stage(key="recap", name="Recap", state=state, page=page, next_step=next_step)
