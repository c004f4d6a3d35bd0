"""What scripts get: every command's JSON, its keys in their order, its words and figures.

`contracts/` has the JSON as it was before the records that make it now; figures to six digits,
since the last ones are the machine's.
"""

from __future__ import annotations

import json
import math
import shlex
from pathlib import Path
from typing import Any

import pytest

from hale_rail.core.supply.sheet import Topology
from hale_rail.core.supply.templates import template
from hale_rail.formats.units.unit_json import write_unit
from tests.cli import test_end_of_work as end
from tests.cli import test_plan as plan
from tests.cli.running import run_in
from tests.cli.test_judge import UNIT
from tests.cli.test_shorts import BOARD, HEAD, TREE
from tests.formats.behind.test_dumps import intel

KEPT = Path(__file__).parent / "contracts"
READINGS = (
    "target,procedure,condition,value,pair\nF1,ohms,in-circuit,0.3,\nC1,ohms,in-circuit,1.7,\n"
)
FILES = {
    "unit.json": json.dumps(UNIT),
    "judged.csv": "target,procedure,condition,value,pair,amps\n,power,,off,,\nC1,store,,1,,\n"
                  "C10,esr,in-circuit,3,,\n+5 V,ground,attached,12,,\nQ9,ohms,,1,,\n",
    "flyback.json": write_unit(template(Topology.FLYBACK)),
    "hunt.csv": READINGS,
    "board.json": json.dumps(BOARD),
    "probes.csv": HEAD + "drop,P1,a,P1,GND,1,5.1,mV,0.1\ndrop,a,b,P1,GND,1,4.9,mV,0.1\n",
    "tree.json": json.dumps(TREE),
    "totals.csv": "attached,ohms\npsu;mb;d,0.4\n",
    "demand.csv": plan.DEMAND,
    "catalogue.csv": plan.CATALOGUE,
    "vendors.csv": plan.VENDORS,
    "stock.csv": plan.STOCK,
    "source.csv": end.SOURCE,
    "target.csv": end.TARGET,
    "soak.csv": end.LOG,
    "units.csv": end.UNITS,
    "wave.csv": "Time,CH1\ns,V\n" + "".join(
        f"{n * 1e-5:.5f},{9 + 0.4 * abs(math.sin(math.pi * n * 1e-3)):.4f}\n" for n in range(12000)
    ),
    "read.hex": intel(bytes(byte | 8 for byte in range(256))),
    "good.hex": intel(bytes(range(256))),
    "table.csv": "bank,bit,ref\n0,3,U8\n0,4,U9\n1,3,U16\n",
    "parts.csv": "id,ref,family,value,voltage,cap,esr\n1,C1,aluminium,1000u,16,700u,0.9\n"
                 "2,C2,film,,,,\n3,C3,velvet,1u,,,\n",
}  # fmt: skip
COMMANDS = {
    "judge": "judge unit.json judged.csv",
    "diagnose": "diagnose flyback.json hunt.csv --symptom dead-whole",
    "trace": "trace board.json probes.csv",
    "isolate": "isolate tree.json totals.csv",
    "plan": "plan demand.csv catalogue.csv --vendors vendors.csv --stock stock.csv --spares 10%",
    "dummy": "dummy --rail 5:1.5 --rail -12:0.2",
    "ripple": "ripple wave.csv --nominal 9 --raw --load 800mA --topology linear --mains 50",
    "harness": "harness source.csv target.csv",
    "soak": "soak soak.csv --nominal 12",
    "lifetimes": "lifetimes units.csv",
    "discharge": "discharge --cap 220u --volts 336",
    "triage": "triage parts.csv",
    "ask": "ask '2200u 10V esr 0.08'",
    "rom": "rom read.hex good.hex",
    "memory": "memory table.csv 0:FF:F7 1:FF:F7 U9",
}


def told(folder: Path, name: str) -> Any:
    """A command's JSON with its figures to six digits."""
    code, out, err = run_in(folder, *shlex.split(COMMANDS[name]), "--json")
    assert code == 0, err
    return rounded(json.loads(out))


def rounded(value: Any) -> Any:
    if isinstance(value, dict):
        return {key: rounded(one) for key, one in value.items()}
    if isinstance(value, list):
        return [rounded(one) for one in value]
    return float(f"{value:.6g}") if isinstance(value, float) else value


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    place = tmp_path_factory.mktemp("contracts")
    for name, text in FILES.items():
        (place / name).write_text(text, encoding="utf-8")
    return place


@pytest.mark.parametrize("name", COMMANDS)
def test_a_command_tells_scripts_what_it_told_them(folder: Path, name: str) -> None:
    kept = (KEPT / f"{name}.json").read_text(encoding="utf-8")
    assert json.dumps(told(folder, name), ensure_ascii=False, indent=1) + "\n" == kept
