"""Photos that show a board, how each lies over it, and what is drawn on photos."""

from __future__ import annotations

import sqlite3

from msgspec import Struct

from hale_rail.core.places.laying import Fix
from hale_rail.core.places.marks import DrawnMark, MarkShape
from hale_rail.core.places.place import Side
from hale_rail.store.append_only import AppendedRow, AppendOnly
from hale_rail.store.photos import PHOTOS, Photo


class BoardView(AppendedRow, frozen=True):
    """A photo of a board's side; the board's size, and the fixes [px, py, x_mm, y_mm], then.

    `is_whole`: the photo's frame is the board's; neither that nor fixes: it is not laid over yet.
    `board` "" where the photo no longer shows one.
    """

    photo_id: int
    board: str
    side: Side
    width_mm: float
    height_mm: float
    is_whole: bool
    fixes: list[list[float]]

    @property
    def points(self) -> list[Fix]:
        """The fixes."""
        return [Fix(*map(float, fix)) for fix in self.fixes]

    @property
    def is_laid(self) -> bool:
        """True once it is known how the photo lies over the board."""
        return self.is_whole or bool(self.fixes)


class PhotoMark(AppendedRow, frozen=True):
    """A mark on a photo, in its pixels; `key` names it over its changes."""

    photo_id: int
    key: str
    shape: MarkShape
    x1: float
    y1: float
    x2: float
    y2: float
    words: str

    @property
    def drawn(self) -> DrawnMark:
        """The mark as it is drawn."""
        return DrawnMark(self.shape, (self.x1, self.y1), (self.x2, self.y2), self.words)


class LikeView(Struct, frozen=True):
    """A laid photo of another unit of the type: that case's number, the photo, how it lies."""

    number: str
    photo: Photo
    row: BoardView


BOARD_VIEWS = AppendOnly(
    "board_view",
    BoardView,
    newest_by=lambda row: row.photo_id,
    is_taken_back=lambda row: not row.board,
)
PHOTO_MARKS = AppendOnly(
    "photo_mark",
    PhotoMark,
    newest_by=lambda row: row.key,
    is_taken_back=lambda row: row.shape is MarkShape.NONE,
)


def like_views(
    connection: sqlite3.Connection, case_id: int, unit_type_id: int | None
) -> tuple[LikeView, ...]:
    """The laid photos of other units of a type, as each lies now, oldest first."""
    if unit_type_id is None:
        return ()
    others = connection.execute(
        "SELECT id, number FROM bench_case WHERE unit_type_id = ? AND id <> ?"
        " AND id IN (SELECT case_id FROM board_view) ORDER BY id",
        (unit_type_id, case_id),
    )
    found = []
    for other_id, number in others.fetchall():
        known = {photo.id: photo for photo in PHOTOS.of_case(connection, other_id)}
        newest = {row.photo_id: row for row in BOARD_VIEWS.of_case(connection, other_id)}
        found += [
            LikeView(number, known[photo_id], row)
            for photo_id, row in newest.items()
            if row.board and row.is_laid
        ]
    return tuple(found)
