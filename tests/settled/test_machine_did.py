"""What the machine did at power-on: presses, rows of a file, and what the report tells of it."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from hale_rail.actions.imports import import_readings, plan_readings
from hale_rail.actions.power import machine_behaviour
from hale_rail.actions.power.machine_behaviour import say_did
from hale_rail.actions.safety import power
from hale_rail.case.history import entries
from hale_rail.case.power.machine_behaviour import last_power_on, power_ons
from hale_rail.case.reading_rows import reading_rows
from hale_rail.case.report.report_end import bad
from hale_rail.core.errors import InputError
from hale_rail.core.power.machine_behaviour import DIDS, read_dids, write_dids
from hale_rail.formats.readings.readings_csv import read_readings
from tests.cli.running import run_in
from tests.conftest import Bench

EXAMPLES = Path(__file__).parents[2] / "docs" / "examples"


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("fan-turns", {"fan-turns": 1}),
        ("fan-twitches; tick", {"fan-twitches": 1, "tick": 1}),
        ("beep x3; Lamp", {"beep": 3, "lamp": 1}),
        ("beep \u00d712", {"beep": 12}),
        ("fan-whirls", None), ("", None), (";", None), ("beep x0", None), ("beep x100", None),
    ],
)  # fmt: skip
def test_what_it_did_is_read_as_it_is_written(text: str, found: dict[str, int] | None) -> None:
    if found is None:
        with pytest.raises(InputError):
            read_dids(text)
        return
    read = read_dids(text)
    assert {did.code: times for did, times in read} == found
    assert read_dids(write_dids(read)) == read


def test_it_is_said_of_the_power_on_that_came_last_and_taken_back(bench: Bench) -> None:
    store, number = bench.store, bench.number
    with pytest.raises(InputError, match="did not come"):
        say_did(store, number, "tick", 1)
    power.apply_power(store, number, "mains")
    say_did(store, number, "tick", 1)
    power.remove_power(store, number)
    say_did(store, number, "smell", 1)
    power.apply_power(store, number, "bench")
    say_did(store, number, "beep", 3)
    say_did(store, number, "still", 1)
    say_did(store, number, "gone", 1)
    first, second = power_ons(bench.file)
    assert first.words == "ticks, smells"
    assert second.words == "beeps 3 times, the complaint is gone"
    say_did(store, number, "beep", 0)
    last = last_power_on(bench.file)
    assert last and last.words == "the complaint is gone"
    assert "It did: beeps 3 times" in [entry.text for entry in entries(bench.file)]
    for wrong in (("sings", 1), ("beep", 100), ("beep", -1)):
        with pytest.raises(InputError):
            machine_behaviour.say_did(store, number, *wrong)


def test_of_gone_and_still_the_later_row_of_a_file_stands(bench: Bench) -> None:
    text = "target,procedure,condition,value\n,power,,mains\n,symptom,,gone\n,symptom,,still\n"
    rows, problems = read_readings(text)
    import_readings(bench.store, bench.number, plan_readings(bench.file, rows))
    last = last_power_on(bench.file)
    assert not problems and last and last.words == "the complaint is still there"


def test_what_is_bad_at_the_last_power_on_stands_first_in_the_report(bench: Bench) -> None:
    power.apply_power(bench.store, bench.number, "mains")
    say_did(bench.store, bench.number, "fan-turns", 1)
    assert not any("power-on" in text for text in bad(bench.file))
    say_did(bench.store, bench.number, "still", 1)
    assert "At the last power-on: the complaint is still there." in bad(bench.file)


ROWS = """target,procedure,condition,value
,symptom,,{symptom}
,power,,mains
,event,,fan-twitches; beep x2
,power,,off
,symptom,,still
"""


def test_rows_of_a_file_are_taken_and_given_back(tmp_path: Path, bench: Bench) -> None:
    (tmp_path / "unit.json").write_bytes((EXAMPLES / "unit.json").read_bytes())
    (tmp_path / "readings.csv").write_text(ROWS.format(symptom="fuse-clean"))
    code, out, err = run_in(tmp_path, "judge", "unit.json", "readings.csv", "--json")
    assert code == 0 and json.loads(out)["problems"] == [], err
    (tmp_path / "readings.csv").write_text(ROWS.format(symptom="sulks"))
    _, out, _ = run_in(tmp_path, "judge", "unit.json", "readings.csv", "--json")
    (problem,) = json.loads(out)["problems"]
    assert problem["line"] == 2 and "not one of gone, still, " in problem["text"]
    power.apply_power(bench.store, bench.number, "mains")
    say_did(bench.store, bench.number, "beep", 2)
    say_did(bench.store, bench.number, "still", 1)
    rows = [row[1:4] for row in reading_rows(bench.file)]
    assert rows == [("power", "", "mains"), ("event", "", "beep x2; still")]


def test_what_it_did_is_known_to_every_code() -> None:
    assert all(did.told(1) and did.told(2).endswith("2 times") for did in DIDS.values())
