"""Behind the supply from a terminal: dumps, memory, a simulated board, and what is refused."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from hale_rail.core.simulate.logic_board import LogicBoard
from hale_rail.errors import InputError
from hale_rail.formats.units.unit_json import read_unit
from tests.cli.running import run_in

TABLE = "bank,bit,ref\n" + "".join(f"{b},{n},U{5 + 8 * b + n}\n" for b in (0, 1) for n in range(8))
UNIT = {
    "name": "Lathe", "topology": "linear",
    "rails": [{"key": "+5 V", "nominal_v": 5, "load_max_a": 2}],
    "parts": [
        {"ref": "T1", "kind": "transformer"},
        {"ref": "U20", "kind": "chip", "role": "processor", "package": 40, "active": "low"},
        {"ref": "U21", "kind": "chip", "role": "clock"},
        {"ref": "M1", "kind": "chip", "role": "memory", "bank": "0", "bits": [0]},
        {"ref": "M2", "kind": "chip", "role": "memory", "bank": "0", "bits": [1],
         "pins": [{"name": "14", "use": "data-out"}]},
        {"ref": "X1", "kind": "crystal", "value": 4e6},
        {"ref": "XU20", "kind": "socket"},
        {"ref": "BT1", "kind": "battery", "value": 3.6},
    ],
}  # fmt: skip
ASK = "target,procedure,condition,value,pair\n"


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "t.csv").write_text(TABLE, encoding="utf-8")
    (tmp_path / "u.json").write_text(json.dumps(UNIT), encoding="utf-8")
    (tmp_path / "good.bin").write_bytes(bytes(range(256)))
    (tmp_path / "stuck.bin").write_bytes(bytes(b & 0xDF for b in range(256)))
    return tmp_path


def asked(folder: Path, rows: str, *options: str) -> list[str]:
    (folder / "ask.csv").write_text(ASK + rows, encoding="utf-8")
    code, out, err = run_in(folder, "simulate", "u.json", "--ask", "ask.csv", "--json", *options)
    assert code == 0, err
    return [row["value"] for row in json.loads(out)["readings"]]


def test_a_dump_is_told_by_bit_and_by_its_checksum(folder: Path) -> None:
    code, out, _ = run_in(folder, "rom", "stuck.bin", "good.bin", "--json")
    told = json.loads(out)
    assert (code, told["equal"], told["size"], told["differing"]) == (0, False, 256, 128)
    assert told["bits"] == {"5": {"differing": 128, "reads": 0}}
    assert told["address_lines"] == {} and "output 5" in told["text"]
    assert run_in(folder, "rom", "good.bin", "--sum", "sum 7F80")[1].startswith("Equal")


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (("rom", "good.bin"), "one of the two"),
        (("rom", "good.bin", "good.bin", "--sum", "1"), "one of the two"),
        (("rom", "gone.bin", "good.bin"), "gone.bin cannot be read"),
        (("rom", "good.bin", "--sum", "perhaps"), "--sum: “perhaps” is no checksum"),
        (("memory", "t.csv", "16:37"), "16:37: “16”: hex or decimal"),
        (("memory", "t.csv", "U99"), "no row of the table"),
        (("memory", "u.json", "FF:EF"), "u.json"),
    ],
)
def test_what_cannot_be_answered_is_told_and_exits_2(
    folder: Path, words: tuple[str, ...], says: str
) -> None:
    code, out, err = run_in(folder, *words)
    assert (code, out) == (2, "")
    assert says in err


def test_memory_names_chips_by_bank_and_asks_for_one_that_was_not_said(folder: Path) -> None:
    told = json.loads(run_in(folder, "memory", "t.csv", "1:FF:F7", "--json")[1])
    assert (told["bits"], [chip["ref"] for chip in told["chips"]]) == ([3], ["U16"])
    told = json.loads(run_in(folder, "memory", "t.csv", "FF:F7", "--json")[1])
    assert [chip["ref"] for chip in told["chips"]] == ["U8", "U16"]
    assert "Say in which bank" in told["next"] and "buffer" in told["common"][0]
    assert json.loads(run_in(folder, "memory", "t.csv", "16:37", "--base", "decimal", "--json")[1])[
        "bits"
    ] == [0, 2, 4, 5]


#: fault -> what its pins and its memory answer
ANSWERS = {
    "": ["mains", "p 4M", "lh", "p", "0xAA 0xAA", "0x55 0x55"],
    "stuck:M2": ["mains", "p 4M", "lh", "p", "0xAA 0xA8", "0x55 0x55"],
    "dead:M1": ["mains", "p 4M", "lh", "p", "0xAA 0xAB", "0x55 0x55"],
    "bridge:M1": ["mains", "p 4M", "lh", "p", "0xAA 0xA8", "0x55 0x54"],
    "dead:U21": ["mains", "l", "lh", "l"],
    "open-socket:U20": ["mains", "d", "lh", "l"],
    "stuck:U20": ["mains", "p 4M", "lh", "l"],
}


@pytest.mark.parametrize("fault", ANSWERS)
def test_a_simulated_board_answers_at_its_pins_and_in_its_memory(folder: Path, fault: str) -> None:
    rows = ",power,,mains,\nU20.CLK,signal,,,\nU20.RESET,signal,,,\nU20.D0,signal,,,\n"
    rows += "0,memory,,,\n0,memory,,0x55,\n"
    given = ("--fault", fault) if fault else ()
    assert asked(folder, rows, *given) == ANSWERS[fault]


def test_memory_is_read_of_a_machine_that_runs_in_a_bank_that_is_there(folder: Path) -> None:
    rows = "0,memory,,,\n,power,,mains,\nbank 0,memory,,0x55,\n7,memory,,,\n"
    assert asked(folder, rows) == ["mains", "0x55 0x55"]


@pytest.mark.parametrize(
    ("volts", "read"),
    [((5.0, -5.0), 0x55), ((5.0, -4.6), 0x55), ((5.0, -0.1), 0xFF), ((4.4, -5.0), None)],
)
def test_a_bank_holds_nothing_without_its_rails(
    volts: tuple[float, float], read: int | None
) -> None:
    chip = {"ref": "M9", "kind": "chip", "role": "memory", "bank": "1", "rails": ["+5 V", "-5 V"]}
    rails = [{"key": "+5 V", "nominal_v": 5}, {"key": "-5 V", "nominal_v": -5}]
    sheet = read_unit(json.dumps(UNIT | {"rails": rails, "parts": [*UNIT["parts"], chip]}))
    board = LogicBoard(sheet, None, 1)
    there = {rail.key: volt for rail, volt in zip(sheet.rails, volts, strict=True)}
    if read is None:
        with pytest.raises(InputError, match="does not run"):
            board.memory("1", 0x55, there)
    else:
        assert board.memory("1", 0x55, there) == read


def test_a_stuck_driver_shorts_its_line_and_volts_are_those_of_the_rail(folder: Path) -> None:
    rows = "U20.D0,ohms,,,D0>GND\n,power,,mains,\nU20.VCC,signal,,,\nU20.D0,ohms,,,D0>GND\n"
    ohms, _, volts, live = asked(folder, rows, "--fault", "stuck:U20")
    assert 5 < float(ohms) < 15 and 4.8 < float(volts) < 5.1 and live == "overload"


def test_what_was_read_behind_a_supply_is_read_back_from_a_file(folder: Path) -> None:
    rows = (
        "U20.CLK,signal,,p 4M,\nU20.D3,signal,,m,\nU20.D3,ohms,,4k,D3>GND\n0,memory,,FF FD,\n"
        "0,memory,,55 55,\nU20,swap,,substituted stock stayed,\nM2,rom,,equal,\n,work,,clean,\n"
        ",symptom,,no-picture,\nU20.FROB,signal,,h,\nU20,swap,,frob,\n0,memory,,zz,\n"
    )
    (folder / "r.csv").write_text(ASK + rows, encoding="utf-8")
    code, out, _ = run_in(folder, "judge", "u.json", "r.csv", "--json")
    assert code == 0
    assert [problem["line"] for problem in json.loads(out)["problems"]] == [11, 12, 13]
