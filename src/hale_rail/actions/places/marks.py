"""Drawing on photos, and taking off again what was drawn."""

from __future__ import annotations

from msgspec.structs import replace

from hale_rail.actions.change import changing
from hale_rail.case.places.places import views
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
    ends_mm: tuple[XY, XY],
    words: str = "",
    at: str | None = None,
) -> None:
    """Draw a mark on a photo of a board, its ends in mm of the board; it is kept in the photo's
    pixels. Raises NotFoundError for a photo that is not laid over a board, InputError."""
    with changing(store, number, at) as change:
        view = next((view for view in views(change.file) if view.photo.id == photo_id), None)
        if view is None or view.laying is None:
            raise NotFoundError("There is no such photo of a board. Reload the page.")
        start, end = (view.laying.to_photo(*end) for end in ends_mm)
        size = (view.photo.width, view.photo.height)
        drawn = check_mark(DrawnMark(shape, start, end, words), size)
        said = f": {drawn.words}" if drawn.words else ""
        log_id = change.log("photo", f"{shape.words.capitalize()} drawn on {view.name}{said}")
        row = PhotoMark(photo_id, new_uuid(), shape, *drawn.start, *drawn.end, drawn.words)
        change.append(PHOTO_MARKS, log_id, row)


def take_mark_off(store: Store, number: str, key: str, at: str | None = None) -> None:
    """Take a mark off; it stays in the record. Raises NotFoundError."""
    with changing(store, number, at) as change:
        mark = change.file.rows.newest(PHOTO_MARKS).get(key)
        if mark is None:
            raise NotFoundError("There is no such mark any more.")
        log_id = change.log("photo", f"{mark.shape.words.capitalize()} taken off a photo")
        change.append(PHOTO_MARKS, log_id, replace(mark, shape=MarkShape.NONE))
