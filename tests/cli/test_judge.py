"""`hale-rail judge`, by the meaning of the rules: a unit, what was read, and what must follow."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner

from hale_rail.cli import main

UNIT: dict[str, Any] = {
    "name": "Test flyback", "topology": "flyback", "year": 1986,
    "rails": [
        {"key": "+5 V", "nominal_v": 5, "regulation": "main", "load_max_a": 5, "ohm_isolated": 150},
        {"key": "+12 V", "nominal_v": 12, "regulation": "auxiliary", "load_max_a": 2},
        {"key": "−5 V", "nominal_v": -5, "regulation": "linear"},
    ],
    "parts": [
        {"ref": "F1", "kind": "fuse", "line": "main", "value": "1.6A"},
        {"ref": "CX1", "kind": "capacitor", "family": "suppression-paper", "class": "X2",
         "line": "main", "value": "100n", "volt": 250},
        {"ref": "BR1", "kind": "bridge", "line": "main"},
        {"ref": "C1", "kind": "capacitor", "family": "aluminium", "line": "main",
         "value": "100uF/400V", "role": "bulk"},
        {"ref": "Q1", "kind": "mosfet", "line": "main"},
        {"ref": "Q2", "kind": "transistor", "line": "main", "material": "darlington"},
        {"ref": "D5", "kind": "schottky", "line": "+5 V"},
        {"ref": "C10", "kind": "capacitor", "family": "aluminium", "line": "+5V",
         "value": "1000u", "volt": 10, "bank": "A"},
        {"ref": "C11", "kind": "capacitor", "family": "aluminium", "line": "+5 V",
         "value": 0.001, "volt": 10, "bank": "A"},
        {"ref": "C20", "kind": "capacitor", "family": "film", "line": "+5 V", "value": "104",
         "volt": 63},
        {"ref": "ZD1", "kind": "zener", "line": "+12 V", "value": "12"},
        {"ref": "R9", "kind": "resistor", "line": "-5 V", "value": "4k7"},
        {"ref": "P1", "kind": "connector", "rails": ["+5 V", "+12V", "-5 V"]},
        {"ref": "Board", "kind": "board", "board": "P1", "rails": ["+5 V"]},
    ],
}  # fmt: skip


def run(tmp_path: Path, readings: str, *options: str, unit: object = UNIT) -> Any:
    sheet, rows = tmp_path / "unit.json", tmp_path / "readings.csv"
    sheet.write_text(unit if isinstance(unit, str) else json.dumps(unit), encoding="utf-8")
    rows.write_text(readings, encoding="utf-8")
    return CliRunner().invoke(main, ["judge", str(sheet), str(rows), *options])


def judge(tmp_path: Path, *rows: str, options: tuple[str, ...] = ()) -> Any:
    """The JSON of a unit with these readings: `target|procedure|condition|value|pair|amps`."""
    lines = ["target,procedure,condition,value,pair,amps"]
    for row in rows:
        cells = [*row.split("|"), "", ""][:6]
        lines.append(",".join(f'"{cell}"' for cell in cells))
    result = run(tmp_path, "\n".join(lines) + "\n", "--json", *options)
    assert result.exit_code == 0, result.output
    return json.loads(result.stdout)


def part(found: Any, ref: str) -> tuple[str, str]:
    one = next(p for p in found["parts"] if p["ref"] == ref)
    return one["verdict"], one["action"]


OFF = ("|power||off", "C1|store||2", "C10|store||1", "C20|store||0")


@pytest.mark.parametrize(
    ("rows", "state", "touch", "meter"),
    [
        ((), "unknown", False, False),
        (("C1|store||2",), "unknown", False, False),
        (("|power||off",), "waiting", False, False),
        (("|power||off", "C1|store||60"), "dead", True, False),
        (("|power||off", "C1|store||2", "C11|store||1"), "dead", True, True),
        (("|power||off", "C1|store||2", "+5 V|volts|no-load|0"), "live", False, False),
        (("|power||mains",), "live", False, False),
        ((*OFF, "+5V|volts|machine|5.0", "|power||off"), "waiting", False, False),
        (("|power||off", "C1|store||310", "C1|store||12"), "dead", True, False),
    ],
)
def test_energy(
    tmp_path: Path, rows: tuple[str, ...], state: str, touch: bool, meter: bool
) -> None:
    energy = judge(tmp_path, *rows)["energy"]
    assert (energy["state"], energy["touch_safe"], energy["meter_safe"]) == (state, touch, meter)
    assert [store["ref"] for store in energy["stores"]] == ["C1", "C10", "C11"]


@pytest.mark.parametrize(
    ("rows", "ref", "verdict", "action"),
    [
        ((), "F1", "unread", "measure"),
        ((), "CX1", "unread", "replace"),  # paper past 25 years, by its unit
        (("CX1|c|lifted|100n",), "CX1", "worn", "replace"),
        (("F1|ohms|in-circuit|0.2",), "F1", "good", "keep"),
        (("F1|look||blackened",), "F1", "failed", "replace"),
        (("BR1|diode|in-circuit|short|~1>+",), "BR1", "unproven", "lift"),
        (("BR1|diode|lifted|short|~1>+",), "BR1", "failed", "replace"),
        (("BR1|diode|in-circuit|OL|~1>+", "BR1|diode|in-circuit|OL|+>~1"), "BR1", "failed",
         "replace"),
        # a bank is good only by C and ESR, on whichever member
        (("C10|c|in-circuit|1980u",), "C10", "unproven", "measure"),
        (("C10|c|in-circuit|1980u", "C11|esr|in-circuit|60m"), "C11", "good", "keep"),
        (("C10|c|in-circuit|1360u",), "C11", "failed", "replace"),
        (("C10|c|in-circuit|1580u",), "C11", "unproven", "lift"),
        (("C10|esr|in-circuit|short",), "C10", "unproven", "measure"),
        (("C1|esr|lifted|0.7",), "C1", "good", "keep"),
        (("C1|ohms|lifted|20k",), "C1", "failed", "replace"),  # 20 mA of 400 µA
        (("C20|c|lifted|93n",), "C20", "worn", "replace"),
        (("Q1|diode|lifted|10|D>S", "Q1|diode|lifted|10|S>D"), "Q1", "unproven", "measure"),
        (("Q1|diode|lifted|10|D>S", "Q1|diode|lifted|10|S>D", "Q1|diode|lifted|11|S>D"), "Q1",
         "failed", "replace"),
        (("Q2|diode|in-circuit|1.2|B>E",), "Q2", "unproven", "measure"),
        (("ZD1|volts||12.5",), "ZD1", "good", "keep"),
        (("ZD1|volts|lifted|14",), "ZD1", "failed", "replace"),
        (("R9|ohms|in-circuit|5k1",), "R9", "unproven", "lift"),
        (("R9|ohms|in-circuit|5k6",), "R9", "failed", "replace"),
        # a part that was replaced is read again
        (("F1|ohms|in-circuit|OL", "F1|replaced||1.6 A slow"), "F1", "unread", "measure"),
        (("F1|ohms|in-circuit|OL", "F1|replaced||1.6 A slow", "F1|ohms|in-circuit|0.1"), "F1",
         "good", "keep"),
    ],
)  # fmt: skip
def test_parts(tmp_path: Path, rows: tuple[str, ...], ref: str, verdict: str, action: str) -> None:
    found = judge(tmp_path, *rows)
    assert part(found, ref) == (verdict, action)
    assert found["problems"] == []
    assert all(r["code"] and r["text"] for p in found["parts"] for r in p["reasons"])


def test_an_accuracy_of_its_own_moves_a_proof(tmp_path: Path) -> None:
    head = "target,procedure,condition,value,accuracy\n"
    for accuracy, verdict in (("3%+1", "unproven"), ("1%+1", "failed"), ("1%+10u", "failed")):
        result = run(tmp_path, f"{head}C10,c,in-circuit,1580u,{accuracy}\n", "--json")
        assert part(json.loads(result.stdout), "C10")[0] == verdict


@pytest.mark.parametrize(
    ("rows", "key", "load", "verdict"),
    [
        (("+5 V|volts|machine|5.02",), "+5 V", "machine", "pass"),
        (("+5|volts|machine|4.60..5.10",), "+5 V", "machine", "fail"),
        (("+5 V|volts|no-load|4.2",), "+5 V", "no-load", "not-judged"),
        (("-5 V|volts|no-load|0",), "−5 V", "no-load", "not-judged"),
        (("−5 V|volts|dummy|5.0",), "−5 V", "dummy", "not-judged"),  # the leads are turned
        (("+5 V|volts|machine@far|4.5",), "+5 V", "machine@far", "fail"),
    ],
)
def test_rails(tmp_path: Path, rows: tuple[str, ...], key: str, load: str, verdict: str) -> None:
    found = judge(tmp_path, *rows)
    rail = next(r for r in found["rails"] if r["key"] == key)
    assert rail["volts"][load]["verdict"] == verdict


@pytest.mark.parametrize(
    ("rows", "codes"),
    [
        (("+5 V|volts|machine|4.4", "+12 V|volts|machine|10.6"), ["all-low"]),
        (("+12 V|volts|machine|12.1", "−5 V|volts|machine|-0.2"), ["minus5-missing", "one-off"]),
        (("−5 V|volts|dummy|5.0",), ["sign"]),
        (("+5 V|volts|machine@supply|5.05||4", "+5 V|volts|machine@far|4.5||4"), ["harness-drop"]),
    ],
)
def test_patterns(tmp_path: Path, rows: tuple[str, ...], codes: list[str]) -> None:
    assert [p["code"] for p in judge(tmp_path, *rows)["patterns"]] == codes


def test_grounds(tmp_path: Path) -> None:
    found = judge(
        tmp_path, "+5 V|ground|attached|0.7", "+5 V|ground|isolated|148",
        "+5 V|inject|attached|0.4 V 120 mA", "+12 V|ground|attached|5",
    )  # fmt: skip
    five, twelve, _ = (rail["ground"] for rail in found["rails"])
    assert (five["attached"], five["isolated"], five["injected"]) == ("short", "good", "suspicious")
    assert "behind P1" in five["text"]
    assert twelve["attached"] == "suspicious"  # below 12 V / 2 A
    assert twelve["injected"] is None


def test_what_cannot_be_is_named_with_its_line_and_the_rest_is_judged(tmp_path: Path) -> None:
    found = judge(
        tmp_path, "Z9|esr|in-circuit|0.2", "F1|esr|in-circuit|0.2", "F1|ohms|sideways|0.2",
        "C1|c|lifted|10mF", "+5 V|esr|in-circuit|1", "F1|volts|dummy|5", "+5 V|volts||5",
        "BR1|diode|in-circuit|0.5", "F1|ohms|in-circuit|0.2", "|power||hamster",
        "F1|look||sad", "bridge|test||perhaps", "F1|ohms|in-circuit|",
    )  # fmt: skip
    assert [problem["line"] for problem in found["problems"]] == [*range(2, 10), 11, 12, 13, 14]
    assert all(problem["text"] for problem in found["problems"])
    assert part(found, "F1") == ("good", "keep")


def test_a_touch_limit_and_schools(tmp_path: Path) -> None:
    rows = ("|power||off", "C1|store||45")
    assert judge(tmp_path, *rows)["energy"]["touch_safe"]
    lower = judge(tmp_path, *rows, options=("--touch-limit", "30"))
    assert not lower["energy"]["touch_safe"]
    volts = "+5 V|volts|machine|4.60"
    lenient = judge(tmp_path, volts, options=("--tolerance", "lenient", "--school", "blanket"))
    assert lenient["rails"][0]["volts"]["machine"]["verdict"] == "pass"


@pytest.mark.parametrize(
    ("unit", "says"),
    [
        ("{", "line 1"),
        ("[]", "not an object"),
        ('{"topology": "steam"}', "topology"),
        ({**UNIT, "parts": [{"ref": "X1", "kind": "flux"}]}, "parts[0] (X1)"),
        ({**UNIT, "parts": [{"ref": "C1", "kind": "capacitor", "value": "10mF"}]}, "10 µF or 10"),
        ({**UNIT, "rails": [{"key": "+5 V", "nominal_v": "lots"}]}, "rails[0]"),
        ({**UNIT, "year": "9" * 5000}, "year"),
        ('{"topology": "linear", "year": ' + "9" * 5000 + "}", "unit"),
        ({**UNIT, "year": float("nan")}, "NaN"),
        ("[" * 100_000, "unit"),
    ],
)
def test_a_unit_that_cannot_be_exits_2_and_says_where(
    tmp_path: Path, unit: object, says: str
) -> None:
    result = run(tmp_path, "target,procedure,condition,value\n", "--json", unit=unit)
    assert (result.exit_code, result.stdout) == (2, "")
    assert "unit.json" in result.stderr
    assert says in result.stderr


@pytest.mark.parametrize("text", ["", "\x00\x01", "a,b\n1,2\n", "target;procedure\n"])
def test_readings_that_are_none_exit_2(tmp_path: Path, text: str) -> None:
    result = run(tmp_path, text, "--json")
    assert (result.exit_code, result.stdout) == (2, "")
    assert "readings.csv" in result.stderr


def test_a_spreadsheets_own_ways_of_saving_are_read(tmp_path: Path) -> None:
    text = "target;procedure;condition;value\r\n;;;\r\nF1;ohms;in-circuit;0,2\r\n"
    rows = tmp_path / "r.csv"
    sheet = tmp_path / "unit.json"
    sheet.write_text(json.dumps(UNIT), encoding="utf-16")
    for encoding in ("utf-8-sig", "utf-16", "utf-16-le"):
        rows.write_bytes(text.encode(encoding))
        result = CliRunner().invoke(main, ["judge", str(sheet), str(rows), "--json"])
        assert result.exit_code == 0, result.output
        assert part(json.loads(result.stdout), "F1") == ("good", "keep")
    words = CliRunner().invoke(main, ["judge", str(sheet), str(rows)]).stdout
    assert "F1           good      keep" in words


def test_the_documented_example_is_judged_as_it_was_settled_by_hand() -> None:
    folder = Path(__file__).parents[2] / "docs" / "examples"
    files = [str(folder / name) for name in ("unit.json", "readings.csv")]
    said = json.loads(CliRunner().invoke(main, ["judge", *files, "--json"]).stdout)
    verdicts = {part["ref"]: part["verdict"] for part in said["parts"]}
    expected = {"F1": "failed", "C10": "failed", "C11": "failed", "C14": "good", "BR1": "unproven"}
    assert {ref: verdicts[ref] for ref in expected} == expected
    grounds = {rail["key"]: rail["ground"] for rail in said["rails"]}
    assert (grounds["+5 V"]["attached"], grounds["+5 V"]["isolated"]) == ("short", "good")
    energy = said["energy"]
    assert (energy["state"], energy["touch_safe"], energy["meter_safe"]) == ("dead", True, False)
