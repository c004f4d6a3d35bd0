"""Boards photographed, laid over, measured, drawn on; before and after."""

from __future__ import annotations

import shutil

import pytest

from hale_rail.actions.parts import decisions
from hale_rail.actions.places import boards, marks
from hale_rail.case.places.pictures import make, picture
from hale_rail.case.places.places import marks_of, view_by_key, views
from hale_rail.case.report.report import report
from hale_rail.core.places.laying import XY, corners, lay
from hale_rail.core.places.marks import MarkShape
from hale_rail.core.places.place import Side
from hale_rail.errors import InputError, NotFoundError, StoreError
from tests.actions.places.boards import (
    ASLANT,
    BOARD,
    DOT,
    SIZE,
    board_photo,
    is_red,
    middle,
    photographed,
    put,
    spot,
)
from tests.conftest import Bench

#: how the photo is taken and laid, and from which side
LAID = {
    "straight from above, the whole photo": ([], Side.TOP),
    "aslant, by its corners": (ASLANT, Side.TOP),
    "aslant, from behind": (ASLANT, Side.BOTTOM),
}


@pytest.mark.parametrize("case", LAID.values(), ids=LAID.keys())
def test_a_crop_shows_what_stands_at_the_place(bench: Bench, case: tuple[list[XY], Side]) -> None:
    px, side = case
    photo = board_photo(px or None, is_behind=side is Side.BOTTOM)
    view = photographed(bench, photo, side)
    if px:
        boards.lay_by_corners(bench.store, bench.number, view.photo.id, px, BOARD[1])
    put(bench, "C10", DOT, side)
    shown = spot(bench, "C10")
    assert is_red(middle(bench, shown))
    put(bench, "C10", (DOT[0] - 12, DOT[1]), side)
    assert not is_red(middle(bench, spot(bench, "C10")))
    assert "mm from the left" in shown.words


def test_the_other_side_shows_a_part_where_its_joints_are(bench: Bench) -> None:
    photographed(bench, board_photo())
    behind = photographed(bench, board_photo(is_behind=True), Side.BOTTOM)
    assert behind.frame is None  # the board is known: a second photo is laid over first
    boards.lay_by_corners(
        bench.store, bench.number, behind.photo.id, [(0, 0), (800, 0), (800, 500), (0, 500)],
        BOARD[1],
    )  # fmt: skip
    put(bench, "C10", DOT)
    shown = spot(bench, "C10")
    assert shown.view and not shown.view.is_behind
    assert is_red(middle(bench, shown, views(bench.file)[1]))


def test_a_second_photo_is_laid_over_by_two_or_four_parts(bench: Bench) -> None:
    photographed(bench, board_photo())
    at = {"C10": DOT, "F1": (10.0, 10.0), "RT1": (150.0, 90.0), "BR1": (20.0, 80.0)}
    for ref, place in at.items():
        put(bench, ref, place)
    turned = [(300.0, 800.0), (300.0, 160.0), (700.0, 160.0), (700.0, 800.0)]
    flat = lay(corners(turned, BOARD), SIZE, BOARD)
    second = photographed(bench, board_photo(turned))
    for refs in (("F1", "RT1"), ("C10", "F1", "RT1", "BR1")):
        seen = [(bench.id_of(ref), flat.to_photo(*at[ref])) for ref in refs]
        boards.lay_by_parts(bench.store, bench.number, second.photo.id, seen)
        shown = spot(bench, "C10")
        assert shown.view and shown.view.photo.id == second.photo.id
        assert is_red(middle(bench, shown))
    aside = [(bench.id_of("T1"), (5.0, 5.0)), (bench.id_of("F1"), (500.0, 500.0))]
    with pytest.raises(InputError, match="T1 has no place on Supply board"):
        boards.lay_by_parts(bench.store, bench.number, second.photo.id, aside)


def test_straightening_the_first_photo_leaves_each_part_on_its_pixel(bench: Bench) -> None:
    view = photographed(bench, board_photo(ASLANT))
    seen = lay(corners(ASLANT, BOARD), SIZE, BOARD).to_photo(*DOT)
    assert view.laying
    put(bench, "C10", view.laying.to_board(*seen))
    assert is_red(middle(bench, spot(bench, "C10")))
    boards.lay_by_corners(bench.store, bench.number, view.photo.id, ASLANT, BOARD[1])
    now = spot(bench, "C10")
    assert (now.place.x_mm, now.place.y_mm) == pytest.approx(DOT, abs=0.01)
    assert is_red(middle(bench, now))


def test_a_board_that_is_measured_takes_its_places_and_photos_along(bench: Bench) -> None:
    photo_id = boards.add_photo(
        bench.store, bench.number, "Supply board", Side.TOP, None, "b.png", board_photo()
    )
    assert not bench.file.rows.boards["supply board"].is_measured
    put(bench, "C10", (150.0, 37.5))  # where the dot is while the board is taken to be 200 mm wide
    assert is_red(middle(bench, spot(bench, "C10")))
    boards.measure(bench.store, bench.number, "supply board", 160.0)
    board, now = bench.file.rows.boards["supply board"], spot(bench, "C10")
    assert (board.width_mm, board.height_mm, board.is_measured) == (160.0, 100.0, True)
    assert (now.place.x_mm, now.place.y_mm) == pytest.approx(DOT)
    assert now.view and now.view.photo.id == photo_id and is_red(middle(bench, now))


def test_marks_stay_on_their_pixels(bench: Bench) -> None:
    view = photographed(bench, board_photo(ASLANT))
    ends = ((30.0, 20.0), (40.0, 20.0))
    number, store = bench.number, bench.store
    marks.draw_mark(store, number, view.photo.id, MarkShape.RING, ends, " cracked  here ")
    drawn = marks_of(bench.file, view.photo.id)[0].drawn
    assert (drawn.words, drawn.start) == ("cracked here", pytest.approx((225.0, 150.0)))
    boards.lay_by_corners(store, number, view.photo.id, ASLANT, BOARD[1])
    assert marks_of(bench.file, view.photo.id)[0].drawn == drawn
    marks.take_mark_off(store, number, marks_of(bench.file, view.photo.id)[0].key)
    assert not marks_of(bench.file, view.photo.id)
    for shape, where, words, says in (
        (MarkShape.WORD, ends, "", "Type the word"),
        (MarkShape.ARROW, (ends[0], ends[0]), "", "Press twice"),
        (MarkShape.RING, ((-5000.0, 0.0), (5.0, 5.0)), "", "not on the photo"),
        (MarkShape.WORD, ends, "w" * 41, "At most 40"),
    ):
        with pytest.raises(InputError, match=says):
            marks.draw_mark(store, number, view.photo.id, shape, where, words)


def test_before_and_after_are_told_by_when_the_new_part_went_in(bench: Bench) -> None:
    first = photographed(bench, board_photo(shade=90))
    put(bench, "C10", DOT)
    assert report(bench.file).spots == ()  # nothing is known of it that a report would tell
    decisions.decide(bench.store, bench.number, bench.id_of("C10"), "fitted", "2200 µF 16 V")
    assert [len(one.crops) for one in report(bench.file).spots] == [1]
    second = photographed(bench, board_photo(shade=140))
    boards.lay_as_last(bench.store, bench.number, second.photo.id)
    shown = spot(bench, "C10")
    assert shown.before and shown.after
    assert (shown.before.photo.id, shown.after.photo.id) == (first.photo.id, second.photo.id)
    told = report(bench.file).spots
    assert [one.name for one in told] == ["C10"]
    assert [crop.word for crop in told[0].crops] == ["before", "after"]


def test_pictures_that_were_thrown_away_are_made_again_and_old_layings_still_shown(
    bench: Bench,
) -> None:
    view = photographed(bench, board_photo(ASLANT))
    boards.lay_by_corners(bench.store, bench.number, view.photo.id, ASLANT, BOARD[1])
    shutil.rmtree(bench.store.folder / "views")
    sha256 = view.photo.sha256
    old = view_by_key(bench.file, sha256, view.key)
    assert old and picture(bench.file, sha256, view.key, "small.jpg").exists()
    for name in ("9-9.jpg", "../small.jpg", "small.png"):
        with pytest.raises(NotFoundError):
            picture(bench.file, sha256, view.key, name)
    with pytest.raises(NotFoundError):
        picture(bench.file, sha256, "0" * 16, "small.jpg")
    shutil.rmtree(bench.store.folder / "views")
    shutil.rmtree(bench.store.folder / "photos")
    with pytest.raises(NotFoundError, match="missing or damaged"):
        make(bench.store.folder, old)
    assert not list((bench.store.folder / "views").rglob("*.jpg"))


@pytest.mark.parametrize(
    ("name", "width", "data", "field"),
    [
        ("", 160.0, None, "board"), ("B" * 41, 160.0, None, "board"),
        ("Board", 0.5, None, "width"), ("Board", float("nan"), None, "width"),
        ("Board", 160.0, b"GIF89a<script>", "photo"), ("Board", 160.0, b"", "photo"),
    ],
)  # fmt: skip
def test_what_is_no_board_is_told_beside_its_field(
    bench: Bench, name: str, width: float, data: bytes | None, field: str
) -> None:
    with pytest.raises(InputError) as caught:
        boards.add_photo(
            bench.store, bench.number, name, Side.TOP, width, "b.png",
            board_photo() if data is None else data,
        )  # fmt: skip
    assert caught.value.field == field
    assert not views(bench.file) and not bench.file.rows.boards


def test_a_photo_of_the_wrong_side_is_put_right_while_it_is_laid_over(bench: Bench) -> None:
    photographed(bench, board_photo())
    put(bench, "C10", DOT)
    second = photographed(bench, board_photo(ASLANT, is_behind=True))  # said to be the top
    store, number, photo = bench.store, bench.number, second.photo.id
    boards.lay_by_corners(store, number, photo, ASLANT, BOARD[1])
    assert not is_red(middle(bench, spot(bench, "C10")))
    boards.lay_by_corners(store, number, photo, ASLANT, BOARD[1], Side.BOTTOM)
    behind = views(bench.file)[1]
    assert behind.is_behind and is_red(middle(bench, spot(bench, "C10"), behind))


def test_a_photo_that_is_saved_stays_so_where_its_pictures_cannot_be_made(
    bench: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(*_: object) -> None:
        raise StoreError("The disk is full.")

    with monkeypatch.context() as patch:
        patch.setattr(boards, "make", full)
        view = photographed(bench, board_photo())
    put(bench, "C10", DOT)
    assert views(bench.file) == (view,) and is_red(middle(bench, spot(bench, "C10")))
