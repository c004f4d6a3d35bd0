"""What each board's own polarity mark means, once it was asked and proven."""

from __future__ import annotations

from hale_rail.core.parts.polarity import BoardMark
from hale_rail.store.append_only import AppendedRow, AppendOnly


class ProvenMark(AppendedRow, frozen=True):
    """What a board (by its connector, "" the supply's) prints, and on what that was proven."""

    board: str
    mark: BoardMark
    proven_on: str


BOARD_MARKS = AppendOnly("board_mark", ProvenMark, newest_by=lambda row: row.board)
