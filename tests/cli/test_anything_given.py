"""Whatever a command is given, it answers or says what is wrong: exit 0, 1 or 2, no traceback.

The tests take a sample; `make fuzz` sets HALE_RAIL_FUZZ to ten thousand.
"""

from __future__ import annotations

import json
import random
import shutil
from collections.abc import Mapping
from contextlib import closing
from pathlib import Path

import pytest
from click.testing import CliRunner

from hale_rail.actions.workshop import bundles
from hale_rail.cli import main
from hale_rail.formats.boards.board_json import board_text
from hale_rail.store import check_restore
from hale_rail.store.database import DATABASE, Store
from larkmoor.boards import board as demo_board
from tests.formats.behind.test_dumps import intel
from tests.sizes import FUZZ

from .test_plan import CATALOGUE, DEMAND, STOCK, VENDORS
from .test_shorts import HEAD, TREE

EXAMPLES = Path(__file__).parents[2] / "docs" / "examples"
ASKS = "target,procedure,condition,value\nC1,esr,in-circuit,\n+5 V,volts,no-load,\nF1,ohms,,\n"
PARTS = "id,ref,family,value,voltage,cap,esr,year\n1,C1,aluminium,100u,25,82u,0.4,1984\n"
SOAK = "at,volts,ripple_mv\n" + "".join(f"{n * 600},{5 + n / 1e4},12\n" for n in range(150))
LIVES = "years,failed,group\n" + "".join(
    f"{20 + n},{'yes' if n % 2 else 'no'},a\n" for n in range(9)
)
WAVE = "Time,CH1\ns,V\n" + "".join(f"{n * 1e-4},{5 + 0.1 * (n % 100) / 100}\n" for n in range(900))
SOURCE = "rail_v,amps,conductors,awg,pin_amps\n5,3,2,18,4\n12,1,1,20,4\n0,,3,18,4\n"
TARGET = "pin,kind,rail_v,amps\n1,power,5,1\n2,ground,0,\n3,power,12,0.5\n"
HOSTILE = (
    "", "0", "-1", "1e400", "nan", "inf", "9" * 40, "4k7", "10mF", "²", "\x00", "é" * 300, "--json",
    "a:b", "5:1.5", "12", "1:0", "-5", "C1", "short:C1", "cold:R1", "1-1", "x-9", "30m", "∞", " ",
)  # fmt: skip
#: one hunt at most: more of them find out nothing that one does not
SEEDS = ("", "x-9", "9-1", "1-", "-5", "²", "1e400", "0-0", "1-99999999999", "nan", "1-1")
#: a command, the files it takes, and its options; those that serve are held elsewhere
COMMANDS: Mapping[str, tuple[tuple[str, ...], tuple[str, ...]]] = {
    "judge": (("unit.json", "readings.csv"), ("--school", "--tolerance", "--touch-limit")),
    "diagnose": (("unit.json", "readings.csv"), ("--symptom", "--topology", "--knowledge")),
    "simulate": (("unit.json",), ("--fault", "--seed", "--truth", "--ask=asks.csv")),
    "triage": (("parts.csv",), ()),
    "ask": (("2200u 10V esr 0.08",), ()),
    "plan": (("demand.csv", "catalogue.csv"),
             ("--stock=stock.csv", "--vendors=vendors.csv", "--max-vendors", "--spares")),
    "trace": (("board.json", "traced.csv"), ()),
    "isolate": (("tree.json", "readings.csv"), ()),
    "ripple": (("wave.csv",), ("--nominal", "--limit", "--raw", "--mains", "--load", "--topology",
                               "--coupling", "--channel", "--switching", "--full-load",
                               "--delta-i", "--bank-esr", "--nominal-cap", "--interval",
                               "--scale")),
    "soak": (("soak.csv",), ("--nominal", "--low", "--high", "--hours", "--warm-up", "--rail")),
    "lifetimes": (("lives.csv",), ()),
    "rom": (("dump.hex", "good.bin"), ("--sum",)),
    "memory": (("table.csv", "FF:EF"), ("--bits", "--base")),
    "harness": (("source.csv", "target.csv"), ("--length",)),
    "dummy": ((), ("--rail", "--stock=resistors.csv")),
    "discharge": ((), ("--cap", "--volts", "--resistor", "--fitted", "--limit", "--reading")),
    "practice": ((), ("--topology",)),
    "import": (("bundle.zip",), ()),
    "restore": (("whole.zip",), ()),
    "export": (("LW-014",), ("-o",)),
    "check": ((), ()),
    "backup": ((), ("--to",)),
}  # fmt: skip
WITH_DATA = ("import", "restore", "export", "check", "backup")
WITH_JSON = set(COMMANDS) - {"restore", "export", "check", "backup"}


@pytest.fixture(scope="module")
def kept(demo_master: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Every file that a command takes, whole."""
    folder = tmp_path_factory.mktemp("given")
    texts = {
        "unit.json": (EXAMPLES / "unit.json").read_text(encoding="utf-8"),
        "readings.csv": (EXAMPLES / "readings.csv").read_text(encoding="utf-8"),
        "asks.csv": ASKS, "parts.csv": PARTS, "demand.csv": DEMAND, "catalogue.csv": CATALOGUE,
        "stock.csv": STOCK, "vendors.csv": VENDORS, "board.json": board_text(demo_board()),
        "traced.csv": HEAD + "drop,P1,a,P1,GND,1,5.1,mV,0.1\n", "tree.json": json.dumps(TREE),
        "wave.csv": WAVE, "soak.csv": SOAK, "lives.csv": LIVES, "source.csv": SOURCE,
        "target.csv": TARGET, "resistors.csv": "ohms,watts,qty\n4.7,5,2\n10,5,1\n",
        "dump.hex": intel(bytes(range(200))), "good.bin": "A" * 200,
        "table.csv": "bank,bit,ref\n0,3,U8\n1,3,U16\n",
    }  # fmt: skip
    for name, text in texts.items():
        (folder / name).write_text(text, encoding="utf-8")
    shutil.copytree(demo_master, folder / "data")
    with closing(Store(folder / "data")) as store:
        with (folder / "bundle.zip").open("wb") as file:
            bundles.export(store, "LW-022", file)
        check_restore.back_up_whole(store, folder / "whole").rename(folder / "whole.zip")
    return folder


def harmed(data: bytes, draw: random.Random) -> bytes:
    """A file with something wrong in it: cut, doubled, scribbled over, or said another way."""
    at, end = sorted(draw.randrange(len(data) + 1) for _ in range(2))
    word = draw.choice(HOSTILE).encode()
    how = draw.randrange(9)
    if how == 0:
        return data[:at]
    if how == 1:
        return data[:at] + data[end:]
    if how == 2:
        return data[:end] + data[at:]
    if how == 3:
        return data[:at] + bytes(draw.randrange(256) for _ in range(8)) + data[at + 8 :]
    if how == 4:
        return data[:at] + word + data[at:]
    if how == 5:
        return data.decode("utf-8", "replace").encode("utf-16")
    if how == 6:
        return data.replace(b",", draw.choice((b";", b"\t", b",,", b"\n")))
    if how == 7:
        fields = data.split(b",")
        fields[draw.randrange(len(fields))] = word
        return b",".join(fields)
    return b""


def given_files(kept: Path, names: tuple[str, ...], place: Path, draw: random.Random) -> list[str]:
    """The files of a command, some harmed, some another's, some not there."""
    found = []
    for name in names:
        source, target = kept / name, place / name
        if not source.exists():  # no file: a case's number
            found.append(draw.choice((name, *HOSTILE)))
            continue
        if draw.random() < 0.08:
            source = kept / draw.choice(("unit.json", "readings.csv", "wave.csv", "tree.json"))
        data = source.read_bytes()
        target.write_bytes(harmed(data, draw) if draw.random() < 0.7 else data)
        found.append(str(target if draw.random() < 0.97 else place / "none-such"))
    return found


def given_options(
    kept: Path, options: tuple[str, ...], place: Path, draw: random.Random
) -> list[str]:
    found = []
    for option in options:
        if draw.random() < 0.5:
            continue
        name, _, file = option.partition("=")
        if name in ("--raw", "--truth", "--knowledge"):
            found.append(name)
        elif file:
            found += [name, *given_files(kept, (file,), place, draw)]
        elif name in ("-o", "--to"):
            found += [name, str(place / draw.choice(("out", "no/such/place")))]
        else:
            found += [name, draw.choice(HOSTILE)]
    return found


@pytest.mark.parametrize("command", COMMANDS)
def test_no_command_breaks(command: str, kept: Path, tmp_path: Path) -> None:
    files, options = COMMANDS[command]
    draw, codes = random.Random(command), set()
    for turn in range(max(4, FUZZ // (4 * len(COMMANDS)))):
        place = tmp_path / f"place{turn}"  # never used again: an analysis may still write there
        place.mkdir()
        arguments = [command, *given_files(kept, files, place, draw)]
        arguments += given_options(kept, options, place, draw)
        is_json = command in WITH_JSON and draw.random() < 0.5
        arguments += ["--json"] * is_json
        if command == "practice":
            arguments += ["--auto", "--seeds", draw.choice(SEEDS)]
        if command in WITH_DATA:
            arguments += ["--data", str(given_data(kept, command, place, draw))]
        done = CliRunner().invoke(main, arguments)
        told = (arguments, done.output[-400:], done.exception)
        assert done.exit_code in (0, 1, 2), told
        assert done.exception is None or isinstance(done.exception, SystemExit), told
        assert "Traceback" not in done.output, told
        if done.exit_code == 0 and is_json:
            json.loads(done.stdout)
        codes.add(done.exit_code)
        shutil.rmtree(place, ignore_errors=True)
    assert codes


def given_data(kept: Path, command: str, place: Path, draw: random.Random) -> Path:
    """A workshop's folder: whole, harmed, or none."""
    folder = place / "data"
    if command == "import" or draw.random() < 0.2:
        return folder
    folder.mkdir()
    data = (kept / "data" / DATABASE).read_bytes()
    (folder / DATABASE).write_bytes(harmed(data, draw) if draw.random() < 0.7 else data)
    return folder
