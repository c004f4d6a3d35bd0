"""Where is it: a board's photos as the index of its parts."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.case.file import CaseFile
from hale_rail.case.history import case_photos
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import parts
from hale_rail.case.places.finding import findables
from hale_rail.case.places.places import (
    View,
    last_alike,
    like_views,
    marks_of,
    names,
    photo_name,
    places,
    placing,
    raw_view,
    views,
)
from hale_rail.case.recap.recap import left_to_replace
from hale_rail.case.walks import capacitor_points, cold_points
from hale_rail.core.parts.kinds import board as board_kind
from hale_rail.core.parts.part import Part
from hale_rail.core.places.find import OFFERED, find
from hale_rail.core.places.frame import window_of
from hale_rail.core.places.laying import XY
from hale_rail.core.places.place import Board, Place, Side
from hale_rail.core.procedures import Point, parse_point
from hale_rail.core.quantities import show_exact
from hale_rail.errors import InputError
from hale_rail.stages.parts.look import InspectedPart, inspected
from hale_rail.stages.stage import PageQuery, Stage, StageState, Status, is_part_id
from hale_rail.store.board_views import PhotoMark
from hale_rail.store.photos import Photo

#: what `load` says of the page: a photo is laid over; the other side lies as the top does
LAY, AS_TOP = "lay", "as-top"
#: in an address: before the place of a board without photos, before the id of a plain photo
_BOARD, PHOTO = "b", "p"


class BoardTab(Struct, frozen=True):
    """What can be shown: a photo of a board's side, or a bare board; `by` as addresses have it."""

    by: str
    name: str
    view: View | None
    is_here: bool


class PlacedPart(Struct, frozen=True):
    """A part on the board that is shown: `at` in mm as it is drawn, mirrored where that is."""

    part: Part
    name: str
    at: XY
    facts: PartFacts
    is_to_replace: bool
    is_other_side: bool
    is_selected: bool
    is_found: bool


class ListedPart(Struct, frozen=True):
    """A part of the list: what is printed on it, and where it stands, if that is known.

    `is_board`: it is a board itself, which nobody asks to be placed.
    """

    part: Part
    name: str
    words: str
    place: Place | None
    is_here: bool
    is_found: bool
    is_board: bool


class ShownMark(Struct, frozen=True):
    """A mark on the photo: its points in mm as they are drawn."""

    mark: PhotoMark
    start: XY
    end: XY


class WherePage(Struct, frozen=True):
    """What the page shows.

    `view` None for a board without a photo; `board` None while there is none. `is_flipped`: the
    side is drawn as it is seen, from behind. `box` the window in mm. `found` is how many parts fit
    what is sought, None where nothing is, with what is wrong in `problem`; `placed` of the `wanted`
    parts have a place; `look` is what was and can be seen at the part chosen; `plain` names a photo
    that is shown as it was taken.
    """

    tabs: tuple[BoardTab, ...]
    by: str
    view: View | None
    board: Board | None
    side: Side
    box: tuple[float, float, float, float]
    is_flipped: bool
    is_laying: bool
    rings: tuple[PlacedPart, ...]
    parts: tuple[ListedPart, ...]
    selected: Part | None
    marks: tuple[ShownMark, ...]
    sought: str
    found: int | None
    problem: str
    unshown: tuple[Photo, ...]
    last_alike: bool
    boards: tuple[Board, ...]
    placed: int
    wanted: int
    look: InspectedPart | None
    plain: str

    @property
    def offered(self) -> tuple[str, ...]:
        """Words that can be sought by a press."""
        return OFFERED

    def shown_x(self, x_mm: float) -> float:
        """An x of the board as it is drawn."""
        return 2 * self.box[0] + self.box[2] - x_mm if self.is_flipped else x_mm


def page(case: CaseFile, query: PageQuery) -> WherePage:
    """The photo or board asked for, else that of the part asked for, else the first."""
    boards = tuple(case.rows.boards.values())
    selected = _asked_part(case, query)
    chosen = _chosen(case, boards, query, selected)
    view = chosen.view if chosen else None
    board = _board(case, chosen)
    side = view.row.side if view else Side.TOP
    box = view.frame.box if view and view.frame else _bare(board)
    found, problem = _found(case, query.find)
    is_plain = bool(chosen and chosen.by.startswith(PHOTO))
    is_flipped = side is Side.BOTTOM and query.load != AS_TOP
    shown = WherePage(
        tabs=tuple(_tabs(case, boards, chosen.by if chosen else "")),
        by=chosen.by if chosen else "",
        view=view,
        board=board,
        side=side,
        box=box,
        is_flipped=is_flipped,
        is_laying=bool(
            view and not (view.of or is_plain) and (query.load == LAY or view.frame is None)
        ),
        rings=(),
        parts=tuple(_listed(case, board, found)),
        selected=selected,
        marks=(),
        sought=query.find,
        found=None if found is None else len(found),
        problem=problem,
        unshown=_unshown(case),
        last_alike=bool(view and last_alike(views(case), view)),
        boards=boards,
        placed=placing(case)[0],
        wanted=placing(case)[1],
        look=inspected(case, selected) if selected else None,
        plain=chosen.name if chosen and is_plain else "",
    )
    return _drawn(case, shown, found)


def _drawn(case: CaseFile, shown: WherePage, found: frozenset[int] | None) -> WherePage:
    """The page with what is drawn over its photo."""
    return replace(shown, rings=tuple(_rings(case, shown, found)), marks=tuple(_marks(case, shown)))


def _asked_part(case: CaseFile, query: PageQuery) -> Part | None:
    """The part asked for, by its id or by a point of it."""
    if is_part_id(query.at):
        return case.sheet.part(int(query.at))
    try:
        point = parse_point(query.at) if query.at else None
    except InputError:
        return None
    return case.sheet.part(point.part_id) if point else None


def _tabs(case: CaseFile, boards: Sequence[Board], here: str) -> list[BoardTab]:
    known = (*views(case), *like_views(case))
    tabs = [BoardTab(str(v.photo.id), v.name, v, str(v.photo.id) == here) for v in known]
    shown = {view.row.board.lower() for view in known}
    for nth, board in enumerate(boards):
        if board.name.lower() not in shown:
            by = f"{_BOARD}{nth}"
            tabs.append(BoardTab(by, board.name, None, by == here))
    return tabs


def _chosen(
    case: CaseFile, boards: Sequence[Board], query: PageQuery, selected: Part | None
) -> BoardTab | None:
    """The photo or board to be shown."""
    plain = _plain(case, query.by)
    if plain:
        return plain
    tabs = _tabs(case, boards, "")
    named = next((tab for tab in tabs if tab.by == query.by), None)
    place = places(case).get(selected.id) if selected else None
    if named:
        return named
    # of equals the newest photo
    return max(reversed(tabs), key=lambda tab: _fits(tab, place), default=None)


def _plain(case: CaseFile, by: str) -> BoardTab | None:
    """A photo as it was taken, whatever it shows."""
    photo = next((p for p in case_photos(case) if f"{PHOTO}{p.id}" == by), None)
    if photo is None:
        return None
    return BoardTab(by, f"Photo of {photo_name(case, photo)}", raw_view(case, photo), is_here=True)


def _fits(tab: BoardTab, place: Place | None) -> tuple[bool, bool, bool]:
    """How well a photo or board shows a place; without one, a laid photo of a top side is best."""
    name = tab.view.row.board if tab.view else tab.name
    side = tab.view.row.side if tab.view else None
    is_laid = bool(tab.view and tab.view.frame)
    if place is None:
        return is_laid, side is Side.TOP, bool(tab.view)
    return name.lower() == place.board.lower(), is_laid, side is place.side


def _board(case: CaseFile, chosen: BoardTab | None) -> Board | None:
    if chosen is None:
        return None
    name = chosen.view.row.board if chosen.view else chosen.name
    return case.rows.boards.get(name.lower())


def _bare(board: Board | None) -> tuple[float, float, float, float]:
    if board is None:
        return 0.0, 0.0, 200.0, 120.0
    return window_of((board.width_mm, board.height_mm))


def _found(case: CaseFile, text: str) -> tuple[frozenset[int] | None, str]:
    """The ids of the parts that fit what is sought, or None; and what is wrong with it."""
    if not text.strip():
        return None, ""
    try:
        return frozenset(one.id for one in find(text, findables(case))), ""
    except InputError as error:
        return None, str(error)


def _listed(case: CaseFile, board: Board | None, found: frozenset[int] | None) -> list[ListedPart]:
    """Every part, as power passes."""
    known, called = places(case), names(case)
    return [
        ListedPart(
            part,
            called[part.id],
            _printed(part),
            known.get(part.id),
            bool(board and part.id in known and _is_on(known[part.id], board)),
            found is not None and part.id in found,
            part.kind is board_kind.KIND,
        )
        for part in case.sheet.in_power_order
    ]


def _printed(part: Part) -> str:
    """What one looks for: the value, the volts, the kind, and the line."""
    unit = part.kind.value_unit
    value = show_exact(part.value, unit) if unit and part.value else ""
    volts = f"{part.volt:g}\u00a0V" if part.volt else ""
    what = part.family.label if part.family else part.kind.name
    return " ".join(word for word in (value, volts, what) if word)


def _is_on(place: Place, board: Board) -> bool:
    return board.is_named(place.board)


def _rings(case: CaseFile, shown: WherePage, found: frozenset[int] | None) -> list[PlacedPart]:
    """The parts of the board that is shown."""
    if shown.board is None:
        return []
    goes, facts = left_to_replace(case), parts(case)
    rings = []
    for one in shown.parts:
        if one.place is None or not one.is_here:
            continue
        rings.append(
            PlacedPart(
                one.part,
                one.name,
                (shown.shown_x(one.place.x_mm), one.place.y_mm),
                facts[one.part.id],
                one.part.id in goes,
                one.place.side is not shown.side,
                bool(shown.selected and shown.selected.id == one.part.id),
                found is None or one.part.id in found,
            )
        )
    return rings


def _marks(case: CaseFile, shown: WherePage) -> list[ShownMark]:
    """What is drawn on the photo that is shown."""
    view = shown.view
    if view is None or view.laying is None or view.of:
        return []
    marks = []
    for mark in marks_of(case, view.photo.id):
        ends = [view.laying.to_board(*at) for at in (mark.drawn.start, mark.drawn.end)]
        start, end = [(shown.shown_x(x), y) for x, y in ends]
        marks.append(ShownMark(mark, start, end))
    return marks


def _unshown(case: CaseFile) -> tuple[Photo, ...]:
    """Photos of the unit that show no board yet."""
    showing = {view.photo.id for view in views(case)}
    return tuple(p for p in case_photos(case) if p.part_id is None and p.id not in showing)


def state(case: CaseFile) -> StageState:
    """How many parts have a place."""
    placed, wanted = placing(case)
    status = Status.DONE if placed >= wanted > 0 else Status.OPEN
    return StageState(status, f"{placed} of {wanted} placed")


def points(case: CaseFile, query: PageQuery) -> Sequence[Point]:
    """The walks of the cold checks and the capacitors, once a part is chosen."""
    return (*cold_points(case), *capacitor_points(case)) if _asked_part(case, query) else ()


STAGE = Stage(
    key="where",
    name="Where is it",
    templates="places/where",
    state=state,
    page=page,
    points=points,
    under="look",
)
