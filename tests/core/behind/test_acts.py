"""Exchanges as they are typed: what was done, with what, what became of it, what is missing."""

from __future__ import annotations

import pytest

from hale_rail.core.behind.acts import Act, Result, Source, read_act
from hale_rail.core.errors import InputError


@pytest.mark.parametrize(
    ("text", "act", "result", "other", "source", "where"),
    [
        ("swapped with M9: moved with it", Act.EXCHANGED, Result.MOVED, "M9", Source.UNKNOWN, ""),
        ("exchange M9, nothing changed", Act.EXCHANGED, Result.STAYED, "M9", Source.UNKNOWN, ""),
        ("substituted by CPU-1 new from stock stays", Act.SUBSTITUTED, Result.STAYED, "CPU-1",
         Source.STOCK, ""),
        ("replaced proven on the other board gone", Act.SUBSTITUTED, Result.GONE, "",
         Source.GOOD, "the other board"),
        ("spare proven in LW-020, fault gone", Act.SUBSTITUTED, Result.GONE, "",
         Source.GOOD, "LW-020"),
        ("pulled; no change", Act.REMOVED, Result.STAYED, "", Source.UNKNOWN, ""),
        ("put back gone", Act.PUT_BACK, Result.GONE, "", Source.UNKNOWN, ""),
        ("put back, fault back", Act.PUT_BACK, Result.BACK, "", Source.UNKNOWN, ""),
        ("tried in LW-020, bad", Act.TRIED, Result.FAILS, "", Source.UNKNOWN, "LW-020"),
    ],
)  # fmt: skip
def test_an_act_is_read_as_it_is_written(
    text: str, act: Act, result: Result, other: str, source: Source, where: str
) -> None:
    read = read_act("M1", text)
    assert (read.act, read.result, read.other) == (act, result, other)
    assert (read.source, read.where) == (source, where)


@pytest.mark.parametrize(
    ("text", "missing"),
    [
        ("M9 moved", "Say first what was done"),
        ("exchanged moved", "with which part"),
        ("exchanged M1 moved", "with which part"),
        ("exchanged M9 back", "gone, stayed, moved"),
        ("substituted by a good one gone", "proven where"),
        ("substituted good", "what became of it"),
        ("removed", "what became of it"),
        ("tried works", "in which machine"),
    ],
)
def test_what_an_act_lacks_is_asked_for(text: str, missing: str) -> None:
    with pytest.raises(InputError, match=missing):
        read_act("M1", text)
