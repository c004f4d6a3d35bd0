"""Photos that show a board, how each lies over it, and what is drawn on photos."""

from __future__ import annotations

from hale_rail.core.places.laying import Fix
from hale_rail.core.places.marks import DrawnMark, MarkShape
from hale_rail.core.places.place import Side
from hale_rail.store.append_only import AppendedRow, AppendOnly


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
