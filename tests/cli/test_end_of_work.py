"""`hale-rail harness`, `soak` and `lifetimes`: the contracts, dialects, and what is refused."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner

from hale_rail.cli import main

SOURCE = "rail_v,amps,conductors,awg,pin_amps\n5,20,4,18,6\n-12,0.5,1,22,3\n0,,5,18,6\n"
TARGET = "pin,kind,rail_v,amps\n1,rail,5,8\n2,rail,-5,0.1\n3,ground,,\n4,nc,,\n5,signal,,\n"
LOG = "at,volts\n" + "".join(f"{n * 600},12.0{n % 3}\n" for n in range(145))
UNITS = "years,failed,group\n" + "".join(
    f"{20 + n},{'yes' if n % 2 else 'no'},a\n" for n in range(24)
)


@pytest.fixture
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    for name, text in (("S.csv", SOURCE), ("T.csv", TARGET), ("L.csv", LOG), ("U.csv", UNITS)):
        (tmp_path / name).write_text(text, encoding="utf-8")
    monkeypatch.chdir(tmp_path)
    return tmp_path


def run(*words: str) -> tuple[int, str, str]:
    found = CliRunner().invoke(main, list(words))
    return found.exit_code, found.stdout, found.stderr


def asked(*words: str) -> dict[str, Any]:
    code, out, err = run(*words, "--json")
    assert (code, err) == (0, "")
    found: dict[str, Any] = json.loads(out)
    return found


@pytest.mark.usefixtures("folder")
def test_the_contract_of_a_harness() -> None:
    found = asked("harness", "S.csv", "T.csv")
    assert [(w["pin"], w["rail_v"], w["conductors"]) for w in found["wires"]] == [
        ("1", 5, 2), ("3", 0, 2),
    ]  # fmt: skip
    assert found["wires"][0]["drop_mv"] == pytest.approx(33.5, abs=0.1)
    assert [one["rail_v"] for one in found["missing"]] == [-5]
    assert all(isinstance(text, str) for text in found["warnings"] + found["checks"])
    assert found["checks"][-1].startswith("pin 5")
    twice = asked("harness", "S.csv", "T.csv", "--length", "80cm")
    assert twice["wires"][0]["drop_mv"] == pytest.approx(2 * found["wires"][0]["drop_mv"])


@pytest.mark.usefixtures("folder")
def test_the_contract_of_a_soak() -> None:
    found = asked("soak", "L.csv", "--nominal", "12")
    assert (found["verdict"], found["samples"], found["hours"]) == ("pass", 145, 24.0)
    figures = (found["mean_v"], found["min_v"], found["max_v"])
    assert figures == pytest.approx((12.01, 12, 12.02), abs=1e-3)
    assert found["trend"].keys() == {"v_per_hour", "low", "high"}
    assert asked("soak", "L.csv", "--nominal", "12", "--high", "12.015")["verdict"] == "fail"
    assert asked("soak", "L.csv", "--nominal", "12", "--hours", "25")["verdict"] == "too-short"
    short = asked("soak", "L.csv", "--nominal", "12", "--warm-up", "23:59:59")
    assert short["trend"] is None and short["mean_v"] == pytest.approx(12.0)


@pytest.mark.usefixtures("folder")
def test_the_contract_of_lifetimes() -> None:
    (group,) = asked("lifetimes", "U.csv")["groups"]
    assert (group["group"], group["n"], group["failures"], group["small"]) == ("a", 24, 12, False)
    for name in ("shape", "scale_years", "b10_years"):
        assert group[name]["low"] < group[name]["value"] < group[name]["high"]


def _hour(hour: int) -> str:
    return f"2026-05-{1 + hour // 24:02}T{hour % 24:02}:00"


HEAD = "rail_v,amps,conductors,awg,pin_amps\n"


@pytest.mark.parametrize(
    ("name", "text", "verdict"),
    [
        ("clock", "at,volts\n" + "".join(f"{_hour(n)},5.0\n" for n in range(25)), "pass"),
        (
            "zone",
            "at,volts\n2026-05-01T00:00+02:00,5\n2026-05-01T06:00Z,5\n2026-05-01T12:00Z,5\n2026-05-02T00:00Z,5\n",
            "pass",
        ),
        ("comma", "at;volts\n" + "".join(f"{n * 3600};5,0{n % 2}\n" for n in range(25)), "pass"),
        (
            "marked",
            "\ufeffvolts,at,temp_c,ripple_mv\r\n"
            + "".join(f"5 V,{n * 3600},31,12mV\r\n" for n in range(25)),
            "pass",
        ),
    ],
)
@pytest.mark.usefixtures("folder")
def test_logs_as_they_are_saved(name: str, text: str, verdict: str) -> None:
    Path(f"{name}.csv").write_bytes(text.encode())
    assert asked("soak", f"{name}.csv", "--nominal", "5")["verdict"] == verdict


@pytest.mark.usefixtures("folder")
def test_of_several_rails_one_is_chosen() -> None:
    rows = "".join(
        f"{n * 3600},{v},{k}\n" for n in range(25) for v, k in ((5, "+5 V"), (-12, "−12 V"))
    )
    Path("R.csv").write_text("at,volts,rail\n" + rows, encoding="utf-8")
    code, out, err = run("soak", "R.csv", "--nominal", "-12")
    assert (code, out) == (2, "") and "+5 V, −12 V" in err
    assert asked("soak", "R.csv", "--nominal", "-12", "--rail", "-12V")["samples"] == 25


@pytest.mark.parametrize(
    ("words", "files", "told"),
    [
        (["harness", "S.csv", "no.csv"], {}, "no.csv"),
        (["harness", "S.csv", "T.csv", "--length", "0"], {}, "--length"),
        (["harness", "S.csv", "T.csv", "--length", "long"], {}, "--length"),
        (
            ["harness", "S.csv", "T.csv"],
            {"S.csv": HEAD + "5,20,0,18,6\n"},
            "S.csv: The source, line 2: conductors",
        ),
        (["harness", "S.csv", "T.csv"], {"S.csv": HEAD + "5,20,1,99,6\n"}, "awg"),
        (["harness", "S.csv", "T.csv"], {"S.csv": HEAD}, "S.csv"),
        (
            ["harness", "S.csv", "T.csv"],
            {"T.csv": "pin,kind\n1,rail\n"},
            "T.csv: The target, line 2: rail_v",
        ),
        (
            ["harness", "S.csv", "T.csv"],
            {"T.csv": "pin,kind\n1,nc\n1,nc\n"},
            "line 3: pin 1 is listed twice",
        ),
        (["harness", "S.csv", "T.csv"], {"T.csv": "pin,kind,rail_v\n1,wire,5\n"}, "kind is rail"),
        (["soak", "L.csv", "--nominal", "0"], {}, "--nominal"),
        (["soak", "L.csv", "--nominal", "12", "--low", "13"], {}, "--low"),
        (["soak", "L.csv", "--nominal", "12", "--hours", "-1"], {}, "--hours"),
        (["soak", "L.csv", "--nominal", "12"], {"L.csv": "at,volts\n"}, "L.csv"),
        (["soak", "L.csv", "--nominal", "12"], {"L.csv": "at,volts\nnow,12\n"}, "line 2"),
        (["soak", "L.csv", "--nominal", "12"], {"L.csv": "at,volts\n0,12\n1,OL\n"}, "line 3"),
        (
            ["soak", "L.csv", "--nominal", "12"],
            {"L.csv": "at,volts\n0,12\n2026-05-01T10:00,12\n"},
            "mixed",
        ),
        (["lifetimes", "U.csv"], {"U.csv": "years\n1\n"}, "lacks failed"),
        (["lifetimes", "U.csv"], {"U.csv": "years,failed\n0,yes\n"}, "line 2"),
    ],
)
@pytest.mark.usefixtures("folder")
def test_what_cannot_be_used_is_told_with_its_place(
    words: list[str], files: dict[str, str], told: str
) -> None:
    for name, text in files.items():
        Path(name).write_text(text, encoding="utf-8")
    code, out, err = run(*words)
    assert (code, out) == (2, "") and told in err


@pytest.mark.usefixtures("folder")
def test_rows_of_lifetimes_that_cannot_be_are_named_and_the_rest_is_answered() -> None:
    Path("U.csv").write_text(UNITS + "-3,yes,a\n,no,a\n4,perhaps,a\n4,,a\n", encoding="utf-8")
    code, out, err = run("lifetimes", "U.csv", "--json")
    found = json.loads(out)
    assert code == 0 and [p["line"] for p in found["problems"]] == [26, 27, 28, 29]
    assert "U.csv:26:" in err and found["groups"][0]["n"] == 24


@pytest.mark.usefixtures("folder")
def test_each_says_the_same_to_a_person() -> None:
    assert "−5\u00a0V from −12\u00a0V" in run("harness", "S.csv", "T.csv")[1]
    assert run("soak", "L.csv", "--nominal", "12")[1].startswith("pass\n")
    assert "12 of 24 failed" in run("lifetimes", "U.csv")[1]
