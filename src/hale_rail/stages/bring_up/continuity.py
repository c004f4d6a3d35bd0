"""Continuity: a board's list of connections, walked by two numbers and one key."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.case.bring_up.continuity import ListFacts, PairFacts, lists
from hale_rail.case.file import CaseFile
from hale_rail.case.intake.drawings import Drawing, drawings
from hale_rail.case.words import counted
from hale_rail.core.bring_up.continuity import PairMark, PairState
from hale_rail.core.procedures import CONTINUITY, Point
from hale_rail.stages.stage import Meaning, PageQuery, Stage, StageState, StageStep, Status, Urgency
from hale_rail.store import machine_notes
from hale_rail.store.readings import Reading

_WORDS = {
    PairState.UNREAD: ("unseen", "unread"),
    PairState.RIGHT: ("good", "as it should be"),
    PairState.OPEN: ("failed", "open"),
    PairState.UNEXPECTED: ("failed", "connected, should not be"),
}


class Elsewhere(Struct, frozen=True):
    """A list of another case that can be copied: its note, its case, its name and board."""

    note_id: int
    number: str
    name: str
    board: str


class ContinuityPage(Struct, frozen=True):
    """The list in hand with the pair to touch next, all lists, drawings, and what to copy."""

    here: ListFacts | None
    pair: PairFacts | None
    lists: tuple[ListFacts, ...]
    drawings: tuple[Drawing, ...]
    elsewhere: tuple[Elsewhere, ...]
    marks: tuple[PairMark, ...]

    @property
    def ends(self) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """The ends of the list's two sides, in order, each once."""
        pairs = self.here.pairs if self.here else ()
        ones = tuple(dict.fromkeys(pair.pair.one for pair in pairs))
        others = tuple(dict.fromkeys(pair.pair.other for pair in pairs))
        return ones, others


def shape_of(pair: PairFacts) -> tuple[str, str]:
    """A pair's shape and word."""
    if pair.is_reopened:
        return "unproven", "open again: not of this board"
    if pair.mark:
        return "replaced", pair.mark.words
    return _WORDS[pair.state]


def state(case: CaseFile) -> StageState:
    """Done when every pair of every list is right or dealt with."""
    known = lists(case)
    if not known:
        return StageState(Status.OPEN, "")
    left = sum(len(facts.open) for facts in known)
    if any(facts.is_distrusted for facts in known):
        return StageState(Status.ATTENTION, "not of this board")
    if left:
        return StageState(Status.ATTENTION, f"{counted(left, 'pair')} wrong")
    unread = sum(facts.unread for facts in known)
    return StageState(Status.OPEN if unread else Status.DONE, f"{unread} unread" if unread else "")


def _here(case: CaseFile, query: PageQuery) -> ListFacts | None:
    known = lists(case)
    at = next((f for f in known for p in f.pairs if query.at and p.point.key == query.at), None)
    named = next((facts for facts in known if facts.key == query.by), None)
    unwalked = next((facts for facts in known if facts.unread or facts.open), None)
    return at or named or unwalked or (known[-1] if known else None)


def page(case: CaseFile, query: PageQuery) -> ContinuityPage:
    """The list in hand."""
    here = _here(case, query)
    pairs = here.pairs if here else ()
    pair = next((p for p in pairs if p.point.key == query.at), None)
    pair = pair or next((p for p in pairs if p.state is PairState.UNREAD), None)
    others = tuple(
        Elsewhere(note.id, number, str((note.body or {}).get("name", "")),
                  str((note.body or {}).get("board", "")))
        for number, note in machine_notes.elsewhere(case.store.read(), case.case.id, "list")
    )  # fmt: skip
    return ContinuityPage(here, pair, lists(case), drawings(case), others, tuple(PairMark))


def points(case: CaseFile, query: PageQuery) -> Sequence[Point]:
    """The pairs of the list in hand, in its order."""
    here = _here(case, query)
    return [pair.point for pair in here.pairs] if here else []


def next_step(case: CaseFile) -> StageStep | None:
    """A list whose drawing proved wrong, pairs that are wrong, then a list that was begun."""
    for facts in lists(case):
        if facts.is_distrusted and facts.results:
            text = f"{facts.name}: it is of another board; look at its results again"
            return StageStep(text, Urgency.REPAIR)
    for facts in lists(case):
        if facts.asks_board:
            text = f"{facts.name}: {len(facts.broken)} pairs read open; is it this board's list?"
            return StageStep(text, Urgency.REPAIR)
        if facts.open:
            first = facts.open[0].pair
            return StageStep(f"{facts.name}: {first.one} to {first.other} is wrong", Urgency.REPAIR)
        if 0 < facts.unread < len(facts.pairs):
            return StageStep(f"{facts.name}: {counted(facts.unread, 'pair')} left", Urgency.LATER)
    return None


def meaning(case: CaseFile, reading: Reading) -> Meaning:
    """What was measured between two ends."""
    for facts in lists(case):
        for pair in facts.pairs:
            if pair.point.key == reading.key:
                shape, word = shape_of(pair)
                return Meaning(shape, word, pair.pair.note)
    return Meaning.noted()


STAGE = Stage(
    key="continuity",
    name="Continuity",
    templates="bring_up/continuity",
    state=state,
    page=page,
    points=points,
    next_step=next_step,
    begun=lambda case: bool(lists(case)),
    is_guarded=True,
    under="machine",
    meanings={CONTINUITY.code: meaning},
)
