"""Where a photo's pixel is on the board: settled by drawing it on paper, then run."""

from __future__ import annotations

import pytest

from hale_rail.core.errors import InputError
from hale_rail.core.places.laying import XY, Fix, Laying, corner_size, corners, lay
from hale_rail.core.places.rows import evenly, row_names

PHOTO, BOARD = (1000, 500), (200.0, 100.0)
#: a board photographed from its lower edge: the upper edge is half as long as the lower one
TRAPEZOID = [(300.0, 100.0), (500.0, 100.0), (600.0, 400.0), (200.0, 400.0)]


def near(at: XY, expected: XY) -> bool:
    return at == pytest.approx(expected, abs=1e-6)


def laid(*fixes: tuple[float, float, float, float], is_behind: bool = False) -> Laying:
    return lay([Fix(*fix) for fix in fixes], PHOTO, BOARD, is_behind=is_behind)


def by_corners(px: list[XY], *, is_behind: bool = False) -> Laying:
    fixes = corners(px, BOARD, is_behind=is_behind)
    return lay(fixes, PHOTO, BOARD, is_behind=is_behind)


#: (how the photo lies, a pixel of it, the place on the board in mm as seen from the top)
SETTLED = {
    "the whole photo is the board: its middle": (laid(), (500, 250), (100, 50)),
    "and its lower right corner": (laid(), (1000, 500), (200, 100)),
    "the solder side: the photo's left is the board's right": (
        laid(is_behind=True), (0, 0), (200, 0)),
    "the solder side keeps up and down": (laid(is_behind=True), (250, 400), (150, 80)),
    "two parts side by side, ten pixels a millimetre": (
        laid((100, 100, 0, 0), (300, 100, 20, 0)), (100, 200), (0, 10)),
    "twice as far away: five pixels a millimetre": (
        laid((100, 100, 0, 0), (200, 100, 20, 0)), (150, 150), (10, 10)),
    "the camera turned by a right angle: the board's x runs down, its y to the left": (
        laid((100, 100, 0, 0), (100, 300, 20, 0)), (0, 100), (0, 10)),
    "turned half round: x to the left, y up": (
        laid((300, 300, 0, 0), (100, 300, 20, 0)), (300, 200), (0, 10)),
    "the points need not begin at the corner": (
        laid((100, 100, 50, 40), (300, 100, 70, 40)), (200, 150), (60, 45)),
    "from behind, upright: x to the left, y down": (
        laid((300, 100, 0, 0), (100, 100, 20, 0), is_behind=True), (300, 200), (0, 10)),
    "from behind, turned half round: x to the right, y up": (
        laid((100, 300, 0, 0), (300, 300, 20, 0), is_behind=True), (100, 200), (0, 10)),
    "four corners of a board seen straight": (
        by_corners([(100, 100), (500, 100), (500, 300), (100, 300)]), (300, 200), (100, 50)),
    "a corner itself": (by_corners(TRAPEZOID), (600, 400), (200, 100)),
    "aslant: where the diagonals cross is the middle, not half way down": (
        by_corners(TRAPEZOID), (400, 200), (100, 50)),
    "aslant: the mid-line stays the mid-line": (by_corners(TRAPEZOID), (400, 400), (100, 100)),
    "aslant, from behind: the photo's upper left is the board's upper right": (
        by_corners(TRAPEZOID, is_behind=True), (300, 100), (200, 0)),
    "aslant, from behind: the middle is the middle": (
        by_corners(TRAPEZOID, is_behind=True), (400, 200), (100, 50)),
    "beyond the edge the board goes on": (
        by_corners([(100, 100), (500, 100), (500, 300), (100, 300)]), (60, 100), (-20, 0)),
}  # fmt: skip


@pytest.mark.parametrize("case", SETTLED.values(), ids=SETTLED.keys())
def test_a_pixel_is_where_the_paper_says_and_back(case: tuple[Laying, XY, XY]) -> None:
    laying, pixel, place = case
    assert near(laying.to_board(*pixel), place)
    assert near(laying.to_photo(*place), pixel)


#: points by which no photo lies, and what is said of them
REFUSED = {
    "three points": (((100, 100, 0, 0), (300, 100, 20, 0), (300, 300, 20, 20)), "two points or"),
    "two presses on one spot": (((100, 100, 0, 0), (104, 100, 20, 0)), "too near"),
    "one place pressed twice": (((100, 100, 20, 0), (300, 100, 20, 0)), "the same place"),
    "three corners on a line": (
        ((100, 100, 0, 0), (300, 100, 200, 0), (500, 100, 200, 100), (100, 400, 0, 100)),
        "lie on a line"),
    "two corners swapped": (
        ((100, 100, 0, 0), (500, 100, 200, 0), (100, 300, 200, 100), (500, 300, 0, 100)),
        "in the wrong order"),
    "the solder side said to be the top": (
        ((500, 100, 0, 0), (100, 100, 200, 0), (100, 300, 200, 100), (500, 300, 0, 100)),
        "is mirrored"),
}  # fmt: skip


@pytest.mark.parametrize("case", REFUSED.values(), ids=REFUSED.keys())
def test_points_by_which_no_photo_lies_are_refused(
    case: tuple[tuple[tuple[float, float, float, float], ...], str],
) -> None:
    fixes, says = case
    with pytest.raises(InputError, match=says):
        laid(*fixes)


def test_a_board_twice_as_wide_as_high_is_so_by_its_corners() -> None:
    assert corner_size([(100, 100), (500, 100), (500, 300), (100, 300)], 160) == (160, 80)


#: a row as it is typed, and its parts in order
ROWS = {
    "C20 to C27": ["C20", "C21", "C22", "C23", "C24", "C25", "C26", "C27"],
    "C27-C25": ["C27", "C26", "C25"],
    "c5..7": ["C5", "C6", "C7"],
    "C08 – C10": ["C08", "C09", "C10"],
    "R3, R1; C5 to C6": ["R3", "R1", "C5", "C6"],
    "D1 and D4": ["D1", "D4"],
    "C60#1, C60#3": ["C60#1", "C60#3"],
}


@pytest.mark.parametrize(("text", "names"), ROWS.items())
def test_a_row_is_the_parts_it_names(text: str, names: list[str]) -> None:
    assert row_names(text) == names


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "designator"), ("C20", "from 2 to"), ("C20 to D27", "not one row"),
        ("C1 to C5, C3", "twice"), ("C1 to C400", "at most"), ("C20 to", "designator"),
        ("the big ones", "designator"),
    ],
)  # fmt: skip
def test_what_is_no_row_is_refused(text: str, says: str) -> None:
    with pytest.raises(InputError, match=says):
        row_names(text)


def test_eight_parts_between_two_presses_stand_a_seventh_apart() -> None:
    places = evenly(8, (10, 5), (80, 40))
    assert places[0] == (10, 5) and places[-1] == (80, 40)
    assert places[3] == pytest.approx((40, 20))
