"""What a stage of work is: a room that says everything about itself in one module."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from enum import Enum, IntEnum

from msgspec import Struct, field

from hale_rail.case.file import CaseFile
from hale_rail.case.walks import done as walked
from hale_rail.case.walks import part_point
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import Point
from hale_rail.store.readings import Reading

#: the longest a part's id can be in an address
_MOST_DIGITS = 16


class Status(Enum):
    """The state of a stage, for the side list."""

    DONE = "done"
    OPEN = "open"
    ATTENTION = "attention"


class StageState(Struct, frozen=True):
    """A stage's status, and a short reason."""

    status: Status
    note: str


class Urgency(IntEnum):
    """How pressing a stage's next step is; of equal ones the earlier stage's comes first.

    `SAFETY` the guard, `CHARGED` a store that was read above the limit, `STOP` a stop condition
    met, `PROVEN` a part proven shorted or open, `FAULT` a short still to be found, or a board in
    work that must not see power yet, `HUNT` what the diagnosis would have read.
    """

    LATER = 0
    REPAIR = 1
    WORK = 2
    HUNT = 3
    FAULT = 4
    PROVEN = 5
    SAFETY = 6
    CHARGED = 7
    DANGER = 8
    STOP = 9
    CLOSED = 10


class StageStep(Struct, frozen=True):
    """What a stage would have done next, how pressing, at which point, and on which stage's page.

    `stage_key` "" for the stage's own page.
    """

    text: str
    urgency: Urgency
    point: Point | None = None
    stage_key: str = ""


class PageQuery(Struct, frozen=True):
    """What the address of a page asks for.

    `at` a point's key, `saved` the id of a reading just saved, `load` a condition's code, or how
    many readings a trace shows, `by` a school's code, or a rail's key; each is "" or None where it
    is not asked.
    """

    at: str = ""
    saved: int | None = None
    load: str = ""
    by: str = ""
    find: str = ""


def is_part_id(at: str) -> bool:
    """True for an address that names a part and leaves its next reading to us."""
    return at.isascii() and at.isdecimal() and len(at) < _MOST_DIGITS


class Meaning(Struct, frozen=True):
    """What a reading says: its shape (a part state's value), a word and a sentence."""

    shape: str
    word: str
    text: str

    @classmethod
    def noted(cls, text: str = "") -> Meaning:
        """Of a reading that proves nothing by itself."""
        return cls("unproven", "noted", text)


def _no_points(_: CaseFile, __: PageQuery) -> Sequence[Point]:
    return ()


def _no_switches(_: CaseFile, __: Point) -> Sequence[Point]:
    return ()


def _no_step(_: CaseFile) -> StageStep | None:
    return None


def _no_first(_: CaseFile, __: Sequence[Point]) -> Point | None:
    return None


def _not_begun(_: CaseFile) -> bool:
    return False


def _known(_: CaseFile, __: PageQuery) -> bool:
    return False


class Stage(Struct, frozen=True, eq=False):
    """A stage of work, or a page beside them.

    `page` makes what its page shows, a frozen context; `points` the order of the tray (none: no
    tray); `first` the point to open with when there is a better one than the next undone;
    `is_drawing`: its page is a drawing, which may stand as it is until a press was answered;
    `templates`: the folder of its templates, its key where none is named;
    `is_guarded`: the guard stands before it; `under`: the key of the stage it belongs to, for a
    page beside them; `has_panel`: what is known beside its page is a template of its own; `begun`:
    something was done of it; `is_pending`: its points are still being computed; `meanings` what
    readings say, by procedure's code; `done` the keys of the points that no longer need a reading;
    `switches`: what else can be read at a point; `part_point`: where a part that was pressed is
    read; `leads`: after a reading the tray goes where
    `first` says, not down the list; `meets_stores`: a page without a guard whose tray asks for a
    store's volts before a meter goes on its line.
    """

    key: str
    name: str
    state: Callable[[CaseFile], StageState]
    page: Callable[[CaseFile, PageQuery], object]
    points: Callable[[CaseFile, PageQuery], Sequence[Point]] = _no_points
    first: Callable[[CaseFile, Sequence[Point]], Point | None] = _no_first
    next_step: Callable[[CaseFile], StageStep | None] = _no_step
    begun: Callable[[CaseFile], bool] = _not_begun
    is_pending: Callable[[CaseFile, PageQuery], bool] = _known
    templates: str = ""
    is_guarded: bool = False
    is_drawing: bool = False
    under: str = ""
    has_panel: bool = False
    meanings: Mapping[str, Callable[[CaseFile, Reading], Meaning]] = field(default_factory=dict)
    done: Callable[[CaseFile], frozenset[str]] = walked
    switches: Callable[[CaseFile, Point], Sequence[Point]] = _no_switches
    part_point: Callable[[CaseFile, Part], Point | None] = part_point
    leads: bool = False
    meets_stores: bool = False

    @property
    def folder(self) -> str:
        """The folder in which its templates stand."""
        return self.templates or self.key

    @property
    def has_tray(self) -> bool:
        """True where readings are taken."""
        return self.points is not _no_points
