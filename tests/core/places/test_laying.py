"""A photo over a board: against other calculations."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from hale_rail.core.errors import InputError
from hale_rail.core.places.frame import TILE_PX, frame_of, picture_matrix
from hale_rail.core.places.laying import Fix, corners, lay
from tests.sizes import examples

PHOTO, BOARD = (4000, 3000), (240.0, 150.0)
mm = st.floats(-20, 260)


def camera(tilt: float, turn: float, height: float, *, is_behind: bool) -> np.ndarray:
    """A pinhole camera over the board (z = 0): rotation, then a lens of 3000 pixels' focal length.

    The 3 × 3 matrix from millimetres to pixels; Hartley and Zisserman, 8.1.1.
    """
    c, s, ct, st_ = np.cos(turn), np.sin(turn), np.cos(tilt), np.sin(tilt)
    flip = np.diag([-1.0 if is_behind else 1.0, 1.0, 1.0])
    rotation = np.array([[1, 0, 0], [0, ct, -st_], [0, st_, ct]]) @ np.array(
        [[c, -s, 0], [s, c, 0], [0, 0, 1]]
    )
    middle = np.array([[1, 0, -BOARD[0] / 2], [0, 1, -BOARD[1] / 2], [0, 0, 1]])
    plane = np.column_stack([rotation[:, 0], rotation[:, 1], [0, 0, height]])
    lens = np.array([[3000, 0, PHOTO[0] / 2], [0, 3000, PHOTO[1] / 2], [0, 0, 1]])
    return lens @ plane @ flip @ middle


def seen(matrix: np.ndarray, x: float, y: float) -> tuple[float, float]:
    u, v, w = matrix @ np.array([x, y, 1.0])
    return float(u / w), float(v / w)


@settings(max_examples=examples(60), deadline=None)
@given(
    st.floats(-0.5, 0.5), st.floats(-3.1, 3.1), st.floats(400, 900), st.booleans(), mm, mm
)  # fmt: skip
def test_four_corners_undo_any_camera(
    tilt: float, turn: float, height: float, is_behind: bool, x: float, y: float
) -> None:
    matrix = camera(tilt, turn, height, is_behind=is_behind)
    places = [(0.0, 0.0), (BOARD[0], 0.0), BOARD, (0.0, BOARD[1])]
    fixes = [Fix(*seen(matrix, *place), *place) for place in places]
    laying = lay(fixes, PHOTO, BOARD, is_behind=is_behind)
    assert laying.to_board(*seen(matrix, x, y)) == pytest.approx((x, y), abs=1e-6)
    assert laying.to_photo(x, y) == pytest.approx(seen(matrix, x, y), abs=1e-4)


@settings(max_examples=examples(60), deadline=None)
@given(st.floats(-3.1, 3.1), st.floats(400, 900), st.booleans(), mm, mm, st.tuples(mm, mm, mm, mm))
def test_two_parts_undo_a_camera_held_square(
    turn: float, height: float, is_behind: bool, x: float, y: float,
    ends: tuple[float, float, float, float],
) -> None:  # fmt: skip
    assume(abs(ends[0] - ends[2]) + abs(ends[1] - ends[3]) > 60)
    matrix = camera(0.0, turn, height, is_behind=is_behind)
    places = [ends[:2], ends[2:]]
    fixes = [Fix(*seen(matrix, *place), *place) for place in places]
    laying = lay(fixes, PHOTO, BOARD, is_behind=is_behind)
    assert laying.to_board(*seen(matrix, x, y)) == pytest.approx((x, y), abs=1e-6)
    assert laying.pixels_per_mm(x, y) == pytest.approx(3000 / height, rel=1e-6)


@settings(max_examples=examples(40), deadline=None)
@given(st.floats(-0.4, 0.4), st.floats(-0.3, 0.3), st.booleans(), st.floats(0, 1), st.floats(0, 1))
def test_the_straight_picture_takes_each_pixel_from_where_the_board_is_seen(
    tilt: float, turn: float, is_behind: bool, across: float, down: float
) -> None:
    matrix = camera(tilt, turn, 600, is_behind=is_behind)
    px = [seen(matrix, *place) for place in ((0, 0), (BOARD[0], 0), BOARD, (0, BOARD[1]))]
    ordered = [px[1], px[0], px[3], px[2]] if is_behind else px
    laying = lay(corners(ordered, BOARD, is_behind=is_behind), PHOTO, BOARD, is_behind=is_behind)
    frame = frame_of(laying, BOARD, is_whole=False)
    a, b, c, d, e, f, g, h = picture_matrix(laying, frame)
    u, v = across * frame.size_px[0], down * frame.size_px[1]
    depth = g * u + h * v + 1
    place = (frame.left + u / frame.scale, frame.top + v / frame.scale)
    taken = ((a * u + b * v + c) / depth, (d * u + e * v + f) / depth)
    assert taken == pytest.approx(seen(matrix, *place), abs=1e-3)
    assert frame.pixel(*place) == pytest.approx((u, v), abs=1e-6)


@pytest.mark.parametrize("board", [(240.0, 150.0), (20.0, 2000.0), (2000.0, 2000.0), (5.0, 5.0)])
@pytest.mark.parametrize("photo", [(6000, 4000), (640, 480), (300, 6400)])
def test_no_picture_is_larger_than_can_be_kept(
    photo: tuple[int, int], board: tuple[float, float]
) -> None:
    frame = frame_of(lay([], photo, board), board, is_whole=True)
    width, height = frame.size_px
    assert 1 <= max(width, height) <= 6401 and width * height <= 27_100_000
    assert max(frame.small_px) <= 1600
    columns, rows = frame.tiles
    assert (columns - 1) * TILE_PX < width <= columns * TILE_PX
    assert (rows - 1) * TILE_PX < height <= rows * TILE_PX


def test_a_whole_photo_keeps_every_pixel() -> None:
    board = (300.0, 200.0)
    frame = frame_of(lay([], (6000, 4000), board), board, is_whole=True)
    assert (frame.size_px, frame.box) == ((6000, 4000), (0.0, 0.0, 300.0, 200.0))


@pytest.mark.parametrize("turned", [(1, 0, 3, 2), (0, 1, 3, 2), (0, 3, 1, 2)])
def test_corners_in_another_order_are_refused(turned: tuple[int, ...]) -> None:
    px = [(100.0, 100.0), (3000.0, 120.0), (3100.0, 2000.0), (90.0, 2100.0)]
    with pytest.raises(InputError, match=r"mirrored|in the wrong order"):
        lay(corners([px[nth] for nth in turned], BOARD), PHOTO, BOARD)
