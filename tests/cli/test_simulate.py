"""`simulate` and `practice --auto` from the command line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from click.testing import CliRunner, Result

from hale_rail.cli import main
from hale_rail.core.supply.sheet import Topology
from hale_rail.core.supply.templates import template
from hale_rail.formats.readings.readings_csv import read_readings
from hale_rail.formats.units.unit_json import write_unit

HEAD = "target,procedure,condition,value,pair,taken_at\n"


def simulate(folder: Path, asks: list[str], *more: str, head: str = HEAD) -> Result:
    unit, ask = folder / "unit.json", folder / "ask.csv"
    unit.write_text(write_unit(template(Topology.FLYBACK)), encoding="utf-8")
    ask.write_text(head + "\n".join(asks) + "\n", encoding="utf-8")
    return CliRunner().invoke(main, ["simulate", str(unit), "--ask", str(ask), *more])


def test_the_answer_is_a_file_of_readings_and_says_what_it_cannot(tmp_path: Path) -> None:
    asks = [
        "F1,ohms,in-circuit,,,2026-03-02T10:00:00",
        "X9,ohms,in-circuit,,,",
        "+5 V,volts,machine@far,,,",
        "vents,test,,sound,,",
        "F1,ohms,in-circuit,,,2026-03-02T09:00:00",
        "F1,ohms,on-fire,,,",
        ",power,,mains,,",
    ]
    found = json.loads(simulate(tmp_path, asks, "--seed", "7", "--json").stdout)
    assert [p["line"] for p in found["problems"]] == [3, 5, 6, 7]
    assert [r["procedure"] for r in found["readings"]] == ["ohms", "volts", "power"]
    assert found["readings"][0]["taken_at"].startswith("2026-03-02T10:00:00")
    assert found["readings"][1]["taken_at"].startswith("2026-03-02T10:01:00")
    assert found["readings"][1]["condition"] == "machine@far"
    assert found["truth"] is None
    plain = simulate(tmp_path, asks, "--seed", "7")
    assert plain.exit_code == 0
    rows, wrong = read_readings(plain.stdout)
    assert [row.value for row in rows] == [r["value"] for r in found["readings"]]
    assert wrong == []


def test_the_truth_is_told_when_asked_for(tmp_path: Path) -> None:
    found = json.loads(simulate(tmp_path, [], "--fault", "short:q1", "--truth", "--json").stdout)[
        "truth"
    ]
    assert found["Q1"]["fault"] == "short:Q1"
    assert 0.05 < found["Q1"]["short_ohm"] < 0.3
    assert found["C10"]["farad"] == pytest.approx(2200e-6, rel=0.2)


def test_a_waveform_is_written_to_its_file(tmp_path: Path) -> None:
    found = simulate(tmp_path, ["+5 V,waveform,machine,,ripple.csv,", "+5 V,waveform,machine,,,"])
    assert found.exit_code == 0
    lines = (tmp_path / "ripple.csv").read_text(encoding="utf-8").splitlines()
    assert lines[0] == "Time,CH1"
    assert len(lines) == 80_002
    assert "needs the file" in found.stderr


def test_faults_are_listed_and_others_refused(tmp_path: Path) -> None:
    known = json.loads(simulate(tmp_path, [], "--fault", "list", "--json").stdout)["faults"]
    assert {"code": "short:Q1", "name": "Q1 shorted"} in known
    refused = simulate(tmp_path, [], "--fault", "short:Z9")
    assert refused.exit_code == 2
    assert "no fault" in refused.stderr


@pytest.mark.parametrize(
    ("head", "said"), [("target\n", "procedure"), ("\x00\x01", "ask.csv"), ("", "header")]
)
def test_a_file_that_asks_nothing_is_refused(tmp_path: Path, head: str, said: str) -> None:
    found = simulate(tmp_path, ["F1"], head=head)
    assert found.exit_code == 2
    assert said in found.stderr


def test_the_engine_plays_itself() -> None:
    found = CliRunner().invoke(
        main, ["practice", "--auto", "--topology", "dc-fed", "--seeds", "1-6", "--json"]
    )
    figures = json.loads(found.stdout)
    assert figures["hunts"] == 6
    assert figures["right_first"] >= 0.8
    assert figures["unsafe_steps"] == 0
    assert sum(f["n"] for f in figures["by_fault"].values()) == 6
    assert {"seed", "fault", "ranked", "tests"} <= set(figures["worst"][0])


@pytest.mark.parametrize(
    "wrong", [["--seeds", "9-1"], ["--seeds", "x"], ["--topology", "valve"], ["--seeds", "1-99999"]]
)
def test_seeds_and_topologies_that_are_none_are_refused(wrong: list[str]) -> None:
    assert CliRunner().invoke(main, ["practice", "--auto", *wrong]).exit_code == 2


def test_practice_repairs_units_with_one_fault_and_with_two() -> None:
    for more in (["--repair"], ["--pairs", "--repair"]):
        result = CliRunner().invoke(
            main, ["practice", "--auto", "--topology", "linear", "--seeds", "3", "--json", *more]
        )
        found = json.loads(result.stdout)
        assert (found["repairs"], found["whole"], found["unsafe_steps"]) == (1, 1.0, 0)
        assert found["right_first"] == 1.0
        assert found["replaced_in_vain"] == 0
    told = CliRunner().invoke(main, ["practice", "--auto", "--repair", "--seeds", "3"]).stdout
    assert "repaired to the end, whole: 100.0 %" in told
