"""Lists of connections and memory tables: dialects, what is refused, and the way back."""

from __future__ import annotations

import pytest

from hale_rail.core.bring_up.continuity import Pairing, part_of
from hale_rail.core.errors import InputError
from hale_rail.formats.readings.machine_lists import pairs_csv, read_layout, read_pairs
from hale_rail.formats.tables.lengths import read_length


def test_pairs_as_they_are_written_and_back() -> None:
    text = "\ufeffone;other;joined;note\r\nP1.3;C50 +;;supply\r\nP1.3;P1.5;no;\r\n"
    found = read_pairs(text)
    assert found == [Pairing("P1.3", "C50 +", True, "supply"), Pairing("P1.3", "P1.5", False)]
    assert read_pairs(pairs_csv(found)) == found


def test_a_wide_table_and_a_sockets_neighbours_are_made_by_one_line() -> None:
    wide = read_pairs("U1,U7,J3\n1,4,\n2,5 6,12\n")
    assert [(p.one, p.other) for p in wide] == [
        ("U1.1", "U7.4"), ("U1.2", "U7.5"), ("U1.2", "U7.6"), ("U1.2", "J3.12"),
    ]  # fmt: skip
    # a socket of eight: 1-2-3-4 on one side, 5-6-7-8 on the other
    found = read_pairs("XU1 neighbours 8\n")
    assert {(p.one, p.other) for p in found} == {
        (f"XU1.{a}", f"XU1.{a + 1}") for a in (1, 2, 3, 5, 6, 7)
    }
    assert not any(p.is_joined for p in found)
    row = read_pairs("one,other\nP1.2,P1.3\nP1 neighbors 5 row\n")
    assert [(p.one, p.other, p.is_joined) for p in row] == [
        ("P1.2", "P1.3", True), ("P1.1", "P1.2", False), ("P1.3", "P1.4", False),
        ("P1.4", "P1.5", False),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("end", "part"),
    [("U3.11", "U3"), ("S1 pin A14", "S1"), ("U3-11", "U3"), ("C50 +", "C50 +"), ("J1.B9", "J1")],
)
def test_the_part_of_an_end(end: str, part: str) -> None:
    assert part_of(end) == part


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("U1 neighbours 7\n", "line 1: U1: 2 to 200 pins, even"),
        ("U1,U7\n,4\n", "line 2: a pin of U1"),
        ("U1,U7\n1,4\n1,4\n", "line 3: U1.1 to U7.4 is listed twice"),
        ("a,b\n1,2\n", "lacks one, other"),
        ("one,other\n", "no pair"),
        ("one,other\nA,A\n", "line 2: A to itself"),
        ("one,other\nA,B\nb,a\n", "line 3: b to a is listed twice"),
        ("one,other\nA@1,B\n", "not an end"),
        ("one,other\n,B\n", "not an end"),
        ("one,other,joined\nA,B,perhaps\n", "joined is yes or no"),
        ("one,other\n" + "".join(f"A{n},B\n" for n in range(2001)), "at most 2000"),
    ],
)
def test_lists_that_are_none_are_refused_with_their_line(text: str, words: str) -> None:
    with pytest.raises(InputError, match=words):
        read_pairs(text)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("bank,bit\n0,1\n", "lacks ref"),
        ("bank,bit,ref\n0,x,M1\n", "bit is a number"),
        ("bank,bit,ref\n0,64,M1\n", "bit is a number"),
        ("bank,bit,ref\n0,1,M1\n0,1,M2\n", "is listed twice"),
        ("bank,bit,ref\n0,1,\n", "ref is a designator"),
    ],
)
def test_memory_tables_that_are_none_are_refused(text: str, words: str) -> None:
    with pytest.raises(InputError, match=words):
        read_layout(text)


@pytest.mark.parametrize(
    ("text", "metres"), [("0.4", 0.4), ("40 cm", 0.4), ("400mm", 0.4), ("0,4 m", 0.4), (".5", 0.5)]
)
def test_lengths(text: str, metres: float) -> None:
    assert read_length(text) == pytest.approx(metres)
