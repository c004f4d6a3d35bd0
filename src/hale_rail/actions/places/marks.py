"""Drawing on photos, and taking off again what was drawn."""

from __future__ import annotations

from msgspec.structs import replace

from hale_rail.actions.change import changing
from hale_rail.case.file import CaseFile
from hale_rail.case.history import case_photos
from hale_rail.case.places.places import View, photo_name, raw_view, views
from hale_rail.core.places.laying import XY
from hale_rail.core.places.marks import DrawnMark, MarkShape, check_mark
from hale_rail.errors import NotFoundError
from hale_rail.store.board_views import PHOTO_MARKS, PhotoMark
from hale_rail.store.database import Store
from hale_rail.store.ids import new_uuid


def draw_mark(
    store: Store,
    number: str,
    photo_id: int,
    shape: MarkShape,
    ends: tuple[XY, XY],
    words: str = "",
    at: str | None = None,
    *,
    in_pixels: bool = False,
) -> None:
    """Draw a mark on a photo, its ends in mm of the board that it is laid over, or `in_pixels` of
    the photo itself, which are kept. Raises NotFoundError for no such photo, InputError."""
    with changing(store, number, at) as change:
        view = _view(change.file, photo_id, in_pixels=in_pixels)
        start, end = (view.laying.to_photo(*end) if view.laying else end for end in ends)
        size = (view.photo.width, view.photo.height)
        drawn = check_mark(DrawnMark(shape, start, end, words), size)
        said = f": {drawn.words}" if drawn.words else ""
        of = photo_name(change.file, view.photo)
        log_id = change.log("photo", f"{shape.words.capitalize()} drawn on a photo of {of}{said}")
        row = PhotoMark(photo_id, new_uuid(), shape, *drawn.start, *drawn.end, drawn.words)
        change.append(PHOTO_MARKS, log_id, row)


def _view(case: CaseFile, photo_id: int, *, in_pixels: bool) -> View:
    """How a photo of the case lies; raises NotFoundError."""
    if in_pixels:
        known = [raw_view(case, photo) for photo in case_photos(case)]
    else:
        known = [view for view in views(case) if view.laying]
    view = next((view for view in known if view.photo.id == photo_id), None)
    if view is None:
        raise NotFoundError("There is no such photo of this unit. Reload the page.")
    return view


def take_mark_off(store: Store, number: str, key: str, at: str | None = None) -> None:
    """Take a mark off; it stays in the record. Raises NotFoundError."""
    with changing(store, number, at) as change:
        mark = change.file.rows.newest(PHOTO_MARKS).get(key)
        if mark is None:
            raise NotFoundError("There is no such mark any more.")
        log_id = change.log("photo", f"{mark.shape.words.capitalize()} taken off a photo")
        change.append(PHOTO_MARKS, log_id, replace(mark, shape=MarkShape.NONE))
