"""A board with a red dot, photographed from anywhere."""

from __future__ import annotations

import io

from PIL import Image, ImageDraw

from hale_rail.actions.places import boards, places
from hale_rail.case.places.pictures import crop
from hale_rail.case.places.places import Spot, View, spot_named, views
from hale_rail.core.places.laying import XY, corners, lay
from hale_rail.core.places.place import Place, Side
from tests.conftest import Bench

BOARD = (160.0, 100.0)
#: a dot on the board that nothing else is coloured as
DOT: XY = (120.0, 30.0)
#: the board photographed aslant: its corners in the photo
ASLANT = [(210.0, 150.0), (1020.0, 90.0), (1130.0, 700.0), (120.0, 760.0)]
SIZE = (1200, 900)


def board_photo(px: list[XY] | None = None, *, is_behind: bool = False, shade: int = 90) -> bytes:
    """A board with a red dot, straight from above at 5 pixels a millimetre, or with its corners at
    these pixels of a larger photo; from behind the dot is where its back is."""
    size = SIZE if px else (800, 500)
    image = Image.new("RGB", size, (shade, 70, 60))
    at = (DOT[0] * 5, DOT[1] * 5)
    if is_behind and not px:
        at = (800 - at[0], at[1])
    if px:
        at = lay(corners(px, BOARD, is_behind=is_behind), SIZE, BOARD,
                 is_behind=is_behind).to_photo(*DOT)  # fmt: skip
    draw = ImageDraw.Draw(image)
    draw.ellipse((at[0] - 9, at[1] - 9, at[0] + 9, at[1] + 9), fill=(230, 20, 20))
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()


def photographed(
    bench: Bench, data: bytes, side: Side = Side.TOP, name: str = "Supply board"
) -> View:
    photo_id = boards.add_photo(bench.store, bench.number, name, side, BOARD[0], "board.png", data)
    return next(view for view in views(bench.file) if view.photo.id == photo_id)


def put(bench: Bench, ref: str, at: XY, side: Side = Side.TOP, board: str = "Supply board") -> None:
    places.place_part(bench.store, bench.number, bench.id_of(ref), Place(board, side, *at))


def spot(bench: Bench, name: str) -> Spot:
    found = spot_named(bench.file, name)
    assert found, name
    return found


def middle(bench: Bench, spot: Spot, view: View | None = None) -> tuple[int, int, int]:
    """The colour in the middle of a crop round a part."""
    shown = view or spot.view
    assert shown
    at = (spot.place.x_mm, spot.place.y_mm)
    data = crop(bench.file, shown.photo.sha256, shown.key, at, 20.0)
    image = Image.open(io.BytesIO(data))
    return image.getpixel((image.width // 2, image.height // 2))


def is_red(colour: tuple[int, int, int]) -> bool:
    return colour[0] > 180 and max(colour[1:]) < 90
