"""Lays a photo over a board: from its pixels to millimetres on the board, and back.

A camera that looks at a flat board maps the one plane onto the other by a homography (Hartley and
Zisserman, *Multiple View Geometry*, 2nd ed., 2.3): four pairs of points fix it, two fix the
similarity of a camera held square. A photo of the solder side shows the board mirrored, since its
places are told as seen from the top.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cached_property
from itertools import combinations

from msgspec import Struct

from hale_rail.core.errors import InputError

XY = tuple[float, float]
#: three rows of three, one after the other
Matrix = tuple[float, ...]
#: points of a photo nearer than this share of its diagonal do not lay it
_NEAR = 0.03
#: four points of which three enclose less than this share of the photo's area lie on a line
_FLAT = 0.002


class Fix(Struct, frozen=True):
    """A point of a photo, in pixels from its upper left corner, and where that is, in mm."""

    px: float
    py: float
    x_mm: float
    y_mm: float


class Laying(Struct, frozen=True, dict=True):
    """A photo over a board: a 3 × 3 matrix row by row that takes pixels to millimetres."""

    matrix: Matrix

    def to_board(self, px: float, py: float) -> XY:
        """The place in mm of a pixel."""
        return _through(self.matrix, px, py)

    def to_photo(self, x_mm: float, y_mm: float) -> XY:
        """The pixel of a place in mm."""
        return _through(self.inverse, x_mm, y_mm)

    @cached_property
    def inverse(self) -> Matrix:
        """The matrix that takes millimetres to pixels."""
        return _normed(_adjugate(self.matrix))

    def pixels_per_mm(self, x_mm: float, y_mm: float) -> float:
        """How fine the photo is at a place: the root of the map's area ratio there."""
        a, b, c, d, e, f, g, h, i = self.inverse
        depth = g * x_mm + h * y_mm + i
        determinant = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g)
        return math.sqrt(abs(determinant / depth**3))


def lay(
    fixes: Sequence[Fix], photo_px: tuple[int, int], board_mm: XY, *, is_behind: bool = False
) -> Laying:
    """A photo of a size laid over a board of a size, by no, two or four points.

    Without points the photo's frame is the board's. `is_behind`: the photo shows the board from
    behind. Raises InputError for another count of points, for points too near to one another, on a
    line, or so mixed up that no camera sees the board so.
    """
    if not fixes:
        return _whole(photo_px, board_mm, is_behind=is_behind)
    _check_apart(fixes, photo_px)
    if len(fixes) == 2:
        return _similarity(fixes[0], fixes[1], is_behind=is_behind)
    if len(fixes) == 4:
        _check_seen(fixes, photo_px, board_mm, is_behind=is_behind)
        return _homography(fixes)
    raise InputError("A photo is laid over by two points or by four.")


def corners(px: Sequence[XY], board_mm: XY, *, is_behind: bool = False) -> list[Fix]:
    """A board's four corners, in the photo's order: upper left, upper right, lower right, lower
    left as they are seen there."""
    width, height = board_mm
    places = [(0.0, 0.0), (width, 0.0), (width, height), (0.0, height)]
    if is_behind:
        places = [(width - x, y) for x, y in places]
    return [Fix(*seen, *place) for seen, place in zip(px, places, strict=True)]


def corner_size(px: Sequence[XY], width_mm: float) -> XY:
    """A board's size when its width is known and its corners are seen: the mean of opposite edges
    stands for each side, which is right for a photo from straight above and near it otherwise."""
    edges = [math.dist(px[nth], px[(nth + 1) % 4]) for nth in range(4)]
    wide, tall = edges[0] + edges[2], edges[1] + edges[3]
    if not wide > 0:
        raise InputError("The corners lie on one another.")
    return width_mm, width_mm * tall / wide


def _whole(photo_px: tuple[int, int], board_mm: XY, *, is_behind: bool) -> Laying:
    across, down = board_mm[0] / photo_px[0], board_mm[1] / photo_px[1]
    if is_behind:
        return Laying((-across, 0.0, board_mm[0], 0.0, down, 0.0, 0.0, 0.0, 1.0))
    return Laying((across, 0.0, 0.0, 0.0, down, 0.0, 0.0, 0.0, 1.0))


def _similarity(one: Fix, two: Fix, *, is_behind: bool) -> Laying:
    """Scale, turn and shift, as complex numbers: z = a·w + b, of the mirrored w from behind."""
    seen = [complex(f.px, -f.py if is_behind else f.py) for f in (one, two)]
    there = [complex(f.x_mm, f.y_mm) for f in (one, two)]
    a = (there[1] - there[0]) / (seen[1] - seen[0])
    b = there[0] - a * seen[0]
    flip = -1.0 if is_behind else 1.0
    return Laying((a.real, -a.imag * flip, b.real, a.imag, a.real * flip, b.imag, 0.0, 0.0, 1.0))


def _homography(fixes: Sequence[Fix]) -> Laying:
    """The matrix through four pairs: back through the photo's projective basis, out by the board's
    (Hartley and Zisserman, 2.3: four points, no three on a line, are a basis of the plane)."""
    photo = _basis([(f.px, f.py) for f in fixes])
    board = _basis([(f.x_mm, f.y_mm) for f in fixes])
    return Laying(_normed(_product(board, _adjugate(photo))))


def _basis(points: Sequence[XY]) -> Matrix:
    """The matrix that takes the unit vectors to three points and (1, 1, 1) to the fourth."""
    (ax, ay), (bx, by), (cx, cy), (dx, dy) = points
    three = (ax, bx, cx, ay, by, cy, 1.0, 1.0, 1.0)
    weights = _product_vector(_adjugate(three), (dx, dy, 1.0))
    return tuple(value * weights[nth % 3] for nth, value in enumerate(three))


def _adjugate(matrix: Matrix) -> Matrix:
    """The inverse but for a factor, which a homography does not have."""
    a, b, c, d, e, f, g, h, i = matrix
    return (
        e * i - f * h, c * h - b * i, b * f - c * e,
        f * g - d * i, a * i - c * g, c * d - a * f,
        d * h - e * g, b * g - a * h, a * e - b * d,
    )  # fmt: skip


def _product_vector(matrix: Matrix, v: tuple[float, float, float]) -> tuple[float, ...]:
    return tuple(sum(m * x for m, x in zip(matrix[n : n + 3], v, strict=True)) for n in (0, 3, 6))


def _product(one: Matrix, two: Matrix) -> Matrix:
    columns = [_product_vector(one, (two[n], two[n + 3], two[n + 6])) for n in range(3)]
    return tuple(columns[n % 3][n // 3] for n in range(9))


def _normed(matrix: Matrix) -> Matrix:
    return tuple(value / matrix[8] for value in matrix)


def _through(matrix: Matrix, x: float, y: float) -> XY:
    a, b, c, d, e, f, g, h, i = matrix
    depth = g * x + h * y + i
    return (a * x + b * y + c) / depth, (d * x + e * y + f) / depth


def _check_apart(fixes: Sequence[Fix], photo_px: tuple[int, int]) -> None:
    for one, two in combinations(fixes, 2):
        if math.dist((one.px, one.py), (two.px, two.py)) < _NEAR * math.hypot(*photo_px):
            raise InputError("Two of these points are too near to one another on the photo.")
        if math.dist((one.x_mm, one.y_mm), (two.x_mm, two.y_mm)) <= 0:
            raise InputError("Two of these points are the same place on the board.")


def _check_seen(
    fixes: Sequence[Fix], photo_px: tuple[int, int], board_mm: XY, *, is_behind: bool
) -> None:
    """Raise InputError where no camera could see four places so.

    What a camera sees in front of it keeps the sense of rotation of every three places, or turns
    every one of them round (seen from behind).
    """
    senses = set()
    for three in combinations(fixes, 3):
        seen = _turn([(f.px, f.py) for f in three])
        there = _turn([(f.x_mm, f.y_mm) for f in three])
        flat = abs(seen) < _FLAT * photo_px[0] * photo_px[1]
        if flat or abs(there) < _FLAT * board_mm[0] * board_mm[1]:
            raise InputError("Three of these points lie on a line: choose others.")
        senses.add(seen * there > 0)
    if len(senses) > 1:
        raise InputError(
            "These points are in the wrong order: no camera could see the board like this."
        )
    if senses == {is_behind}:
        way = "is not mirrored" if is_behind else "is mirrored"
        raise InputError(f"By these points the photo {way}: choose the other side.")


def _turn(three: Sequence[XY]) -> float:
    (ax, ay), (bx, by), (cx, cy) = three
    return (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
