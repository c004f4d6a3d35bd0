"""Pictures of a board made of a photo once: straightened, whole and small, and in fine tiles.

They follow from the photo and how it is laid, so they may be thrown away at any time.
"""

from __future__ import annotations

import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from hale_rail.core.places.frame import TILE_PX, ViewFrame, picture_matrix
from hale_rail.core.places.laying import Laying
from hale_rail.errors import NotFoundError
from hale_rail.formats.photos import one_at_a_time

#: the whole, small
SMALL = "small.jpg"
#: pixels of a side of what is cut out, at most
_CUT_PX = 400
_QUALITY = 85
_GROUND = (96, 96, 96)


def tile_name(column: int, row: int) -> str:
    """The file of a tile."""
    return f"{column}-{row}.jpg"


def make_pictures(
    photo: Path, laying: Laying, frame: ViewFrame, *, is_whole: bool
) -> Iterator[tuple[str, bytes]]:
    """The files of a laid photo by name: the small whole, then the tiles row by row.

    Raises NotFoundError where the photo's file is gone or damaged.
    """
    from PIL import Image

    with one_at_a_time():
        try:
            with Image.open(photo, formats=("JPEG",)) as image:
                kept = image if image.mode == "RGB" else image.convert("RGB")
                fine = _straightened(kept, laying, frame, is_whole=is_whole)
        except OSError as error:
            raise NotFoundError("The photo's file is missing or damaged.") from error
        yield SMALL, _jpeg(fine.resize(frame.small_px, Image.Resampling.LANCZOS, reducing_gap=2.0))
        columns, rows = frame.tiles
        for row in range(rows):
            for column in range(columns):
                left, top = column * TILE_PX, row * TILE_PX
                box = (left, top, min(left + TILE_PX, fine.width), min(top + TILE_PX, fine.height))
                yield tile_name(column, row), _jpeg(fine.crop(box))


def _straightened(image: Any, laying: Laying, frame: ViewFrame, *, is_whole: bool) -> Any:
    from PIL import Image, ImageOps

    image.load()
    if is_whole and frame.size_px == image.size:
        return ImageOps.mirror(image) if laying.matrix[0] < 0 else image
    return image.transform(
        frame.size_px,
        Image.Transform.PERSPECTIVE,
        picture_matrix(laying, frame),
        Image.Resampling.BILINEAR,
        fillcolor=_GROUND,
    )


def cut(
    folder: Path, frame: ViewFrame, x_mm: float, y_mm: float, side_mm: float, *, mirrored: bool
) -> bytes:
    """A square of a board round a place, as JPEG, put together of the tiles that it lies on.

    `mirrored`: as the side is seen from behind. Raises NotFoundError where tiles are gone.
    """
    from PIL import Image, ImageOps

    middle = frame.pixel(x_mm, y_mm)
    side = max(round(side_mm * frame.scale), 2)
    left, top = (round(at - side / 2) for at in middle)
    piece = Image.new("RGB", (side, side), _GROUND)
    for column, row in _tiles_of(frame, left, top, side):
        try:
            with Image.open(folder / tile_name(column, row), formats=("JPEG",)) as tile:
                piece.paste(tile, (column * TILE_PX - left, row * TILE_PX - top))
        except OSError as error:
            raise NotFoundError("The photo's pictures are missing.") from error
    if side > _CUT_PX:
        piece = piece.resize((_CUT_PX, _CUT_PX), Image.Resampling.BILINEAR, reducing_gap=1.0)
    return _jpeg(ImageOps.mirror(piece) if mirrored else piece)


def _tiles_of(frame: ViewFrame, left: int, top: int, side: int) -> Iterator[tuple[int, int]]:
    columns, rows = frame.tiles
    for row in range(max(top // TILE_PX, 0), min((top + side - 1) // TILE_PX + 1, rows)):
        for column in range(
            max(left // TILE_PX, 0), min((left + side - 1) // TILE_PX + 1, columns)
        ):
            yield column, row


def _jpeg(image: Any) -> bytes:
    out = io.BytesIO()
    image.save(out, "JPEG", quality=_QUALITY)
    return out.getvalue()
