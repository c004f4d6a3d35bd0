"""Lists of connections and memory tables: dialects, what is refused, and the way back."""

from __future__ import annotations

import pytest

from hale_rail.core.errors import InputError
from hale_rail.core.machine.continuity import Pairing
from hale_rail.formats.lengths import read_length
from hale_rail.formats.machine_lists import pairs_csv, read_layout, read_pairs


def test_pairs_as_they_are_written_and_back() -> None:
    text = "\ufeffone;other;joined;note\r\nP1.3;C50 +;;supply\r\nP1.3;P1.5;no;\r\n"
    found = read_pairs(text)
    assert found == [Pairing("P1.3", "C50 +", True, "supply"), Pairing("P1.3", "P1.5", False)]
    assert read_pairs(pairs_csv(found)) == found


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("a,b\n1,2\n", "lacks one, other"),
        ("one,other\n", "no pair"),
        ("one,other\nA,A\n", "line 2: A to itself"),
        ("one,other\nA,B\nb,a\n", "line 3: b to a stands twice"),
        ("one,other\nA@1,B\n", "no end"),
        ("one,other\n,B\n", "no end"),
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
        ("bank,bit,ref\n0,1,M1\n0,1,M2\n", "stands twice"),
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
