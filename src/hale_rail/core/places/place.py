"""Where a part stands on a board: the board's name, its side, and millimetres.

On both sides x runs right and y down from the upper left corner of the board *as it lies with its
top side up*, so that a through-hole part has one place whichever side is looked at.
"""

from __future__ import annotations

import math

from msgspec import Struct

from hale_rail.core.coded_words import Coded
from hale_rail.core.errors import InputError

#: boards of supplies and of machines, in mm
LEAST_MM, MOST_MM = 5.0, 2000.0
#: how long a board's name may be
LONGEST_NAME = 40
#: a part and what stands round it, in mm
_CROP_MM = 32.0
#: how far outside its board's edge a part may be placed, as a share of the longer side
OVERHANG = 0.1


class Side(Coded):
    """The side of a board on which a part stands, or which a photo shows."""

    TOP = "top", "top side"
    BOTTOM = "bottom", "solder side"


#: the sides by code
SIDES = {side.code: side for side in Side}
#: what a list may call the sides
_SIDE_NAMES = {
    **SIDES,
    "": Side.TOP,
    "component": Side.TOP,
    "component side": Side.TOP,
    "front": Side.TOP,
    "solder": Side.BOTTOM,
    "solder side": Side.BOTTOM,
    "back": Side.BOTTOM,
}


class Board(Struct, frozen=True):
    """A board, or a side of the unit, by its name: width and height in mm.

    `is_measured` False while the width is only assumed.
    """

    name: str
    width_mm: float
    height_mm: float
    is_measured: bool = True

    def is_named(self, name: str) -> bool:
        """True for its name, however its letters are written."""
        return self.name.lower() == name.lower()


class Place(Struct, frozen=True):
    """A part's place: board, side, and mm from the board's upper left corner seen from the top."""

    board: str
    side: Side
    x_mm: float
    y_mm: float


def crop_side(board: Board) -> float:
    """How much of a board is shown round a part, in mm."""
    return min(_CROP_MM, board.width_mm, board.height_mm)


def read_side(text: str) -> Side:
    """A side as a list writes it, the top where it is empty; raises InputError."""
    side = _SIDE_NAMES.get(" ".join(text.lower().split()))
    if side is None:
        raise InputError(f"side is top or bottom, not “{text[:20]}”", field="side")
    return side


def checked_board_name(text: str) -> str:
    """A board's name as typed; raises InputError for none, or one that is too long."""
    name = " ".join(text.split())
    if not name:
        raise InputError("Name the board, such as Main board.", field="board")
    if len(name) > LONGEST_NAME:
        raise InputError(f"At most {LONGEST_NAME} characters.", field="board")
    return name


def check_size(millimetres: float, field: str) -> float:
    """A board's width or height; raises InputError for one that no board has."""
    if not (math.isfinite(millimetres) and LEAST_MM <= millimetres <= MOST_MM):
        raise InputError(f"A board is from {LEAST_MM:g} to {MOST_MM:g} mm.", field=field)
    return millimetres


def check_on_board(place: Place, board: Board) -> None:
    """Raise InputError for a place that is far outside its board."""
    over = OVERHANG * max(board.width_mm, board.height_mm)
    inside = (
        -over <= place.x_mm <= board.width_mm + over
        and -over <= place.y_mm <= board.height_mm + over
    )
    if not inside:  # also what is not a number
        size = f"{board.width_mm:g} × {board.height_mm:g} mm"
        raise InputError(
            f"{place.x_mm:g}, {place.y_mm:g} mm is not on {board.name}, which is {size}."
        )
