"""`hale-rail diagnose`: the hunt from files, step by step, and what is known."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner

from hale_rail.cli import main
from hale_rail.core.supply.sheet import Topology
from hale_rail.core.supply.templates import template
from hale_rail.formats.units.unit_json import write_unit


def diagnose(tmp_path: Path, rows: list[str], symptom: str = "fuse-black", **more: str) -> Any:
    unit, readings = tmp_path / "unit.json", tmp_path / "r.csv"
    topology = next(t for t in Topology if t.code == more.get("topology", "flyback"))
    unit.write_text(write_unit(template(topology)), encoding="utf-8")
    lines = ["target,procedure,condition,value,pair", *rows]
    readings.write_text("\n".join(lines) + "\n", encoding="utf-8")
    arguments = ["diagnose", str(unit), str(readings), "--symptom", symptom, "--json"]
    result = CliRunner().invoke(main, arguments)
    assert result.exit_code == 0, result.output
    return json.loads(result.stdout)


def test_a_shorted_switch_is_hunted_down_cold_and_proven_lifted(tmp_path: Path) -> None:
    rows: list[str] = []
    found = diagnose(tmp_path, rows)
    assert not found["settled"]
    assert found["next"]["test"] == "bulk-ohm"  # the fuse is said already
    assert [a["target"] for a in found["next"]["asks"]] == ["C1"]
    rows.append("C1,ohms,in-circuit,1.7,")
    found = diagnose(tmp_path, rows)
    assert (found["next"]["test"], found["next"]["danger"]) == ("switch", "cold")
    assert {a["target"] for a in found["next"]["asks"]} == {"Q1"}
    for ask in found["next"]["asks"]:
        value = {"ohms": "0.2", "diode": "0.001"}[ask["procedure"]]
        is_across = ask["pair"] in ("C>E", "E>C")
        value = value if is_across else "OL" if ask["pair"][0] != "B" else "0.6"
        rows.append(f"Q1,{ask['procedure']},in-circuit,{value},{ask['pair']}")
    found = diagnose(tmp_path, rows)
    assert not found["settled"]  # in circuit is not a proof
    assert found["next"]["test"] == "switch-out"
    rows.append("Q1,ohms,lifted,0.1,C>E")
    found = diagnose(tmp_path, rows)
    assert found["settled"]
    assert found["next"] is None
    assert found["hypotheses"][0]["id"] == "switch-short"
    assert sum(h["probability"] for h in found["hypotheses"]) == pytest.approx(1.0)
    rows.append("Q1,replaced,,same type,")
    found = diagnose(tmp_path, rows)
    assert not found["settled"]  # closed: first power tells
    assert found["repaired"] == ["Q1"]
    assert found["hypotheses"][0]["id"] == "sound"
    assert "which explains it" in found["sentence"]


def test_two_faults_the_hunt_goes_on_with_what_is_left(tmp_path: Path) -> None:
    rows = [
        "Q1,ohms,lifted,0.1,C>E", "Q1,replaced,,same type,",
        "+5 V,ground,isolated,0.3,", "D10,diode,in-circuit,0.001,A>K",
        "D10,diode,in-circuit,0.001,K>A",
    ]  # fmt: skip
    found = diagnose(tmp_path, rows)
    assert found["hypotheses"][0]["id"] in ("rectifier-short", "filter-short")
    assert not found["settled"]
    rows += ["D10,diode,lifted,0.001,A>K", "D10,diode,lifted,0.001,K>A"]
    found = diagnose(tmp_path, rows)
    assert (found["hypotheses"][0]["id"], found["settled"]) == ("rectifier-short", True)


def test_a_worn_part_counts_in_proportion(tmp_path: Path) -> None:
    """150 µF at 400 V: 0.42 Ω when new; three times that is worn, ten times failed."""
    shares = [
        next(h["probability"] for h in found["hypotheses"] if h["id"] == "bulk-dry")
        for ohm in ("0.42", "0.9", "1.3", "4.0")
        if (found := diagnose(tmp_path, [f"C1,esr,in-circuit,{ohm},"], "ripple"))
    ]
    assert shares == sorted(shares)
    assert shares[0] < 0.3 < 0.8 < shares[-1]


def test_what_the_command_adds(tmp_path: Path) -> None:
    """Faults by part and mode, pairs, reasons, repaired parts, and what is stale."""
    rows = ["RT1,ohms,in-circuit,OL,", "L12,ohms,in-circuit,OL,", "+12 V,ground,attached,300,"]
    found = diagnose(tmp_path, rows, "dead-whole")
    assert found["faults"][0].keys() == {"ref", "mode", "probability"}
    assert (found["faults"][0]["ref"], found["faults"][0]["mode"]) == ("RT1", "open")
    refs = [{f["ref"] for f in pair["faults"]} for pair in found["pairs"]]
    assert {"RT1", "L12"} in refs
    assert any(b["for"] and "RT1" in b["text"] for b in found["because"])
    assert (found["repaired"], found["stale"]) == ([], [])
    found = diagnose(tmp_path, [*rows, "L12,replaced,,,", "RT1,replaced,,,"], "dead-whole")
    assert set(found["repaired"]) == {"RT1", "L12"}
    assert found["stale"] == [{"target": "+12 V", "procedure": "ground"}]


def test_still_there_after_a_power_up_opens_the_hunt_again(tmp_path: Path) -> None:
    rows = [
        "Q1,ohms,lifted,0.1,C>E", "Q1,replaced,,,", ",power,,bench,", ",symptom,,gone,",
    ]  # fmt: skip
    assert diagnose(tmp_path, rows)["hypotheses"][0]["id"] == "sound"
    rows[-1] = ",symptom,,still,"
    found = diagnose(tmp_path, rows)
    assert found["hypotheses"][0]["id"] != "sound"
    assert found["next"]


@pytest.mark.parametrize("topology", ["linear", "flyback", "half-bridge", "dc-fed"])
def test_a_fresh_hunt_never_begins_under_power(tmp_path: Path, topology: str) -> None:
    for symptom in ("fuse-clean", "dead-whole", "ripple", "warm", "rails-low"):
        found = diagnose(tmp_path, [], symptom, topology=topology)
        assert found["next"]["danger"] == "cold", symptom
        assert found["next"]["minutes"] > 0


def test_what_the_hand_or_eye_says_is_a_row_of_its_own(tmp_path: Path) -> None:
    found = diagnose(tmp_path, ["scorch,test,,crazed or burnt,"], "smoke")
    assert found["hypotheses"][0]["id"] == "suppressor"
    assert found["problems"] == []
    assert diagnose(tmp_path, ["nonsense,test,,bad,"], "smoke")["problems"][0]["line"] == 2


def test_what_is_known_is_printed(tmp_path: Path) -> None:
    for arguments in (["--topology", "linear"], []):
        result = CliRunner().invoke(main, ["diagnose", "--knowledge", "--json", *arguments])
        known = json.loads(result.stdout)
        ids = {h["id"]: h["faults"] for h in known["hypotheses"]}
        assert ("switch-short" in ids) == (not arguments)
        assert "short:bridge" in ids["bridge-short"]
        assert all(t["results"] and t["danger"] in ("cold", "live") for t in known["tests"])
        assert {"fuse-black", "dead-whole"} <= {s["id"] for s in known["symptoms"]}
    assert "bridge-short" in CliRunner().invoke(main, ["diagnose", "--knowledge"]).stdout


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["diagnose"], "are needed"),
        (["diagnose", "none.json", "none.csv", "--symptom", "ripple"], "none.json"),
    ],
)
def test_what_cannot_be_answered_exits_2(arguments: list[str], says: str) -> None:
    result = CliRunner().invoke(main, arguments)
    assert result.exit_code == 2
    assert says in result.stderr


def test_an_unknown_symptom_exits_2(tmp_path: Path) -> None:
    unit, readings = tmp_path / "u.json", tmp_path / "r.csv"
    unit.write_text(write_unit(template(Topology.LINEAR)), encoding="utf-8")
    readings.write_text("target,procedure,condition,value\n", encoding="utf-8")
    result = CliRunner().invoke(main, ["diagnose", str(unit), str(readings), "--symptom", "sad"])
    assert (result.exit_code, result.stdout) == (2, "")
    assert "no symptom" in result.stderr
