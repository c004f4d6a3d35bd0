"""The facet of continuity: a board's lists of connections, walked, and what came of them."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.intake.drawings import Drawing, drawings
from hale_rail.core.bring_up.continuity import (
    MANY_OPEN,
    MARKS,
    NO_PARTNER,
    Pairing,
    PairMark,
    PairState,
    state_of,
)
from hale_rail.core.errors import InputError
from hale_rail.core.intake.drawings import Trust
from hale_rail.core.procedures import CONTINUITY, Point
from hale_rail.core.procedures.bring_up import joint_target
from hale_rail.formats.readings.machine_lists import read_pairs
from hale_rail.store.machine_notes import MACHINE_NOTES
from hale_rail.store.readings import Reading

#: answers to whether a list is of the board in hand
OURS, ANOTHER = "this-board", "another-board"


class PairFacts(Struct, frozen=True):
    """A pair of a list: its number there (from 1), what was read, what it says, what came of it.

    `is_reopened`: something was concluded of it, and its drawing proved to be no drawing of this
    board since; `partner`: where the open end was found to go, `none` where nowhere.
    """

    number: int
    key: str
    pair: Pairing
    reading: Reading | None
    state: PairState
    mark: PairMark | None
    note: str
    is_reopened: bool
    partner: str = ""

    @property
    def point(self) -> Point:
        """Where it is read."""
        return Point(joint_target(self.key, self.pair.one, self.pair.other), CONTINUITY)

    @property
    def told(self) -> str:
        """What was noted of it, and where its open end goes."""
        goes = self.partner if self.partner != NO_PARTNER else ""
        where = f"{self.pair.one} goes to {goes}" if goes else ""
        return "; ".join(text for text in (self.note, where) if text)

    @property
    def is_open(self) -> bool:
        """True while something is to be done about it."""
        return self.is_reopened or (self.state.is_wrong and self.mark is None)


class ListFacts(Struct, frozen=True):
    """A list of connections of a board, tied to a drawing's revision."""

    key: str
    name: str
    board: str
    drawing: Drawing | None
    pairs: tuple[PairFacts, ...]
    #: the answer about the list as a whole: it is this board's, it is not, or none yet
    is_boards: bool | None = None

    @property
    def is_distrusted(self) -> bool:
        """True when its drawing is of another board, or a person said that the list is."""
        return _is_anothers(self.drawing, self.is_boards)

    @property
    def broken(self) -> tuple[PairFacts, ...]:
        """The pairs that read open and of which nothing came yet."""
        return tuple(p for p in self.pairs if p.state is PairState.OPEN and p.mark is None)

    @property
    def asks_board(self) -> bool:
        """True where so much reads open that the list itself is in doubt."""
        is_answered = self.is_boards is not None or self.is_distrusted
        return not is_answered and len(self.broken) >= MANY_OPEN

    @property
    def unread(self) -> int:
        """How many pairs are unread."""
        return sum(pair.state is PairState.UNREAD for pair in self.pairs)

    @property
    def results(self) -> tuple[PairFacts, ...]:
        """The pairs that were not as they should be."""
        return tuple(pair for pair in self.pairs if pair.state.is_wrong or pair.mark)

    @property
    def open(self) -> tuple[PairFacts, ...]:
        """The pairs about which something is to be done."""
        return tuple(pair for pair in self.pairs if pair.is_open)


def _is_anothers(drawing: Drawing | None, is_boards: bool | None) -> bool:
    is_drawn_so = drawing is not None and drawing.trust is Trust.NOT_THIS_BOARD
    return is_drawn_so or is_boards is False


@facet
def lists(case: CaseFile) -> tuple[ListFacts, ...]:
    """The lists of the case, oldest first."""
    by_hash = {drawing.document.sha256: drawing for drawing in drawings(case)}
    lists = []
    for (kind, key), note in case.rows.newest(MACHINE_NOTES).items():
        if kind != "list" or note.body is None:
            continue
        body = note.body
        try:
            pairs = read_pairs(str(body.get("pairs", "")))
        except InputError:
            continue
        drawing = by_hash.get(str(body.get("drawing", "")))
        machine_note = case.rows.newest(MACHINE_NOTES).get(("mark", key))
        answer = (
            str(machine_note.body.get("what", "")) if machine_note and machine_note.body else ""
        )
        is_boards = {OURS: True, ANOTHER: False}.get(answer)
        is_distrusted = _is_anothers(drawing, is_boards)
        facts = tuple(
            _pair(case, key, number, pair, is_distrusted) for number, pair in enumerate(pairs, 1)
        )
        name, board = str(body.get("name", "")), str(body.get("board", ""))
        lists.append(ListFacts(key, name, board, drawing, facts, is_boards))
    return tuple(lists)


def _pair(case: CaseFile, key: str, number: int, pair: Pairing, is_distrusted: bool) -> PairFacts:
    point = Point(joint_target(key, pair.one, pair.other), CONTINUITY)
    reading = case.rows.standing.get(point.key)
    note = case.rows.newest(MACHINE_NOTES).get(("mark", f"{key}|{pair.one}|{pair.other}"))
    body = note.body if note and note.body else {}
    mark = MARKS.get(str(body.get("what", "")))
    state = state_of(pair, reading.value if reading else None)
    is_reopened = is_distrusted and (mark is not None or state.is_wrong)
    note_text, partner = str(body.get("note", "")), str(body.get("partner", ""))
    return PairFacts(number, key, pair, reading, state, mark, note_text, is_reopened, partner)


def list_of(case: CaseFile, key: str) -> ListFacts | None:
    """The list of a key, or None."""
    return next((listed for listed in lists(case) if listed.key == key), None)
