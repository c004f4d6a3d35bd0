"""Photos of boards: added, laid over, measured."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress

from msgspec.structs import replace

from hale_rail.actions.change import Change, changing
from hale_rail.actions.places.places import keep_places, known_board, put_board
from hale_rail.case.file import open_case
from hale_rail.case.history import case_photos
from hale_rail.case.places.pictures import make
from hale_rail.case.places.places import View, last_alike, names, places, views
from hale_rail.core.errors import at_field
from hale_rail.core.places.laying import XY, Fix, corner_size, corners, lay
from hale_rail.core.places.place import Board, Place, Side, check_size, checked_board_name
from hale_rail.errors import InputError, NotFoundError, StoreError
from hale_rail.formats.photos import BOARD_LONGEST, encode_photo
from hale_rail.store import photos
from hale_rail.store import places as place_rows
from hale_rail.store.board_views import BOARD_VIEWS, BoardView
from hale_rail.store.database import Store
from hale_rail.store.photos import PHOTOS, Photo

#: what a board is taken to be wide until somebody measures it
ASSUMED_MM = 200.0


def add_photo(
    store: Store,
    number: str,
    board_name: str,
    side: Side,
    width_mm: float | None,
    file_name: str,
    data: bytes,
    at: str | None = None,
) -> int:
    """Keep a photo of a board's side; returns the photo's id.

    The first photo of a board that is not known yet is the board's frame until it is laid over by
    its corners; any later one waits to be. `width_mm` None: not measured. Raises InputError.
    """
    name = checked_board_name(board_name)
    if width_mm is not None:
        check_size(width_mm, "width")
    with at_field("photo"):
        encoded = encode_photo(data, file_name, BOARD_LONGEST)
    sha256 = photos.put_file(store.folder, encoded.full, encoded.thumb)
    with changing(store, number, at) as change:
        log_id = change.log("photo", f"1 of {name}, {side.words}")
        photo = Photo(None, sha256, *encoded.size, name)
        photo_id = PHOTOS.insert(change.connection, change.case_id, log_id, photo)
        _show(change, log_id, photo_id, photo, name, side, width_mm)
    _make_newest(store, number, photo_id)
    return photo_id


def show_board(
    store: Store,
    number: str,
    photo_id: int,
    board_name: str,
    side: Side,
    width_mm: float | None,
    at: str | None = None,
) -> None:
    """Say that a photo of the unit shows a board; raises NotFoundError, InputError."""
    name = checked_board_name(board_name)
    with changing(store, number, at) as change:
        photo = _photo(change, photo_id)
        log_id = change.log("edited", f"A photo shows {name}, {side.words}")
        _show(change, log_id, photo_id, photo, name, side, width_mm)
    _make_newest(store, number, photo_id)


def _show(
    change: Change,
    log_id: int,
    photo_id: int,
    photo: Photo,
    name: str,
    side: Side,
    width_mm: float | None,
) -> None:
    board = change.file.rows.boards.get(name.lower())
    is_new = board is None
    if board is None:
        width = width_mm or ASSUMED_MM
        height = round(width * photo.height / photo.width, 1)
        board = Board(name, width, height, is_measured=width_mm is not None)
        put_board(change, board)
    _append(change, log_id, photo_id, board, side, (), is_whole=is_new)


def _append(
    change: Change,
    log_id: int,
    photo_id: int,
    board: Board,
    side: Side,
    fixes: Sequence[Fix],
    *,
    is_whole: bool = False,
) -> None:
    points = [[f.px, f.py, f.x_mm, f.y_mm] for f in fixes]
    size = (board.width_mm, board.height_mm)
    row = BoardView(photo_id, board.name, side, *size, is_whole, points)
    change.append(BOARD_VIEWS, log_id, row)
    place_rows.count_change(change.connection, change.file.case.unit_type_id)


def _make_newest(store: Store, number: str, photo_id: int) -> None:
    """Have a photo's pictures made at once, so that opening it does not wait for them.

    What was saved stays so where they cannot be: whoever opens it has them made, or is told why.
    """
    view = _view(views(open_case(store, number)), photo_id)
    if view.frame:
        with suppress(StoreError, NotFoundError):
            make(store.folder, view)


def _view(known: Sequence[View], photo_id: int) -> View:
    view = next((view for view in known if view.photo.id == photo_id), None)
    if view is None:
        raise NotFoundError("There is no such photo of a board. Reload the page.")
    return view


def _photo(change: Change, photo_id: int) -> Photo:
    photo = next((one for one in case_photos(change.file) if one.id == photo_id), None)
    if photo is None:
        raise NotFoundError("There is no such photo of this unit. Reload the page.")
    return photo


def lay_by_corners(
    store: Store,
    number: str,
    photo_id: int,
    px: Sequence[XY],
    height_mm: float | None = None,
    side: Side | None = None,
    at: str | None = None,
) -> None:
    """Lay a photo over its board by the board's four corners, as the photo shows them in order.

    `side`: the side that it shows, None for the one it was said to.

    The board's height follows from the corners where it is not told and this is its only photo;
    places that were put on this photo then stay where they are on it. Raises InputError.
    """
    with changing(store, number, at) as change:
        view = _view(views(change.file), photo_id)
        board = known_board(change, view.row.board)
        is_frame = _is_frame(change, view)
        if height_mm is not None:
            board = replace(board, height_mm=check_size(height_mm, "height"))
        elif is_frame:
            _, tall = corner_size(px, board.width_mm)
            board = replace(board, height_mm=check_size(round(tall, 1), "height"))
        shown = side or view.row.side
        fixes = corners(px, (board.width_mm, board.height_mm), is_behind=shown is Side.BOTTOM)
        _lay(change, view, board, shown, fixes, moves_places=is_frame)
    _make_newest(store, number, photo_id)


def lay_by_parts(
    store: Store,
    number: str,
    photo_id: int,
    seen: Sequence[tuple[int, XY]],
    side: Side | None = None,
    at: str | None = None,
) -> None:
    """Lay a photo over its board by two or four parts that have a place: (part's id, its pixel).

    Raises InputError for a part without a place on that board, and for points that do not lay it.
    """
    with changing(store, number, at) as change:
        view = _view(views(change.file), photo_id)
        board = known_board(change, view.row.board)
        known, called = places(change.file), names(change.file)
        fixes = []
        for part_id, (x, y) in seen:
            place = known.get(part_id)
            if place is None or not board.is_named(place.board):
                raise InputError(f"{called.get(part_id, 'A part')} has no place on {board.name}.")
            fixes.append(Fix(x, y, place.x_mm, place.y_mm))
        if len(fixes) not in (2, 4):
            raise InputError("A photo is laid over by two parts or by four.")
        _lay(change, view, board, side or view.row.side, fixes, moves_places=False)
    _make_newest(store, number, photo_id)


def lay_as_last(store: Store, number: str, photo_id: int, at: str | None = None) -> None:
    """Lay a photo as the last one of its board's side lies, taken from the same place; raises
    InputError where there is none of the same shape."""
    with changing(store, number, at) as change:
        known = views(change.file)
        view = _view(known, photo_id)
        last = last_alike(known, view)
        if last is None:
            raise InputError("There is no earlier photo of this side with the same shape.")
        scale = view.photo.width / last.photo.width
        points = [Fix(f.px * scale, f.py * scale, f.x_mm, f.y_mm) for f in last.row.points]
        board = known_board(change, view.row.board)
        log_id = change.log("edited", f"Photo of {view.name} laid over as the last one")
        _append(change, log_id, photo_id, board, view.row.side, points, is_whole=last.row.is_whole)
    _make_newest(store, number, photo_id)


def _is_frame(change: Change, view: View) -> bool:
    """True for the photo by which its board is known: laid, the only one, of this very unit."""
    board = known_board(change, view.row.board)
    others = [
        other
        for other in views(change.file)
        if other.frame and other.photo.id != view.photo.id and board.is_named(other.row.board)
    ]
    is_own = place_rows.owns_board(change.connection, change.case_id, view.row.board)
    return bool(view.frame) and not others and is_own


def _lay(
    change: Change,
    view: View,
    board: Board,
    side: Side,
    fixes: Sequence[Fix],
    *,
    moves_places: bool,
) -> None:
    """Lay a photo over its board; raises InputError for fixes by which it cannot lie."""
    size = (view.photo.width, view.photo.height)
    for fix in fixes:
        if not (0 <= fix.px <= size[0] and 0 <= fix.py <= size[1]):
            raise InputError("One of these points is not on the photo.")
    board_mm = (board.width_mm, board.height_mm)
    laying = lay(fixes, size, board_mm, is_behind=side is Side.BOTTOM)
    if board != known_board(change, board.name):
        put_board(change, board)
    if moves_places and view.laying:
        before = view.laying
        moved: dict[str, Place | None] = {}
        for name, place in _on_board(change, board).items():
            x, y = laying.to_board(*before.to_photo(place.x_mm, place.y_mm))
            moved[name] = replace(place, x_mm=x, y_mm=y)
        keep_places(change, moved)
    name = f"{board.name}, {side.words}"
    log_id = change.log("edited", f"Photo of {name} laid over by {len(fixes)} points")
    _append(change, log_id, view.photo.id, board, side, fixes)


def _on_board(change: Change, board: Board) -> dict[str, Place]:
    called = names(change.file)
    return {
        called[part_id]: place
        for part_id, place in places(change.file).items()
        if board.is_named(place.board)
    }


def measure(
    store: Store,
    number: str,
    board_name: str,
    width_mm: float,
    height_mm: float | None = None,
    at: str | None = None,
) -> None:
    """Say how large a board is; its places and photos grow with it. Raises InputError.

    `height_mm` None: as before, with the width.
    """
    check_size(width_mm, "width")
    with changing(store, number, at) as change:
        board = known_board(change, board_name)
        across = width_mm / board.width_mm
        height = height_mm if height_mm is not None else round(board.height_mm * across, 1)
        down = check_size(height, "height") / board.height_mm
        new = Board(board.name, width_mm, height)
        put_board(change, new)
        log_id = change.log("edited", f"{board.name} is {width_mm:g} × {height:g} mm")
        keep_places(change, {
            name: replace(place, x_mm=place.x_mm * across, y_mm=place.y_mm * down)
            for name, place in _on_board(change, board).items()
        })  # fmt: skip
        # a row at each size: a report that was issued at one still finds its crops
        for view in views(change.file):
            if board.is_named(view.row.board):
                points = [Fix(f.px, f.py, f.x_mm * across, f.y_mm * down) for f in view.row.points]
                side, is_whole = view.row.side, view.row.is_whole
                _append(change, log_id, view.photo.id, new, side, points, is_whole=is_whole)


def forget_board(store: Store, number: str, photo_id: int, at: str | None = None) -> None:
    """Say that a photo shows no board; the photo itself stays. Raises NotFoundError."""
    with changing(store, number, at) as change:
        view = _view(views(change.file), photo_id)
        log_id = change.log("edited", f"A photo no longer shows {view.name}")
        change.append(BOARD_VIEWS, log_id, replace(view.row, board="", is_whole=False, fixes=[]))
        place_rows.count_change(change.connection, change.file.case.unit_type_id)
