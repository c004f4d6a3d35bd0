"""What of a board a laid photo shows, and how fine: the picture that is made of it once.

The picture lies as the board does with its top side up, `scale` pixels to the millimetre. It is
kept as one small picture of the whole, and as tiles of the fine one.
"""

from __future__ import annotations

import math

from msgspec import Struct

from hale_rail.core.places.laying import XY, Laying

#: pixels of the fine picture's longest side, of all of it, of a tile, of the small picture
LONGEST_PX, MOST_PX, TILE_PX, SMALL_PX = 6400, 27_000_000, 512, 1600
#: what is shown round a board whose corners or parts laid the photo, as a share of its longer side
_MARGIN = 0.04
_LEAST_SCALE = 0.5


class ViewFrame(Struct, frozen=True):
    """A window of the board in mm, its upper left corner at (left, top), and pixels to the mm."""

    left: float
    top: float
    width_mm: float
    height_mm: float
    scale: float

    @property
    def size_px(self) -> tuple[int, int]:
        """The fine picture's size."""
        return (
            max(round(self.width_mm * self.scale), 1),
            max(round(self.height_mm * self.scale), 1),
        )

    @property
    def small_px(self) -> tuple[int, int]:
        """The small picture's size, its longest side `SMALL_PX` at most."""
        width, height = self.size_px
        share = min(1.0, SMALL_PX / max(width, height))
        return max(round(width * share), 1), max(round(height * share), 1)

    @property
    def tiles(self) -> tuple[int, int]:
        """How many tiles lie side by side, and how many one below the other."""
        width, height = self.size_px
        return math.ceil(width / TILE_PX), math.ceil(height / TILE_PX)

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Left, top, width and height, in mm."""
        return self.left, self.top, self.width_mm, self.height_mm

    def pixel(self, x_mm: float, y_mm: float) -> XY:
        """A place in mm as one of the fine picture."""
        return (x_mm - self.left) * self.scale, (y_mm - self.top) * self.scale


def window_of(board_mm: XY, *, is_whole: bool = False) -> tuple[float, float, float, float]:
    """What is shown of a board of that size: left, top, width and height in mm, with some room
    round it; none where a photo's frame is the board's (`is_whole`)."""
    width, height = board_mm
    margin = 0.0 if is_whole else _MARGIN * max(width, height)
    return -margin, -margin, width + 2 * margin, height + 2 * margin


def frame_of(laying: Laying, board_mm: XY, *, is_whole: bool) -> ViewFrame:
    """The window that a photo laid over a board of that size is shown in.

    `is_whole`: the photo's frame is the board's, so there is nothing round it.
    """
    left, top, wide, tall = window_of(board_mm, is_whole=is_whole)
    fine = max(laying.pixels_per_mm(board_mm[0] / 2, board_mm[1] / 2), _LEAST_SCALE)
    scale = min(fine, LONGEST_PX / max(wide, tall), math.sqrt(MOST_PX / (wide * tall)))
    return ViewFrame(left, top, wide, tall, scale)


def picture_matrix(laying: Laying, frame: ViewFrame) -> tuple[float, ...]:
    """The eight figures that take a pixel of the fine picture to one of the photo: with x and y the
    pixel, ((a·x + b·y + c) / (g·x + h·y + 1), (d·x + e·y + f) / (g·x + h·y + 1))."""
    a, b, c, d, e, f, g, h, i = laying.inverse
    mm = 1 / frame.scale
    rows = [
        [p * mm, q * mm, p * frame.left + q * frame.top + r]
        for p, q, r in ((a, b, c), (d, e, f), (g, h, i))
    ]
    last = rows[2][2]
    return tuple(value / last for row in rows for value in row)[:8]
