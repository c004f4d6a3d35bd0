"""`trace` and `isolate` from outside: their JSON, and what broken files are told."""

from __future__ import annotations

import json

import pytest
from click.testing import CliRunner

from hale_rail.cli import main

BOARD = {
    "rail": {
        "pads": [{"id": "P1", "x": 0, "y": 0}, {"id": "a", "x": 20, "y": 0},
                 {"id": "b", "x": 40, "y": 0}, {"id": "c", "x": 60, "y": 0}],
        "segments": [{"a": "P1", "b": "a", "milliohm": 5},
                     {"a": "a", "b": "b", "length_mm": 20, "width_mm": 2, "copper_um": 35},
                     {"a": "b", "b": "c", "width_mm": 2}],
    },
    "ground": "ideal",
    "parts": [{"id": "u1", "ref": "C9", "family": "tantalum", "rail_pad": "a"},
              {"id": "u2", "ref": "C9", "family": "tantalum", "rail_pad": "c"},
              {"id": "u3", "ref": "IC1", "family": "ic", "rail_pad": "b", "prior": 3}],
}  # fmt: skip
HEAD = "kind,plus,minus,inject,return,amps,value,unit,resolution\n"
TREE = {
    "rail": "+12 V",
    "items": [{"id": "psu", "parent": None, "name": "supply", "prior": 1, "minutes": 0},
              {"id": "mb", "parent": "psu", "name": "main board", "prior": 5, "minutes": 4},
              {"id": "d", "parent": "psu", "name": "disk", "prior": 3, "minutes": 1}],
}  # fmt: skip


def run(tmp_path, command, first, readings):
    board, rows = tmp_path / "first.json", tmp_path / "readings.csv"
    board.write_text(first if isinstance(first, str) else json.dumps(first))
    rows.write_text(readings)
    return CliRunner().invoke(main, [command, str(board), str(rows), "--json"])


def traced(tmp_path, readings, board=BOARD):
    done = run(tmp_path, "trace", board, HEAD + readings)
    assert done.exit_code == 0, done.stderr
    return json.loads(done.stdout)


def test_a_heading_alone_gives_the_priors_and_a_first_probe(tmp_path):
    found = traced(tmp_path, "")
    chance = {c["id"]: c["probability"] for c in found["candidates"]}
    assert chance["u1"] == pytest.approx(chance["u3"] * 10 / 3)
    assert found["next"]["kind"] == "drop" and 0 < found["next"]["bits"] < 2
    assert found["problems"] == [] and not found["misfit"] and found["pairs"] == []
    assert sum(chance.values()) + found["elsewhere"] == pytest.approx(1)


def test_units_are_scaled_and_the_part_is_found(tmp_path):
    found = traced(
        tmp_path,
        "drop,P1,a,P1,GND,1,5.1,mV,0.1\ndrop,a,b,P1,GND,1000 mA,0.0049,V,0.0001\n"
        "drop,c,b,P1,GND,1,-5,mV,0.1\n",
    )
    assert found["candidates"][0]["id"] == "u2" and found["candidates"][0]["ref"] == "C9"
    assert found["candidates"][0]["probability"] > 0.95 and found["next"] is None
    assert "C9 (u2)" in found["advice"]


@pytest.mark.parametrize(
    ("row", "why"),
    [
        ("drip,P1,a,P1,GND,1,5,mV,", "kind “drip”"),
        ("drop,P1,zz,P1,GND,1,5,mV,", "no pad “zz”"),
        ("drop,P1,a,P1,GND,,5,mV,", "amps is needed"),
        ("drop,P1,a,P1,GND,-1,5,mV,", "above 0"),
        ("drop,P1,a,P1,GND,1,nan,mV,", "value"),
        ("drop,P1,a,P1,GND,1,5,ohm,", "read in V"),
        ("drop,a,P1,P1,GND,1,5,mV,", "leads swapped?"),
        ("drop,P1,a,P1,GND,1,5,V,", "is the unit right"),
        ("drop,P1,a,P1,P1,1,5,mV,", "in and out"),
        ("lifted,u1,,,,,perhaps,,", "remains or gone"),
        ("lifted,u9,,,,,gone,,", "no part “u9”"),
        ("ohms,P1,GND,,,,OL,ohm,", "value"),
    ],
)
def test_a_row_that_cannot_be_used_is_named_with_its_line(tmp_path, row, why):
    found = traced(tmp_path, "drop,P1,a,P1,GND,1,5,mV,0.1\n" + row + "\n")
    assert [p["line"] for p in found["problems"]] == [3]
    assert why in found["problems"][0]["text"]


def broken(**changes):
    return {**BOARD, **changes}


def rail(**changes):
    return broken(rail={**BOARD["rail"], **changes})


@pytest.mark.parametrize(
    ("board", "why"),
    [
        ("[1", "line 1"),
        ("{}", "rail is missing"),
        ({k: v for k, v in BOARD.items() if k != "ground"}, "ground is missing"),
        (rail(pads=[*BOARD["rail"]["pads"], {"id": "a"}]), "“a” is listed twice"),
        (rail(segments=[{"a": "P1", "b": "q", "milliohm": 1}]), "“q” is not a pad"),
        (rail(segments=[{"a": "P1", "b": "a", "milliohm": 0}]), "rail.segments[0]"),
        (rail(segments=[{"a": "P1", "b": "a", "length_mm": -4, "width_mm": 1}]), "length_mm"),
        (rail(segments=[{"a": "P1", "b": "P1", "milliohm": 1}]), "both"),
        (rail(segments=[{"a": "P1", "b": "a", "length_mm": 4}]), "width_mm"),
        ('{"rail":{"pads":[{"id":"a","x":NaN}]},"ground":"ideal"}', "NaN"),
        (broken(parts=[{"id": "u", "rail_pad": "zz"}]), "“zz” is not a pad of the rail"),
        (broken(ground={"pads": [{"id": "a"}]}), "in both the rail and the ground"),
        (broken(segment_tolerance=2), "segment_tolerance"),
    ],
)
def test_a_board_that_cannot_be_is_told_with_its_place(tmp_path, board, why):
    done = run(tmp_path, "trace", board, HEAD)
    assert done.exit_code == 2 and done.stdout == ""
    assert "first.json" in done.stderr and why in done.stderr
    assert "Traceback" not in done.stderr


def test_a_file_beyond_all_measure_is_told_at_once(tmp_path):
    done = run(tmp_path, "trace", '{"rail":' + " " * (33 << 20), HEAD)
    assert done.exit_code == 2 and "larger than 32 MB" in done.stderr


def test_disconnected_copper_is_a_problem_by_its_id(tmp_path):
    board = rail(segments=BOARD["rail"]["segments"][:2])
    found = traced(tmp_path, "", board)
    assert [p["id"] for p in found["problems"]] == ["c", "u2"]


def test_a_ground_net_and_a_sheet_are_traced(tmp_path):
    pads = [{"id": f"g{i}", "x": 20 * i, "y": 10} for i in range(4)]
    parts = [{**p, "ground_pad": f"g{i}"} for i, p in enumerate(BOARD["parts"], 1)]
    lines = [{"a": f"g{i}", "b": f"g{i + 1}", "milliohm": 5} for i in range(3)]
    row = "drop,g2,g0,P1,g0,1,9.8,mV,0.1\n"
    for ground in ({"pads": pads, "segments": lines}, {"pads": pads, "sheet_um": 35}):
        found = traced(tmp_path, row, broken(ground=ground, parts=parts))
        assert found["problems"] == []
        assert found["next"] is None or found["next"]["return"] in {None, *(p["id"] for p in pads)}
    bad = broken(ground={"pads": pads, "segments": lines})
    assert run(tmp_path, "trace", bad, HEAD).exit_code == 2


def isolated(tmp_path, rows):
    done = run(tmp_path, "isolate", TREE, "attached,ohms\n" + rows)
    assert done.exit_code == 0, done.stderr
    return json.loads(done.stdout)


def test_the_assembly_is_found_and_open_readings_are_allowed(tmp_path):
    found = isolated(tmp_path, "psu;mb;d,0.4\npsu;mb,OL\n")
    assert found["items"][2]["id"] == "d" and found["items"][2]["probability"] > 0.95
    assert found["items"][2]["ohms"] == pytest.approx(0.4)
    assert found["next"] is None and "disk" in found["verdict"]
    first = isolated(tmp_path, "")
    assert set(first["next"]) == {"detach", "reattach", "bits", "minutes"}


@pytest.mark.parametrize(
    ("row", "why"),
    [
        ("psu;zz,1", "“zz” is not an item"),
        ("psu,silent", "will not start unloaded is not a short"),
        ("psu,-1", "ohms"),
        ("psu,", "ohms is missing"),
    ],
)
def test_a_set_that_cannot_be_is_named_with_its_line(tmp_path, row, why):
    found = isolated(tmp_path, row + "\n")
    assert [p["line"] for p in found["problems"]] == [2] and why in found["problems"][0]["text"]


@pytest.mark.parametrize(
    ("items", "why"),
    [
        ([], "one root"),
        ([{"id": "a"}, {"id": "b"}], "one root"),
        ([{"id": "a"}, {"id": "a", "parent": "a"}], "is listed twice"),
        ([{"id": "a"}, {"id": "b", "parent": "zz"}], "“zz” is not an item"),
        ([{"id": "a"}, {"id": "b", "parent": "c"}, {"id": "c", "parent": "b"}], "circle"),
        ([{"id": "a", "prior": -1}], "prior"),
        ([{"id": "a", "prior": 0}], "above 0"),
    ],
)
def test_a_tree_that_cannot_be_is_told(tmp_path, items, why):
    done = run(tmp_path, "isolate", {"rail": "x", "items": items}, "attached,ohms\n")
    assert done.exit_code == 2 and why in done.stderr
