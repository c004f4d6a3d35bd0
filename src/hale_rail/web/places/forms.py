"""Forms of a board's photos and the places on them."""

from __future__ import annotations

from typing import Any

from wtforms.validators import Length

from hale_rail.core.places.laying import XY
from hale_rail.core.places.marks import MarkShape
from hale_rail.core.places.place import SIDES, Side
from hale_rail.core.quantities import plain_number
from hale_rail.errors import InputError
from hale_rail.web.form_base import (
    CaseForm,
    ChoiceField,
    FormError,
    PlacedField,
    ReadField,
    TextField,
    WholeField,
    at_most,
    choices,
)

_SIDES = choices(*((side.code, side.words) for side in Side))
#: what stands beside a point that was not pressed
NOT_PRESSED = "Press where it is on the photo, or type its pixels."


def millimetres(text: str) -> float:
    """A length in millimetres, its unit written or not; raises InputError."""
    if not text.strip():
        raise InputError("Type millimetres, such as 200.")
    return plain_number(text.lower().removesuffix("mm").strip())


class MillimetreField(ReadField):
    """Millimetres, None where the field is empty and may be."""

    def __init__(self, label: str, **more: Any) -> None:
        super().__init__(label, millimetres, **more)


class PixelField(ReadField):
    """A pixel of the photo, which a press fills in."""

    def __init__(self, label: str, **more: Any) -> None:
        super().__init__(label, plain_number, **more)


class _BoardForm(CaseForm):
    """The board that a photo shows."""

    board = TextField("Board, or side of the unit", validators=[at_most(40)])
    side = ChoiceField("Seen", choices=_SIDES, validate_choice=False)
    width = MillimetreField("Its width in mm, if known")

    @property
    def seen_side(self) -> Side:
        """The side; raises FormError for one that is not offered."""
        side = SIDES.get(self.side.data or Side.TOP.code)
        if side is None:
            raise FormError({"side": "Choose the side that the photo shows."})
        return side


class BoardPhotoForm(_BoardForm):
    """A new photo of a board; the file is read beside the form."""

    drawn = ("board-photo",)
    has_own_ids = True


class ShowBoardForm(_BoardForm):
    """What a photo of the unit shows."""

    drawn = ("show-board",)
    has_own_ids = True

    photo = WholeField()


class ViewForm(CaseForm):
    """A photo of a board."""

    photo = WholeField()


class CornersForm(ViewForm):
    """The four corners as the photo shows them, in its pixels; the board's height where known."""

    drawn = ("lay-corners",)
    has_own_ids = True

    x1, y1 = PixelField("x"), PixelField("y")
    x2, y2 = PixelField("x"), PixelField("y")
    x3, y3 = PixelField("x"), PixelField("y")
    x4, y4 = PixelField("x"), PixelField("y")
    height = MillimetreField("The board’s height in mm, if known")
    side = ChoiceField("It shows the", choices=_SIDES, validate_choice=False)

    @property
    def shown_side(self) -> Side | None:
        """The side that the photo shows, None where none is told."""
        return SIDES.get(self.side.data)

    @property
    def corners(self) -> list[XY]:
        """The corners; raises FormError for one that is missing."""
        return [_point(self, nth) for nth in range(1, 5)]


class LayPartsForm(CornersForm):
    """Two or four placed parts, by id, and their pixels."""

    drawn = ("lay-parts",)

    part1, part2, part3, part4 = (PlacedField(validators=[Length(max=16)]) for _ in range(4))

    @property
    def seen(self) -> list[tuple[int, XY]]:
        """The parts and where they are seen; raises FormError for a point of a part without it."""
        seen = []
        for nth in range(1, 5):
            part = self[f"part{nth}"].data
            if not part:
                continue
            if not (part.isascii() and part.isdecimal()):
                raise FormError({"": "That form was not understood. Reload the page."})
            seen.append((int(part), _point(self, nth)))
        if len({part for part, _ in seen}) < len(seen):
            raise FormError({"part1": "Choose different parts."})
        return seen


def _point(form: CornersForm, nth: int) -> XY:
    x, y = form[f"x{nth}"].value, form[f"y{nth}"].value
    if x is None or y is None:
        raise FormError({f"x{nth}": NOT_PRESSED})
    return x, y


class MeasureForm(CaseForm):
    """A board's size."""

    drawn = ("measure-board",)

    board = PlacedField(validators=[Length(max=40)])
    width = MillimetreField("Width in mm", is_needed=True)
    height = MillimetreField("Height in mm, if known")


class _OnBoardForm(CaseForm):
    """The side of a board, as the page put it there."""

    board = PlacedField(validators=[Length(max=40)])
    side = PlacedField(validators=[Length(max=10)])

    @property
    def seen_side(self) -> Side:
        """The side, the top where none is told."""
        return SIDES.get(self.side.data, Side.TOP)


class PlaceForm(_OnBoardForm):
    """A part, and a place on the side of a board in mm."""

    drawn = ("place-at",)

    part = WholeField()
    x = MillimetreField("mm from the left", is_needed=True)
    y = MillimetreField("mm from the top", is_needed=True)


class RowForm(_OnBoardForm):
    """Several parts evenly between two places of a board."""

    refs = TextField(validators=[at_most(200)])
    x1, y1, x2, y2 = (MillimetreField("mm", is_needed=True) for _ in range(4))


class TakeOffForm(CaseForm):
    """A part whose place is taken back."""

    part = WholeField()


class MarkForm(ViewForm):
    """A mark on a photo: its shape, its ends in mm of the board, its word."""

    shape = PlacedField(validators=[Length(max=10)])
    x1, y1, x2, y2 = (MillimetreField("mm", is_needed=True) for _ in range(4))
    words = TextField(validators=[at_most(40)])

    @property
    def drawn_shape(self) -> MarkShape:
        """The shape; raises InputError for one that no page offers."""
        known = {shape.code: shape for shape in MarkShape if shape.code}
        if self.shape.data not in known:
            raise InputError("Choose ring, arrow or word.")
        return known[self.shape.data]


class MarkOffForm(CaseForm):
    """A mark to be taken off."""

    key = PlacedField(validators=[Length(max=40)])
