"""Practice: what can be taken up, what came of it, and the line of one that is under way.

It is not a stage of a case's work: a case of practice has the stages of any other.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct

from hale_rail.case.diagnosis.diagnosis import diagnosis
from hale_rail.case.file import CaseFile
from hale_rail.case.name_lookup import name_of
from hale_rail.case.practice.practice import chip_choices, practising
from hale_rail.case.practice.reviews import PracticeReview
from hale_rail.core.diagnosis.knowledge import FaultGroup
from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.graded_cases import GRADED, Graded
from hale_rail.core.simulate.random_units import Difficulty
from hale_rail.core.supply.sheet import Topology
from hale_rail.formats.codec import record_of
from hale_rail.formats.knowledge import ShippedFigures, figures
from hale_rail.store import practice
from hale_rail.store.database import Store
from hale_rail.store.practice import PRACTICE_ACTS, ListedPractice

_MOST_SHOWN = 40
DIFFICULTIES = {
    "": "any",
    Difficulty.PLAIN.value: "plain: it reads bad in circuit",
    Difficulty.MEANT.value: "usual",
    Difficulty.HARD.value: "hard: it hides, or comes and goes",
}


class PracticeResult(Struct, frozen=True):
    """A practice that is over: `share` the engine's minutes against one's own, at most 1."""

    row: ListedPractice
    review: PracticeReview

    @property
    def share(self) -> float:
        """How near one came to the engine's minutes: 1 as quick, or quicker."""
        own = self.review.minutes
        return min(1.0, self.review.engine_minutes / own) if own else 1.0


class GradedLine(Struct, frozen=True):
    """A graded case with where it is under way, and the best that came of it."""

    case: Graded
    under_way: str
    best: PracticeResult | None


class PracticePage(Struct, frozen=True):
    """What the page shows."""

    graded: Sequence[GradedLine]
    under_way: Sequence[ListedPractice]
    over: Sequence[PracticeResult]
    right: int
    figures: ShippedFigures
    topologies: Sequence[Topology]
    difficulties: Mapping[str, str]
    next_place: int | None


def page(store: Store) -> PracticePage:
    """The practice page."""
    rows = practice.listed(store.read())
    over = [PracticeResult(row, record_of(row.ended, PracticeReview)) for row in rows if row.ended]
    lines = [_line(case, rows, over) for case in GRADED]
    solved = {line.case.place for line in lines if line.best and line.best.review.right}
    open_places = [line.case.place for line in lines if line.case.place not in solved]
    return PracticePage(
        lines,
        [row for row in rows if row.ended is None],
        over[:_MOST_SHOWN],
        sum(result.review.right for result in over),
        figures(),
        tuple(Topology),
        DIFFICULTIES,
        open_places[0] if open_places else None,
    )


def _line(
    case: Graded, rows: Sequence[ListedPractice], over: Sequence[PracticeResult]
) -> GradedLine:
    own = [result for result in over if result.row.unit.graded == case.place]
    best = min(
        own,
        key=lambda r: (not r.review.right, r.review.unsafe_steps, r.review.minutes),
        default=None,
    )
    under_way = next(
        (row.number for row in rows if row.unit.graded == case.place and row.ended is None), ""
    )
    return GradedLine(case, under_way, best)


class PracticeLine(Struct, frozen=True):
    """The quiet line of a practice: minutes, what was spent, and what the hand may do.

    `look_at` the part in hand, with its name; `by_hand` the next test where no meter answers it.
    """

    minutes: float
    spent: Sequence[str]
    is_over: bool
    look_at: Part | None
    look_name: str
    test_id: str
    test_name: str


def line(case: CaseFile, part_id: int | None) -> PracticeLine | None:
    """The line of a case of practice, None for any other case."""
    practice = practising(case)
    if practice is None:
        return None
    best = None if practice.is_over else diagnosis(case).diagnosis.next
    by_hand = best.test if best and not best.test.points else None
    part = case.sheet.part(part_id)
    return PracticeLine(
        practice.minutes,
        practice.spent,
        practice.is_over,
        part,
        name_of(case, part) if part else "",
        by_hand.id if by_hand else "",
        by_hand.name if by_hand else "",
    )


class EndPage(Struct, frozen=True):
    """The end of a practice: what may be named, then the review."""

    number: str
    machine: str
    minutes: float
    spent: Sequence[str]
    groups: Sequence[FaultGroup]
    chips: Mapping[str, str]
    review: PracticeReview | None
    idle: int


def end_page(case: CaseFile) -> EndPage | None:
    """The end page of a case of practice, None for any other case."""
    current_practice = practising(case)
    if current_practice is None:
        return None
    ended = [act.body for act in case.rows.all(PRACTICE_ACTS) if act.kind == practice.ENDED]
    review = record_of(ended[0], PracticeReview) if ended else None
    known = sorted(diagnosis(case).knowledge.groups, key=lambda h: h.name)
    return EndPage(
        case.number,
        case.case.machine,
        current_practice.minutes,
        current_practice.spent,
        known,
        chip_choices(case),
        review,
        sum(step.told_nothing for step in review.mine) if review else 0,
    )
