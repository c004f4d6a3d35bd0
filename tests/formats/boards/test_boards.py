"""Maps, trees and a trace's readings as files: what goes out comes in, what cannot be is told."""

from __future__ import annotations

import json
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.errors import InputError
from hale_rail.core.shorts.board import BoardPart
from hale_rail.core.shorts.board_map import BoardMap, Layer, MapPhoto, Track
from hale_rail.core.shorts.board_model import Kind, TraceReading
from hale_rail.core.shorts.copper import Pad, copper_ohm
from hale_rail.core.shorts.tree import Tree, TreeItem
from hale_rail.formats.boards.board_csv import read_board_csv, write_board_csv
from hale_rail.formats.boards.board_json import board_text, read_board
from hale_rail.formats.boards.trace_csv import read_trace, trace_text
from hale_rail.formats.boards.tree_json import read_sets, read_tree, tree_json
from larkmoor.boards import board as demo_board

ids = st.text("abcdefgh123-._#", min_size=1, max_size=8)
millimetres = st.floats(0.1, 500, allow_nan=False).map(lambda v: round(v, 3))


@st.composite
def layers(draw, prefix):
    names = draw(st.lists(ids, min_size=1, max_size=6, unique=True))
    pads = tuple(Pad(prefix + name, draw(millimetres), draw(millimetres)) for name in names)
    tracks = []
    for a, b in pairwise(pads):
        if draw(st.booleans()):
            tracks.append(Track(a.id, b.id, milliohm=draw(millimetres)))
        else:
            width, length = draw(millimetres), draw(st.none() | millimetres)
            tracks.append(Track(a.id, b.id, length_mm=length, width_mm=width))
    return Layer(pads, tuple(tracks))


@st.composite
def maps(draw):
    rail = draw(layers("r"))
    ground = draw(st.none() | layers("g"))
    grounds = [p.id for p in ground.pads] if ground else ["GND"]
    names = draw(st.lists(ids, max_size=5, unique=True))
    parts = tuple(
        BoardPart(
            name,
            draw(ids),
            draw(st.sampled_from(["tantalum", "ic", ""])),
            draw(st.sampled_from([p.id for p in rail.pads])),
            draw(st.sampled_from(grounds)),
            draw(st.none() | st.floats(0, 100)),
        )
        for name in names
    )
    picture = draw(st.none() | st.just(MapPhoto("f" * 64, 0.125, 1.0, -2.0, 0.4)))
    sheet = draw(st.none() | st.just(35.0)) if ground else None
    return BoardMap(rail, ground, sheet, parts, draw(st.sampled_from([0.0, 0.05])), 25.0,
                    draw(ids), picture, (draw(millimetres), draw(millimetres)))  # fmt: skip


@given(maps())
def test_a_map_is_the_same_after_a_round_trip_as_json(drawn):
    assert read_board(board_text(drawn)) == drawn


def test_a_map_is_the_same_copper_after_a_round_trip_as_a_table():
    drawn = demo_board()
    again = read_board_csv(write_board_csv(drawn))
    assert (again.rail, again.ground, again.parts) == (drawn.rail, drawn.ground, drawn.parts)
    assert again.board().rail == drawn.board().rail


@pytest.mark.parametrize(
    ("track", "ohm"),
    [
        (Track("a", "b", milliohm=5), 0.005),
        (Track("a", "b", milliohm=1e15), 1e12),
        (Track("a", "b", length_mm=40, width_mm=2), copper_ohm(40, 2)),
        (Track("a", "b", width_mm=2, copper_um=70), copper_ohm(50, 2, 70)),
        (Track("a", "b", length_mm=40), None),
        (Track("a", "b"), None),
    ],
)
def test_a_tracks_ohms_are_told_or_follow_from_its_copper(track, ohm):
    drawn = BoardMap(Layer((Pad("a", 0, 0), Pad("b", 30, 40)), (track,)))
    board = drawn.board()
    if ohm is None:
        assert board.rail.segments == () and "no width" in board.troubles[0].text
    else:
        assert board.rail.segments[0].ohm == pytest.approx(ohm)


HEAD = "kind,plus,minus,inject,return,amps,value,unit,resolution,wires,nulled\n"


@pytest.mark.parametrize(
    ("row", "expected"),
    [
        ("drop,a,b,c,d,1,0.0031,V,0.0001,,", (0.0031, 1e-4, 1.0)),
        ("drop,a,b,c,d,0.5,3.1,mV,0.1,,", (0.0031, 1e-4, 0.5)),
        ("drop,a,b,c,d,500 mA,3.1 mV,,,,", (0.0031, 1e-4, 0.5)),
        ("drop,a,b,c,d,1,-250,µV,10,,", (-0.00025, 1e-5, 1.0)),
        ("drop,a,b,c,d,1,1e-3,V,,,", (0.001, 1e-4, 1.0)),
        ("ohms,a,b,,,,0R42,ohm,,,", (0.42, 0.1, 1.0)),
        ("ohms,a,b,,,,420,mΩ,1,4,", (0.42, 1e-3, 1.0)),
        ("warm,u1,,,,,12,°C,,,", (12.0, 1.0, 1.0)),
        ("lifted,u1,,,,,gone,,,,", (1.0, 0.0, 1.0)),
        ("lifted,u1,,,,,Remains,,,,", (0.0, 0.0, 1.0)),
    ],
)
def test_a_readings_figures_are_si_however_they_are_written(row, expected):
    for text in (HEAD + row, "\ufeff" + HEAD + row + "\r\n"):
        (reading,), wrong = read_trace(text)
        assert wrong == []
        assert (reading.value, reading.resolution, reading.amps) == pytest.approx(expected)
    assert reading.line == 2


def test_a_table_with_semicolons_and_decimal_commas_is_read():
    text = (HEAD + "drop,a,b,c,d,1.5,0.0031,V,,,").replace(",", ";").replace(".", ",")
    (reading,), wrong = read_trace(text)
    assert wrong == [] and (reading.value, reading.amps) == pytest.approx((0.0031, 1.5))


def test_readings_are_the_same_after_a_round_trip():
    readings = [
        TraceReading(Kind.DROP, "a", "b", "c", "d", 0.75, -0.00123, 1e-4, line=2),
        TraceReading(Kind.OHMS, "a", "b", value=0.42, resolution=0.01, wires=4, line=3),
        TraceReading(Kind.OHMS, "a", "b", value=0.5, resolution=0.1, is_nulled=True, line=4),
        TraceReading(Kind.WARM, "u1", value=2.0, resolution=1.0, is_rank=True, line=5),
        TraceReading(Kind.WARM, "u1", value=14.5, resolution=1.0, line=6),
        TraceReading(Kind.LIFTED, "u1", value=1.0, line=7),
    ]
    assert read_trace(trace_text(readings)) == (readings, [])


@pytest.mark.parametrize(
    ("row", "why"),
    [
        (",a,b,c,d,1,1,V,,,", "kind"),
        ("drop,,b,c,d,1,1,V,,,", "plus"),
        ("drop,a,b,c,d,0,1,V,,,", "above 0"),
        ("drop,a,b,c,d,1,inf,V,,,", "value"),
        ("drop,a,b,c,d,1,,V,,,", "value is missing"),
        ("drop,a,b,c,d,1,1,V,-1,,", "resolution"),
        ("ohms,a,b,,,,1,V,,,", "not “V”"),
        ("ohms,a,b,,,,1,ohm,,3,", "wires"),
        ("warm,u1,,,,,hot,°C,,,", "value"),
        ("drop,a,b,c,d,1,1,V,,,,extra", "more fields"),
    ],
)
def test_a_row_that_cannot_be_read_is_named(row, why):
    found, wrong = read_trace(HEAD + row)
    assert found == [] and [t.line for t in wrong] == [2] and why in wrong[0].text


def test_a_table_without_its_heading_is_refused():
    with pytest.raises(InputError, match="lacks"):
        read_trace("a,b\n1,2\n")


TREE = Tree(
    "+5 V",
    (TreeItem("psu", "", "supply", 1.0, 0.0), TreeItem("mb", "psu", "board", 4.0, 2.0),
     TreeItem("c1", "mb", "card", 1.0, 0.5)),
)  # fmt: skip


def test_a_tree_is_the_same_after_a_round_trip_in_any_order():
    data = tree_json(TREE)
    assert read_tree(json.dumps(data)) == TREE
    turned = {**data, "items": data["items"][::-1]}
    assert set(read_tree(json.dumps(turned)).items) == set(TREE.items)


@pytest.mark.parametrize(
    ("row", "attached", "ohm"),
    [
        ("psu;mb;c1,0.4", {"psu", "mb", "c1"}, 0.4),
        ("mb,0R4", {"psu", "mb"}, 0.4),
        ("psu,OL", {"psu"}, float("inf")),
        ('"psu, mb",2k6', {"psu", "mb"}, 2600.0),
    ],
)
def test_the_root_is_always_attached(row, attached, ohm):
    (reading,), troubles = read_sets("attached,ohms\n" + row, TREE)
    assert troubles == [] and (reading.attached, reading.ohm) == (attached, ohm)


def test_a_child_without_its_parent_does_not_count_and_is_said_to():
    (reading,), troubles = read_sets("attached,ohms\npsu;c1,0.4\n", TREE)
    assert reading.attached == {"psu"}
    assert [t.line for t in troubles] == [2] and "c1 hangs on mb" in troubles[0].text
