"""Places as a table."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.core.errors import InputError
from hale_rail.core.places.place import Place, Side
from hale_rail.formats.places.places_csv import read_places, write_places
from tests.sizes import examples

HEAD = "ref,board,side,x_mm,y_mm\n"
name = st.from_regex(r"[A-Z]{1,3}[0-9]{1,3}(#[1-9])?", fullmatch=True)
board = st.sampled_from(["Main board", "Supply; left", 'The "old" one', "=1+1", "Platine µ"])
hundredth = st.integers(-5_000, 50_000).map(lambda n: n / 100)
places = st.builds(Place, board, st.sampled_from(Side), hundredth, hundredth)


@settings(max_examples=examples(60), deadline=None)
@given(st.dictionaries(name, places, max_size=12))
def test_what_goes_out_comes_in_the_same(known: dict[str, Place]) -> None:
    rows, problems = read_places(write_places(known.items()))
    assert (problems, {row.ref: row.place for row in rows}) == ([], known)


@pytest.mark.parametrize(
    "text",
    [
        HEAD + "C1,Main board,top,12.5,8\n",
        "\ufeffREF;Board;Side;X_mm;Y_mm\r\nC1;Main board;;12,5;8\r\n",
        "board\tref\ty_mm\tx_mm\nMain board\tC1\t8 mm\t12.5mm\n",
        HEAD + "\nC1,  Main   board ,component side,12.5,8.0\n\n",
    ],
)
def test_a_table_is_read_as_spreadsheets_write_it(text: str) -> None:
    rows, problems = read_places(text)
    assert not problems
    assert [(r.ref, r.place) for r in rows] == [("C1", Place("Main board", Side.TOP, 12.5, 8.0))]


@pytest.mark.parametrize(
    ("line", "says"),
    [
        (",Main board,top,1,1", "no ref"),
        ("C1,,top,1,1", "Name the board"),
        ("C1,B,left,1,1", "side is top or bottom, not “left”"),
        ("C1,B,top,,1", "no x_mm"),
        ("C1,B,top,1,wide", "y_mm: “wide” is not a number"),
        ("C1,B,top,nan,1", "x_mm"),
        ("C1,B,top,1e999,1", "x_mm"),
        ("C1,B,top,1,1,9", "more fields"),
        ("C1,B,top,\"10,000\",1", "can mean"),
        (f"C1,{'B' * 41},top,1,1", "At most 40"),
    ],
)  # fmt: skip
def test_a_row_that_cannot_be_is_told_with_its_line(line: str, says: str) -> None:
    rows, problems = read_places(HEAD + "C9,B,top,2,2\n" + line + "\n")
    assert [row.ref for row in rows] == ["C9"]
    assert [problem.line for problem in problems] == [3] and says in problems[0].text


def test_one_part_has_one_place() -> None:
    _, problems = read_places(HEAD + "C1,B,top,1,1\nc1,B,bottom,2,2\n")
    assert [(p.line, p.text) for p in problems] == [(3, "c1 has a place in line 2 already")]


def test_a_heading_without_its_columns_is_refused() -> None:
    with pytest.raises(InputError, match="lacks board, x_mm"):
        read_places("ref,y_mm\nC1,2\n")
