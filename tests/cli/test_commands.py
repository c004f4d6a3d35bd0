"""The command line's contracts: names, columns, JSON keys, exit codes."""

from __future__ import annotations

import json
import math
import subprocess
import sys
from pathlib import Path

import pytest
from click.testing import CliRunner, Result

import hale_rail.cli
from hale_rail.cli import main

EXAMPLES = Path(__file__).parents[2] / "docs" / "examples"
COMMANDS = Path(hale_rail.cli.__file__).parent
HEADER = (
    "id,ref,family,value,voltage,bank,lifted,cap,esr,leak,ohms,visual,year,tolerance,grade,"
    "fresh_esr,fresh_cap,class\n"
)


def run(*arguments: str) -> Result:
    return CliRunner().invoke(main, list(arguments))


def parts(tmp_path: Path, *rows: str) -> str:
    path = tmp_path / "parts.csv"
    path.write_text(HEADER + "\n".join(rows) + "\n", encoding="utf-8")
    return str(path)


def test_triage_json(tmp_path: Path) -> None:
    result = run(
        "triage",
        parts(
            tmp_path,
            "1,C1,aluminium,1000u,25,,yes,950u,,,,,,,,,,",
            "2,C1,aluminium,1000u,25,,no,,0.6,,,,,,,,,",
            "3,C3,velvet,1000u,25,,no,,,,,,,,,,,",
            "4,C4,aluminium,1800u,10,A,no,5500u,,,,,,,,,,",
            "5,C5,aluminium,1800u,10,A,no,,40m,,,,,,,,,",
            "6,C6,aluminium,1800u,10,A,no,,,,,,,,,,,",
            "7,C7,aluminium,1800u,10,A,yes,300u,,,,,,,,,,",
            "8,C8,suppression-paper,100n,250,,yes,101n,,,,,1980,,,,,X2",
            "9,C9,aluminium,1800u,10,B,no,,,,,bulge,,,,,,",
            "10,C10,aluminium,1800u,10,B,no,3580u,60m,,,,,,,,,",
            f"11,C11,aluminium,{'9' * 140_000},10,,no,,,,,,,,,,,",
            "12,C12,aluminium,10u,25,,no,,,,0.3,,,,,,,",
        ),
        "--json",
    )
    assert result.exit_code == 0
    found = json.loads(result.stdout)
    assert [(p["id"], p["ref"], p["verdict"], p["action"]) for p in found["parts"]] == [
        ("1", "C1", "good", "keep"),
        ("2", "C1", "failed", "replace"),
        ("4", "C4", "good", "keep"),
        ("5", "C5", "good", "keep"),
        ("6", "C6", "good", "keep"),
        ("7", "C7", "failed", "replace"),
        ("8", "C8", "worn", "replace"),
        ("9", "C9", "failed", "replace"),  # its own look; the bank's reading stands on C10
        ("10", "C10", "good", "keep"),
        ("12", "C12", "unproven", "lift"),
    ]
    assert [problem["line"] for problem in found["problems"]] == [4, 12]
    alone, bank = found["parts"][0]["expected"], found["parts"][2]["expected"]
    assert alone["cap_f"] == pytest.approx(1e-3)
    assert alone["esr_ohm"] == pytest.approx(3 * 0.032)
    assert bank["cap_f"] == pytest.approx(3 * 1800e-6)  # the lifted one is not in it
    assert found["parts"][6]["expected"]["esr_ohm"] is None
    assert all(r["code"] and r["text"] for p in found["parts"] for r in p["reasons"])


def test_triage_in_words_names_bad_lines_on_stderr(tmp_path: Path) -> None:
    path = parts(
        tmp_path, "1,C1,aluminium,1000u,25,,no,,0.6,,,,,,,,,", "1,C1,film,1n,,,,,,,,,,,,,,"
    )
    result = run("triage", path)
    assert "failed" in result.stdout
    assert f"{path}:3: id 1 is in line 2 already" in result.stderr


@pytest.mark.parametrize("rows", [[], ["1,C1,velvet,1u,,,,,,,,,,,,,,"]])
def test_triage_without_a_usable_row_exits_2(tmp_path: Path, rows: list[str]) -> None:
    result = run("triage", parts(tmp_path, *rows), "--json")
    assert result.exit_code == 2
    assert json.loads(result.stdout)["parts"] == []


def test_triage_of_a_file_that_cannot_be_read(tmp_path: Path) -> None:
    (tmp_path / "x.csv").write_bytes(b"\xff\xfe\x00bad")
    for path in (tmp_path / "none.csv", tmp_path / "x.csv", tmp_path):
        result = run("triage", str(path), "--json")
        assert (result.exit_code, result.stdout) == (2, "")
        assert str(path) in result.stderr


def test_discharge_json(tmp_path: Path) -> None:
    stock = tmp_path / "stock.csv"
    stock.write_text("ohms,watts,kind,max_volts\n1k,10,wirewound,500\n4k7,10,wirewound,500\n")
    base = ["discharge", "--cap", "220u", "--volts", "336", "--json"]
    bare = json.loads(run(*base).stdout)
    assert set(bare) == {"energy_j", "tau_s", "time_s", "peak_w", "resistor", "cautions"}
    assert bare["energy_j"] == pytest.approx(0.5 * 220e-6 * 336**2)
    assert (bare["resistor"], bare["tau_s"], bare["time_s"]) == (None, None, None)
    given = json.loads(run(*base, "--resistor", "10k").stdout)
    assert given["time_s"] == pytest.approx(2.2 * math.log(5.6))
    assert given["resistor"]["ohms"] == 10e3
    chosen = json.loads(run(*base, "--stock", str(stock)).stdout)
    assert chosen["resistor"]["ohms"] == 4700.0  # 1 kΩ would take 113 W, twice what it bears
    assert chosen["resistor"]["watts"] == 10.0
    readings = ["--reading", "0:336", "--reading", "30:210"]
    fallen = json.loads(run(*base, *readings).stdout)
    assert fallen["tau_s"] == pytest.approx(30 / math.log(1.6))
    assert fallen["time_s"] == pytest.approx(fallen["tau_s"] * math.log(3.5))
    lower = json.loads(run(*base, "--resistor", "10k", "--limit", "30").stdout)
    assert lower["time_s"] > given["time_s"]


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["--cap", "220k", "--volts", "336"], "--cap"),
        (["--cap", "220u"], "--volts is needed"),
        (["--cap", "220u", "--volts", "fluff"], "--volts"),
        (["--cap", "220u", "--volts", "336", "--reading", "30"], "seconds:volts"),
        (["--cap", "220u", "--reading", "0:200", "--reading", "9:300"], "volts rise"),
        (["--cap", "220u", "--volts", "336", "--stock", "/none"], "--stock"),
        (["--cap", "220u", "--volts", "336", "--limit", "0"], "above 0 V"),
        (["--cap", "220u", "--volts", "336", "--resistor", "0"], "above 0"),
    ],
)
def test_discharge_refuses_nonsense(arguments: list[str], says: str) -> None:
    result = run("discharge", *arguments, "--json")
    assert (result.exit_code, result.stdout) == (2, "")
    assert says in result.stderr


def test_discharge_in_words() -> None:
    words = run("discharge", "--cap", "220u", "--volts", "336", "--resistor", "10k").stdout
    for word in ("12.4\u00a0J", "screwdriver", "RC 2.2 s"):
        assert word in words


def test_help_reads_without_loading_the_web() -> None:
    """`--help` stays quick because nothing heavy is imported for it."""
    code = (
        "import sys; from hale_rail.cli import main\n"
        "try: main(['--help'])\n"
        "except SystemExit: pass\n"
        "print([m for m in ('flask', 'numpy', 'waitress', 'sqlite3') if m in sys.modules])"
    )
    printed = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, check=True
    ).stdout
    for word in ("demo", "serve", "triage", "discharge", "[]"):
        assert word in printed


@pytest.mark.parametrize("path", sorted(COMMANDS.glob("[a-z]*.py")), ids=lambda path: path.stem)
def test_a_module_of_the_command_line_is_the_command_of_its_name(path: Path) -> None:
    told = run(path.stem.rstrip("_"), "--help").stdout
    assert f"Usage: main {path.stem.rstrip('_')} " in told or "Usage: hale-rail" in told


def test_judging_and_the_first_page_load_no_library_that_only_computing_needs() -> None:
    """numpy, scipy, pictures, PDF and instruments are imported where they are used."""
    code = (
        "import sys, pathlib, tempfile\n"
        "from hale_rail.cli._case_of_files import case_of_files\n"
        "from hale_rail.cli.judge import judged\n"
        "examples = pathlib.Path(sys.argv[1])\n"
        "with case_of_files(examples / 'unit.json', examples / 'readings.csv') as found:\n"
        "    assert judged(found)['parts']\n"
        "from hale_rail.store.database import Store\n"
        "from hale_rail.web import create_app\n"
        "with tempfile.TemporaryDirectory() as folder:\n"
        "    app = create_app(Store(pathlib.Path(folder)))\n"
        "    assert app.test_client().get('/').status_code == 200\n"
        "heavy = 'numpy', 'scipy', 'PIL', 'fpdf', 'openpyxl', 'pyvisa', 'serial'\n"
        "print([name for name in heavy if name in sys.modules])"
    )
    command = [sys.executable, "-c", code, str(EXAMPLES)]
    found = subprocess.run(command, capture_output=True, text=True, check=True)
    assert found.stdout == "[]\n"


def test_serving_is_refused_where_it_would_not_be_safe(tmp_path: Path) -> None:
    result = run("serve", "--host", "0.0.0.0", "--data", str(tmp_path / "d"))
    assert result.exit_code == 2
    assert "127.0.0.1" in result.stderr
    (tmp_path / "real").mkdir()
    (tmp_path / "real" / "hale-rail.db").write_text("")
    result = run("demo", "--reset", "--data", str(tmp_path / "real"))
    assert result.exit_code == 2
    assert "not a demo" in result.stderr
