"""`hale-rail ripple` and `hale-rail dummy`: the contracts, and what is told on stderr."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from tests.core.ripple import records as made
from tests.core.ripple.records import FAST, SLOW, kept

from .running import run_in

BANDS = {"mains", "rectified", "switching", "subharmonic", "spikes", "slow"}


def asked(*words: str, folder: Path) -> dict[str, Any]:
    code, out, err = run_in(folder, *words, "--json")
    assert (code, err) == (0, "")
    found: dict[str, Any] = json.loads(out)
    return found


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("waves")
    for name, wave in (("raw", kept(made.raw(), SLOW)), ("out", kept(made.of_forward(), FAST))):
        rows = "".join(f"{i * wave.dt_s:.8f},{v:.5f}\n" for i, v in enumerate(wave.volt))
        (path / f"{name}.csv").write_text("Time,CH1\ns,V\n" + rows, encoding="utf-8")
    return path


def test_the_contract_of_a_record(folder: Path) -> None:
    found = asked("ripple", "raw.csv", "--nominal", "9", "--limit", "90mV", "--mains", "50",
                  "--load", "800mA", "--topology", "linear", "--nominal-cap", "4700u",
                  folder=folder)  # fmt: skip
    assert found["record"].keys() >= {"samples", "dt_s", "length_s", "resolution_v", "dialect"}
    assert found["record"]["samples"] == 10_000
    assert found["bands"].keys() >= BANDS
    assert (found["verdict"], found["switching_hz"]) == ("fail", None)
    (cause,) = found["causes"]
    assert cause.keys() >= {"code", "share", "text", "estimate"}
    assert cause["estimate"].keys() == {"name", "value", "low", "high", "unit"}
    assert cause["estimate"]["value"] == pytest.approx(2200e-6, rel=0.2)


def test_every_option_is_read(folder: Path) -> None:
    found = asked("ripple", "out.csv", "--nominal", "5", "--topology", "half-bridge", "--coupling",
                  "ac", "--channel", "1", "--switching", "66k", "--full-load", "15A", "--delta-i",
                  "4.5A", "--bank-esr", "10m", folder=folder)  # fmt: skip
    assert found["switching_hz"] == pytest.approx(66e3, rel=1e-3)
    assert found["mean_verdict"] == "not-judged"
    assert found["causes"][0]["expected"] == 0.01
    assert found["causes"][0]["estimate"]["value"] == pytest.approx(0.05, rel=0.1)
    code, out, _ = run_in(folder, "ripple", "out.csv", "--nominal", "5")
    assert code == 0
    assert out.startswith("fail: ")
    assert "output-esr-high" in out


def test_a_record_says_the_same_in_every_dialect(tmp_path: Path) -> None:
    wave = kept(made.raw(), SLOW)
    rows = [(f"{i * SLOW:.8f}", f"{v:.5f}") for i, v in enumerate(wave.volt)]
    texts = {
        "a": "Time,CH1\ns,V\n" + "".join(f"{t},{v}\n" for t, v in rows),
        "b": "ms;mV\r\n" + "".join(
            f"{float(t) * 1e3:.5f};{float(v) * 1e3:.2f}\r\n".replace(".", ",") for t, v in rows),
        "c": f"Sample interval: {SLOW * 1e6:g} us\nvolts\n" + "".join(f"{v}\n" for _, v in rows),
        "d": "n,CH1,Increment\n,V,2e-5\n" + "".join(
            f"{i},{v},\n" for i, (_, v) in enumerate(rows)),
    }  # fmt: skip
    answers = []
    for name, text in texts.items():
        (tmp_path / f"{name}.csv").write_text(text, encoding="utf-8")
        found = asked("ripple", f"{name}.csv", "--nominal", "9", "--load", "0.8", folder=tmp_path)
        answers.append((found["bands"], found["causes"], found["verdict"], found["vpp_v"]))
    assert len(answers) == len(texts)
    for bands, causes, verdict, vpp in answers[1:]:
        assert verdict == answers[0][2]
        assert vpp == pytest.approx(answers[0][3], rel=1e-6)
        for band, volt in bands.items():
            assert volt == pytest.approx(answers[0][0][band], rel=1e-3, abs=5e-3 * vpp)
        assert [c["code"] for c in causes] == [c["code"] for c in answers[0][1]]
        assert causes[0]["estimate"]["value"] == pytest.approx(
            answers[0][1][0]["estimate"]["value"], rel=1e-3)  # fmt: skip


def test_a_file_that_is_no_record_is_named_with_its_line(folder: Path) -> None:
    text = (folder / "raw.csv").read_text(encoding="utf-8").splitlines(keepends=True)
    text[500] = "0.0,oops\n"
    (folder / "bad.csv").write_text("".join(text), encoding="utf-8")
    code, out, err = run_in(folder, "ripple", "bad.csv", "--nominal", "5", "--json")
    assert (code, out) == (2, "")
    assert "bad.csv: line 501:" in err
    for path in ("absent.csv", "."):
        code, out, err = run_in(folder, "ripple", path, "--nominal", "5")
        assert (code, out) == (2, "")
        assert path in err
        assert "Traceback" not in err


@pytest.mark.parametrize(("words", "named"), [
    (("--nominal", "lots"), "--nominal"), (("--nominal", "0"), "--nominal"),
    (("--nominal", "5", "--load", "3V"), "--load"), (("--nominal", "5", "--limit", "0"), "--limit"),
    (("--nominal", "5", "--switching", "fast"), "--switching"),
    (("--nominal", "5", "--bank-esr", "-1"), "--bank-esr"),
    (("--nominal", "5", "--channel", "3"), "channel 3"),
])  # fmt: skip
def test_an_option_that_cannot_be_is_named(
    words: tuple[str, ...], named: str, folder: Path
) -> None:
    code, out, err = run_in(folder, "ripple", "raw.csv", *words)
    assert (code, out) == (2, "")
    assert named in err
    assert "Traceback" not in err


def test_the_contract_of_dummy_loads(tmp_path: Path) -> None:
    (tmp_path / "box.csv").write_text(
        "ohms,watts,kind,max_volts,qty\n10,25,wirewound,100,3\n4R7,10,film,100,\n"
    )
    found = asked("dummy", "--rail", "5:1.5", "--rail", "-12:3", "--stock", "box.csv",
                  folder=tmp_path)  # fmt: skip
    assert found["rails"] == [{
        "rail_v": 5.0, "wanted_a": 1.5, "amps": pytest.approx(1.5), "ohms": pytest.approx(10 / 3),
        "arrangement": "parallel",
        "parts": [{"ohms": 10.0, "watts": 25.0, "dissipates_w": 2.5}] * 3,
    }]  # fmt: skip
    assert found["total_w"] == 7.5
    assert found["unmet"][0]["rail_v"] == -12.0
    bought = asked("dummy", "--rail", "5V:1.5A", folder=tmp_path)
    assert bought["rails"][0]["parts"][0]["ohms"] == 3.3
    code, out, _ = run_in(tmp_path, "dummy", "--rail", "5:1", "--stock", "box.csv")
    assert code == 0
    assert "Heat in all" in out


@pytest.mark.parametrize(("row", "message"), [
    ("0,25,wirewound,100,1", "above 0"), ("10,25,paper,100,1", "wirewound or film"),
    ("10,25,film,100,many", "whole number"), ("ten,25,film,100,1", "resistance"),
])  # fmt: skip
def test_a_bad_stock_is_named_with_its_line(row: str, message: str, tmp_path: Path) -> None:
    text = f"ohms,watts,kind,max_volts,qty\n10,25,film,100,1\n{row}\n"
    (tmp_path / "box.csv").write_text(text)
    code, out, err = run_in(tmp_path, "dummy", "--rail", "5:1", "--stock", "box.csv", "--json")
    assert (code, out) == (2, "")
    assert "line 3" in err
    assert message in err


@pytest.mark.parametrize("rail", ["5", "0:1", "5:0", "5:-1", "five:1", "5:1V"])
def test_a_rail_that_cannot_be_is_refused(rail: str, tmp_path: Path) -> None:
    code, out, err = run_in(tmp_path, "dummy", f"--rail={rail}")
    assert (code, out) == (2, "")
    assert "--rail" in err


@pytest.mark.parametrize("number", ["1e300", "1e400", "-1e308"])
def test_a_number_out_of_range_is_told_and_is_no_traceback(number: str, tmp_path: Path) -> None:
    rows = "".join(f"{n * 1e-5:.5f},{number if n == 40 else 5}\n" for n in range(200))
    (tmp_path / "wave.csv").write_text("Time,CH1\ns,V\n" + rows, encoding="utf-8")
    code, out, err = run_in(tmp_path, "ripple", "wave.csv", "--nominal", "5", "--json")
    assert (code, out) == (2, "")
    assert "wave.csv" in err


def test_a_stock_of_ohms_and_watts_is_enough(tmp_path: Path) -> None:
    (tmp_path / "box.csv").write_text("ohms,watts\n3.3,25\n10,25\n", encoding="utf-8")
    assert run_in(tmp_path, "dummy", "--rail", "5:1.5", "--stock", "box.csv")[0] == 0
    done = run_in(
        tmp_path, "discharge", "--cap", "220u", "--volts", "320", "--stock", "box.csv", "--json"
    )
    assert done[0] == 0
