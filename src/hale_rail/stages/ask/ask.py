"""One part, now: what was asked outside any case, with its answers."""

from __future__ import annotations

from msgspec import Struct

from hale_rail import clock
from hale_rail.case.workshop.workshop import resistors, workshop
from hale_rail.core.ask.answer import Answer, Circumstances
from hale_rail.errors import InputError
from hale_rail.formats.ask.question import follow_up, read_question
from hale_rail.store import asked, cases
from hale_rail.store.cases import CasePlace
from hale_rail.store.database import Store

#: cases that are offered to take an answer into
_OFFERED = 12
#: a figure longer than this is written smaller
_LONG = 14


class Asked(Struct, frozen=True):
    """A question as kept, and its answer; None where it is no longer understood."""

    text: str
    answer: Answer | None
    problem: str = ""

    @property
    def is_long(self) -> bool:
        """True for a figure that is written smaller."""
        return self.answer is not None and len(self.answer.figure) > _LONG


class AskPage(Struct, frozen=True):
    """The last questions, the newest first, and the cases on the bench."""

    asked: tuple[Asked, ...]
    cases: tuple[tuple[str, str], ...]


def circumstances(store: Store) -> Circumstances:
    """What answers are given under in this workshop."""
    settings = workshop(store)
    return Circumstances(
        clock.this_year(), settings.tolerance, settings.touch_limit_v, tuple(resistors(store))
    )


def answered(store: Store, text: str, *, follows: bool = False) -> Asked:
    """A question with its answer; `follows`: a reading alone is of the part asked before."""
    try:
        before = asked.newest(store.read()) if follows else []
        whole = follow_up(text, before[0]) if before else text
        return Asked(whole, read_question(whole).answer(circumstances(store)))
    except InputError as error:
        return Asked(text, None, str(error))


def page(store: Store) -> AskPage:
    """Everything that was asked lately."""
    lines = tuple(answered(store, text) for text in asked.newest(store.read()))
    rows, _ = cases.search(store.read(), {}, CasePlace.BENCH, limit=_OFFERED, offset=0)
    return AskPage(lines, tuple((row.number, row.machine) for row in rows))
