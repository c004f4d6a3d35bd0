"""Both ends of a harness as tables: a row opened, saved, refused, added and taken off."""

from __future__ import annotations

import pytest

from hale_rail.formats.workshop.harness_csv import read_source, read_target
from hale_rail.stages.bring_up.harness_rows import NEW, EndTable, RowPress, end_tables

SOURCE = "rail_v;amps;conductors;note\n5;20;4;the blue lead\n0;;6;\n"
TARGET = "pin,kind,rail_v,amps\n1,rail,5,6 total\n2,ground,,\n3,nc,,\n"
TEXTS = {"source": SOURCE, "target": TARGET}


def after(end: str, what: str, place: str, **cells: str) -> EndTable:
    tables = end_tables(TEXTS, RowPress(what, end, place, cells))
    other = tables[end == "source"]
    assert other.text == TEXTS[other.end.key] and not other.open
    return tables[end == "target"]


def test_each_end_is_read_with_the_columns_that_a_row_fills() -> None:
    source, target = end_tables(TEXTS)
    assert [source.end.headings[n] for n in source.filled] == ["Rail, V", "Gives, A", "Conductors"]
    shown = [[target.shown(row, n) for n in target.filled] for row in target.rows]
    assert shown == [["1", "rail", "5", "6 total"], ["2", "ground", "", ""],
                     ["3", "not connected", "", ""]]  # fmt: skip
    assert not source.problem and not target.problem


def test_a_row_is_opened_as_it_is_and_closed_without_a_change() -> None:
    opened = after("source", "edit", "0")
    assert opened.open == "0" and list(opened.edited[:3]) == ["5", "20", "4"]
    closed = after("source", "cancel", "0", amps="9")
    assert (closed.open, closed.closed, closed.text) == ("", "0", SOURCE)


def test_a_kind_that_was_pasted_may_be_kept() -> None:
    """A select without it would make a rail of a ground when its row is saved."""
    texts = {"source": SOURCE, "target": "pin,kind,use\n1,gnd,\n2,signal,Power-Good\n"}
    opened = end_tables(texts, RowPress("edit", "target", "0"))[1]
    assert opened.choices(1)[-1] == ("gnd", "gnd") and len(opened.choices(4)) == 5
    signal = end_tables(texts, RowPress("edit", "target", "1"))[1]
    assert signal.choices(4)[-1] == ("Power-Good", "Power-Good") and not signal.choices(0)


def test_a_saved_row_takes_its_place_and_keeps_what_the_page_does_not_show() -> None:
    saved = after("source", "save", "0", rail_v="5.1", amps="18", isolated="yes")
    feed = read_source(saved.text)[0]
    assert (feed.rail_v, feed.amps, feed.conductors, feed.isolated) == (5.1, 18, 4, True)
    assert "the blue lead" in saved.text
    assert (saved.open, saved.closed) == ("", "0")


def test_a_row_is_added_and_the_next_is_open_at_once() -> None:
    added = after("target", "save", NEW, pin="4", kind="rail", rail_v="-12", amps="0.3")
    pins = read_target(added.text)
    assert [pin.name for pin in pins] == ["1", "2", "3", "4"] and pins[3].rail_v == -12
    assert added.open == NEW and list(added.edited[:2]) == ["5", "rail"]


def test_a_row_is_taken_off() -> None:
    assert [pin.name for pin in read_target(after("target", "remove", "0").text)] == ["2", "3"]


@pytest.mark.parametrize(
    ("end", "place", "cells", "says"),
    [
        ("target", "1", {"kind": "rail"}, "“Rail, V” is needed"),
        ("target", "0", {"rail_v": "five"}, "not a voltage"),
        ("target", NEW, {"pin": "", "kind": "nc"}, "“Pin” is a name"),
        ("source", "0", {"amps": ""}, "“Gives, A” is needed"),
        ("source", "1", {"conductors": "some"}, "“Conductors” is a count"),
        ("source", NEW, {"rail_v": "9 VAC", "amps": "1", "conductors": "2", "awg": "50"}, "“AWG”"),
    ],
)
def test_a_refused_row_stays_open_as_typed(
    end: str, place: str, cells: dict[str, str], says: str
) -> None:
    refused = after(end, "save", place, **cells)
    assert says in refused.row_problem
    assert refused.open == place and refused.text == TEXTS[end]
    typed = dict(zip(refused.columns, refused.edited, strict=True))
    assert cells.items() <= typed.items()


@pytest.mark.parametrize(
    ("target", "says"),
    [
        ("pin,volts\n1,5\n", "lacks kind"),
        ("pin,kind\n1,rail\n", "row 1: “Rail, V” is needed"),
        ("pin,kind\n1,nc\n1,nc\n", "row 2: “Pin” 1 is listed twice"),
        ("pin,kind\n1,nc,5,6\n", "row 1: more fields"),
        ("pin,kind,rail_v,amps\n1,rail,5,1 total\n2,rail,5,2 total\n", "two totals"),
    ],
)
def test_what_is_wrong_in_pasted_rows_is_told(target: str, says: str) -> None:
    assert says in end_tables({"source": SOURCE, "target": target})[1].problem


@pytest.mark.parametrize("place", ["7", "-1", "²", "", "x"])
def test_a_row_that_is_not_there_changes_nothing(place: str) -> None:
    for what in ("edit", "save", "remove", "cancel", "", "other"):
        assert after("source", what, place, amps="1").text == SOURCE
    assert after("source", "remove", NEW).text == SOURCE
