"""The facet of places: a unit's boards, its photos of them, and where each part is seen."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping, Sequence
from functools import partial
from itertools import chain

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.history import case_photos
from hale_rail.case.name_lookup import part_names
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.parts.kinds import board as board_kind
from hale_rail.core.parts.part import Part
from hale_rail.core.places.frame import ViewFrame, frame_of
from hale_rail.core.places.laying import Laying, lay
from hale_rail.core.places.place import Board, Place, Side
from hale_rail.store.board_views import BOARD_VIEWS, PHOTO_MARKS, BoardView, PhotoMark
from hale_rail.store.decisions import PART_DECISIONS
from hale_rail.store.photos import Photo
from hale_rail.store.rework import REWORK_STEPS

#: characters of a laying's key
_KEY = 16


class View(Struct, frozen=True):
    """A photo of a board's side, laid over it: `key` names the pictures that are made so.

    `laying` and `frame` None while it is not laid over yet; `of` the number of the like unit that
    it is of, "" for this one.
    """

    photo: Photo
    row: BoardView
    key: str
    laying: Laying | None
    frame: ViewFrame | None
    of: str = ""

    @property
    def is_behind(self) -> bool:
        """True where it shows the board from behind."""
        return self.row.side is Side.BOTTOM

    @property
    def name(self) -> str:
        """The board's name, the side, and whose it is where that is another unit's."""
        whose = f" of {self.of}" if self.of else ""
        return f"{self.row.board}{whose}, {self.row.side.words}"


class Spot(Struct, frozen=True):
    """Where a part is seen: its place, its board, and the newest laid photo that shows it.

    `view` None where there is none; it may be of the other side, or of a like unit. `before` shows
    the spot before the part came out, `after` with the new one in.
    """

    part: Part
    place: Place
    board: Board
    view: View | None
    before: View | None
    after: View | None

    @property
    def words(self) -> str:
        """The spot in words."""
        place = self.place
        return (
            f"{self.board.name}, {place.side.words},"
            f" {place.x_mm:.0f}\u00a0mm from the left, {place.y_mm:.0f}\u00a0mm from the top"
        )


@facet
def names(case: CaseFile) -> Mapping[int, str]:
    """Every part's name, by id, as files have it."""
    return case.keep("part names", case.rows.sheet_version, partial(part_names, case.sheet))


@facet
def places(case: CaseFile) -> Mapping[int, Place]:
    """Where parts stand, by id: the case's own places, else those of its type of unit."""
    kept = case.rows.places
    known: dict[int, Place] = {}
    if not kept:
        return known
    for part_id, name in names(case).items():
        place = kept.get(name.upper()) or kept.get(_of_one(name))
        if place and place.board.lower() in case.rows.boards:
            known[part_id] = place
    return known


@facet
def placing(case: CaseFile) -> tuple[int, int]:
    """How many parts have a place, of how many that can have one.

    A board is photographed itself, so nobody asks where it is; but it may be told.
    """
    known = places(case)
    wanted = sum(p.kind is not board_kind.KIND or p.id in known for p in case.sheet.parts)
    return len(known), wanted


def _of_one(name: str) -> str:
    """What the first of several parts of a designator was called while it was alone."""
    ref, _, nth = name.upper().partition("#")
    return ref if nth == "1" else ""


@facet
def views(case: CaseFile) -> tuple[View, ...]:
    """The photos that show boards, oldest first, each as it is laid now."""
    by_id = {photo.id: photo for photo in case_photos(case)}
    newest = case.rows.newest(BOARD_VIEWS)
    return tuple(
        view_of(case, by_id[photo_id], newest[photo_id])
        for photo_id in sorted(newest)
        if photo_id in by_id
    )


@facet
def like_views(case: CaseFile) -> tuple[View, ...]:
    """Photos of like units that show boards of which this unit has no laid photo of its own."""
    own = {view.row.board.lower() for view in views(case) if view.frame}
    return tuple(
        replace(view_of(case, like.photo, like.row), of=like.number)
        for like in case.rows.like_views
        if like.row.board.lower() not in own and like.row.board.lower() in case.rows.boards
    )


def view_of(case: CaseFile, photo: Photo, row: BoardView) -> View:
    """A photo as one of its rows lays it over its board, which may have been measured since, on a
    like unit too: the points stay where they are on the board."""
    board = case.rows.boards.get(row.board.lower())
    size = (board.width_mm, board.height_mm) if board else (row.width_mm, row.height_mm)
    return case.keep(("view", row.id), size, lambda: _view(photo, _sized(row, *size)))


def _sized(row: BoardView, width_mm: float, height_mm: float) -> BoardView:
    """A row as it is on a board of another size."""
    across, down = width_mm / row.width_mm, height_mm / row.height_mm
    fixes = [[px, py, x * across, y * down] for px, py, x, y in row.fixes]
    return replace(row, width_mm=width_mm, height_mm=height_mm, fixes=fixes)


def _view(photo: Photo, row: BoardView) -> View:
    told = [photo.sha256, row.side.code, row.width_mm, row.height_mm, row.is_whole, *row.fixes]
    key = hashlib.sha256(json.dumps(told).encode()).hexdigest()[:_KEY]
    if not row.is_laid:
        return View(photo, row, key, None, None)
    size, board = (photo.width, photo.height), (row.width_mm, row.height_mm)
    laying = lay(row.points, size, board, is_behind=row.side is Side.BOTTOM)
    return View(photo, row, key, laying, frame_of(laying, board, is_whole=row.is_whole))


def photo_name(case: CaseFile, photo: Photo) -> str:
    """What a photo is of, in a word or two."""
    part = case.sheet.part(photo.part_id)
    return part.ref if part else photo.caption or "the unit"


def raw_view(case: CaseFile, photo: Photo) -> View:
    """A photo as it was taken, its pixels for millimetres: what it is laid over by."""
    size = (float(photo.width), float(photo.height))
    row = BoardView(photo.id, "as it was taken", Side.TOP, *size, is_whole=True, fixes=[])
    return case.keep(("raw view", photo.id), None, partial(_view, photo, row))


def view_by_key(case: CaseFile, sha256: str, key: str) -> View | None:
    """A photo's view as it is or was laid, by its key; None where it never was."""
    by_id = {photo.id: photo for photo in case_photos(case) if photo.sha256 == sha256}
    found = [*views(case), *like_views(case)]
    found += [raw_view(case, photo) for photo in by_id.values()]
    earlier = (
        _view(by_id[row.photo_id], row)
        for row in case.rows.all(BOARD_VIEWS)
        if row.photo_id in by_id and row.board
    )
    return next((view for view in chain(found, earlier) if _names(view, sha256, key)), None)


def _names(view: View, sha256: str, key: str) -> bool:
    return view.frame is not None and (view.photo.sha256, view.key) == (sha256, key)


@facet
def spots(case: CaseFile) -> Mapping[int, Spot]:
    """Where each placed part is seen, by part id, as power passes."""
    known = places(case)
    if not known:
        return {}
    laid = [view for view in (*like_views(case), *views(case)) if view.frame]
    work = _worked_on(case)
    return {
        part.id: _spot(case, part, known[part.id], laid, work.get(part.id))
        for part in case.sheet.in_power_order
        if part.id in known
    }


def _spot(
    case: CaseFile,
    part: Part,
    place: Place,
    laid: Sequence[View],
    work: tuple[int, int | None] | None,
) -> Spot:
    board = case.rows.boards[place.board.lower()]
    on_board = [view for view in laid if board.is_named(view.row.board)]
    on_side = [view for view in on_board if view.row.side is place.side]
    shown = on_side or on_board
    before = after = None
    if work:
        out, fitted = work
        own = [view for view in shown if not view.of]
        earlier = [view for view in own if view.photo.log_id < out]
        later = [view for view in own if fitted and view.photo.log_id > fitted]
        before, after = earlier[-1] if earlier else None, later[-1] if later else None
    return Spot(part, place, board, shown[-1] if shown else None, before, after)


def _worked_on(case: CaseFile) -> dict[int, tuple[int, int | None]]:
    """When work on each part began, and when its new one was in, by the log's entries."""
    began: dict[int, int] = {}
    for step in case.rows.active(REWORK_STEPS):
        if step.part_id is not None:
            began.setdefault(step.part_id, step.log_id)
    fitted = {
        part_id: decision.log_id
        for part_id, decision in case.rows.newest(PART_DECISIONS).items()
        if decision.kind is DecisionKind.FITTED
    }
    return {
        part_id: (began.get(part_id, fitted.get(part_id, 0)), fitted.get(part_id))
        for part_id in began.keys() | fitted.keys()
    }


def spot_of(case: CaseFile, part_id: int | None) -> Spot | None:
    """Where a part is seen, None where it is not placed."""
    return spots(case).get(part_id or 0)


def spot_named(case: CaseFile, name: str) -> Spot | None:
    """Where the part of a name is seen, None where there is none or it is not placed."""
    part_id = next((i for i, called in names(case).items() if called.upper() == name.upper()), None)
    return spot_of(case, part_id)


def rail_board(case: CaseFile, rail: str) -> Board | None:
    """The board on which most parts of a rail have a place, None where none has one."""
    known = places(case)
    on = [known[p.id].board.lower() for p in case.sheet.on_line(rail) if p.id in known]
    return case.rows.boards[max(on, key=on.count)] if on else None


def marks_of(case: CaseFile, photo_id: int) -> list[PhotoMark]:
    """What is drawn on a photo, oldest first."""
    return [mark for mark in case.rows.newest(PHOTO_MARKS).values() if mark.photo_id == photo_id]


def last_alike(known: Sequence[View], view: View) -> View | None:
    """The newest other laid photo of a board's side that has the same shape, or None."""
    shape = view.photo.width / view.photo.height
    alike = [
        other
        for other in known
        if other.frame
        and other.photo.id != view.photo.id
        and (other.row.board.lower(), other.row.side) == (view.row.board.lower(), view.row.side)
        and abs(other.photo.width / other.photo.height - shape) < 0.01 * shape
    ]
    return alike[-1] if alike else None
