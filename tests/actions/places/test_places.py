"""Parts placed, and places handed on to the next of the kind."""

from __future__ import annotations

import io
from contextlib import closing

import pytest
from PIL import Image

from hale_rail.actions.intake import sheets
from hale_rail.actions.parts import decisions
from hale_rail.actions.places import boards, map_start, marks, places
from hale_rail.actions.workshop.bundles import export, take_in
from hale_rail.case.file import open_case
from hale_rail.case.places.places import marks_of, spot_named, views
from hale_rail.case.places.places import places as known_places
from hale_rail.case.report.report import report
from hale_rail.case.shorts.boards import board_maps
from hale_rail.case.shorts.suspects import suspects_of
from hale_rail.core.places.marks import MarkShape
from hale_rail.core.places.place import Place, Side
from hale_rail.errors import InputError
from hale_rail.formats.units.part_words import write_part
from hale_rail.stages.trial import look_at
from hale_rail.store.database import Store
from hale_rail.store.sheets import patterns
from tests.actions.places.boards import (
    ASLANT,
    BOARD,
    DOT,
    board_photo,
    is_red,
    middle,
    photographed,
    put,
    spot,
)
from tests.conftest import Bench


@pytest.fixture
def pair(store: Store) -> tuple[Bench, Bench]:
    """Two units of one type."""
    first = Bench(store, parts="C40 10u 25V +5 decoupling\nC40 10u 25V +5 decoupling")
    sheets.keep_pattern(store, first.number, "Testbox")
    return first, Bench(store, pattern_of(store, "Testbox"), number="T-2")


def pattern_of(store: Store, name: str) -> str:
    """What a case starts from that is like another."""
    pattern = next(s for s in patterns(store.read()) if s.name == name)
    return f"pattern:{pattern.id}"


HEAD = "ref,board,side,x_mm,y_mm\n"


def test_a_row_is_placed_evenly_or_not_at_all(bench: Bench) -> None:
    photographed(bench, board_photo())
    ends = ((10.0, 20.0), (40.0, 20.0))
    placed = places.place_row(
        bench.store, bench.number, "C10 to C12", "Supply board", Side.TOP, ends
    )
    assert len(placed) == 3 and spot(bench, "C11").place.x_mm == 25.0
    with pytest.raises(InputError, match="There is no part or rail “C14” on this unit: leave it"):
        places.place_row(
            bench.store, bench.number, "C10 to C21", "Supply board", Side.TOP, ((1, 1), (9, 9))
        )
    with pytest.raises(InputError, match="is not on Supply board, which is 160"):
        places.place_row(
            bench.store, bench.number, "C10, F1", "Supply board", Side.TOP, ((1, 1), (900, 9))
        )
    assert spot(bench, "C10").place.x_mm == 10.0 and spot_named(bench.file, "F1") is None


def test_a_list_is_taken_whole_or_not_at_all(bench: Bench) -> None:
    photographed(bench, board_photo())
    good = "C10,supply board,,12.5,8\nF1,Rear panel,bottom,30,44\n"
    with pytest.raises(InputError) as caught:
        bad = "C99,Supply board,top,1,1\nRT1,Supply board,top,999,1\n"
        places.take_list(bench.store, bench.number, HEAD + good + bad)
    assert "line 4: there is no part" in str(caught.value)
    assert "line 5: 999, 1 mm is not on Supply board" in str(caught.value)
    assert not known_places(bench.file)
    assert places.take_list(bench.store, bench.number, HEAD + good) == 2
    rear = bench.file.rows.boards["rear panel"]
    assert not rear.is_measured and rear.width_mm >= 30 and rear.height_mm >= 44
    assert spot(bench, "F1").place == Place("Rear panel", Side.BOTTOM, 30.0, 44.0)
    with pytest.raises(InputError, match="no row"):
        places.take_list(bench.store, bench.number, HEAD)


def test_a_map_begins_with_the_places_of_its_rail_and_takes_later_ones_in(bench: Bench) -> None:
    store, number = bench.store, bench.number
    with pytest.raises(InputError, match=r"No part of \+5 V has a place yet"):
        map_start.begin_map(store, number, "+5 V")
    photographed(bench, board_photo(ASLANT))
    boards.lay_by_corners(store, number, views(bench.file)[0].photo.id, ASLANT, BOARD[1])
    put(bench, "C10", DOT)
    put(bench, "C11", (20.0, 20.0))
    assert map_start.begin_map(store, number, "+5 V") == 2
    drawn = board_maps(bench.file)["+5 V"].map
    assert [(p.id, p.x, p.y) for p in drawn.rail.pads] == [("C10", *DOT), ("C11", 20.0, 20.0)]
    assert drawn.size_mm == BOARD and drawn.picture
    photo = Image.open(store.folder / "photos" / drawn.picture.sha256[:2]
                       / f"{drawn.picture.sha256}.jpg")  # fmt: skip
    at = [(DOT[n] - (drawn.picture.x_mm, drawn.picture.y_mm)[n]) / drawn.picture.mm_per_pixel
          for n in (0, 1)]  # fmt: skip
    assert is_red(photo.convert("RGB").getpixel((round(at[0]), round(at[1]))))
    with pytest.raises(InputError, match="on the map already"):
        map_start.begin_map(store, number, "+5 V")
    sheets.add_parts(store, number, "C80 10u 25V +5")
    put(bench, "C80", (30.0, 20.0))
    assert map_start.begin_map(store, number, "+5 V") == 1
    assert [p.id for p in board_maps(bench.file)["+5 V"].map.parts] == ["C10", "C11", "C80"]


def test_suspects_on_a_placed_board_are_told_from_its_connector_on(demo: Store) -> None:
    bench = Bench.at(demo, "LW-022")
    refs = [p.ref for p in suspects_of(bench.file, "−5 V") if p.board]
    assert refs == ["C70", "C71", "C72", "C73", "C74", "C75", "C76", "C76"]
    put(bench, "P1", (212.0, 100.0), board="Main board")  # at the row's other end
    behind = [p.ref for p in suspects_of(bench.file, "−5 V") if p.board]
    assert behind != refs and sorted(behind) == sorted(refs)
    known, inlet = known_places(bench.file), spot(bench, "P1").place
    far = [
        (known[p.id].x_mm - inlet.x_mm) ** 2 + (known[p.id].y_mm - inlet.y_mm) ** 2
        for p in suspects_of(bench.file, "−5 V")
        if p.board
    ]
    assert far == sorted(far)


def test_three_parts_of_one_designator_are_three_places(pair: tuple[Bench, Bench]) -> None:
    bench = pair[0]
    photographed(bench, board_photo())
    parts = [p for p in bench.file.sheet.in_power_order if p.ref == "C40"]
    for nth, part in enumerate(parts):
        at = Place("Supply board", Side.TOP, 10.0 * nth, 5.0)
        places.place_part(bench.store, bench.number, part.id, at)
    assert [spot(bench, f"C40#{n}").place.x_mm for n in (1, 2)] == [0.0, 10.0]
    before = write_part(parts[0])
    moved = before.replace("+5", "+12")  # power passes it after the other one then
    sheets.correct_part(bench.store, bench.number, parts[0].id, before, moved)
    assert [spot(bench, f"C40#{n}").place.x_mm for n in (1, 2)] == [10.0, 0.0]
    sheets.add_parts(bench.store, bench.number, "C40 10u 25V +5")
    assert [spot(bench, f"C40#{n}").place.x_mm for n in (1, 3)] == [10.0, 0.0]
    assert spot_named(bench.file, "C40#2") is None
    sheets.remove_part(bench.store, bench.number, parts[1].id)
    assert spot(bench, "C40#2").place.x_mm == 0.0 and spot_named(bench.file, "C40#1") is None


def test_places_of_a_case_become_those_of_the_type_that_it_is_given(store: Store) -> None:
    first = Bench(store)
    photographed(first, board_photo())
    put(first, "C10", DOT)
    sheets.keep_pattern(store, first.number, "Testbox")
    second = Bench(store, pattern_of(store, "Testbox"), number="T-2")
    assert spot(second, "C10").place.x_mm == 120.0


def test_the_next_of_its_type_has_the_places_and_lays_its_own_photo_over(
    pair: tuple[Bench, Bench],
) -> None:
    first, second = pair
    photographed(first, board_photo())
    for ref, at in (("C10", DOT), ("F1", (10.0, 10.0)), ("RT1", (150.0, 90.0))):
        put(first, ref, at)
    assert len(known_places(second.file)) == 3
    taken = spot(second, "C10")
    assert taken.view and (taken.place.x_mm, taken.view.of) == (120.0, first.number)
    assert is_red(middle(second, taken))  # the like unit's photo, until it has one of its own
    decisions.decide(second.store, second.number, second.id_of("C10"), "fitted", "a new one")
    assert report(second.file).spots == ()
    own = photographed(second, board_photo(ASLANT))
    assert own.frame is None
    boards.lay_by_corners(second.store, second.number, own.photo.id, ASLANT)
    assert second.file.rows.boards["supply board"].height_mm == 100.0
    shown = spot(second, "C10")
    assert shown.view and not shown.view.of and is_red(middle(second, shown))
    boards.measure(first.store, first.number, "Supply board", 320.0)  # told there, true here too
    shown = spot(second, "C10")
    assert shown.place.x_mm == 240.0 and is_red(middle(second, shown))
    boards.measure(first.store, first.number, "Supply board", 160.0)
    put(second, "C10", (60.0, 60.0))  # moved there, it stays where it is here
    assert spot(first, "C10").place.x_mm == 120.0
    places.take_off(second.store, second.number, second.id_of("F1"))
    assert spot_named(second.file, "F1") is None and spot(first, "F1")
    put(first, "T1", (80.0, 80.0))
    assert spot(second, "T1").place.x_mm == 80.0


def test_a_bundle_carries_boards_places_and_marks_those_of_its_type_too(
    pair: tuple[Bench, Bench], tmp_path_factory: pytest.TempPathFactory
) -> None:
    first, second = pair
    photographed(first, board_photo())
    put(first, "C10", DOT)
    put(first, "F1", (10.0, 10.0))
    view = photographed(second, board_photo(ASLANT))
    boards.lay_by_corners(second.store, second.number, view.photo.id, ASLANT)
    marks.draw_mark(second.store, second.number, view.photo.id, MarkShape.WORD, (DOT, DOT), "here")
    put(second, "F1", (20.0, 20.0))
    out = io.BytesIO()
    export(second.store, second.number, out)
    with closing(Store(tmp_path_factory.mktemp("other") / "data")) as other:
        found = take_in(other, io.BytesIO(out.getvalue()), look_at)
        there = Bench.at(other, found.case)
        assert known_places(open_case(other, found.case)).keys() == {
            there.id_of("C10"), there.id_of("F1")
        }  # fmt: skip
        assert spot(there, "F1").place.x_mm == 20.0
        assert is_red(middle(there, spot(there, "C10")))
        assert marks_of(there.file, views(there.file)[0].photo.id)[0].words == "here"
