"""Ready-made loads beside resistors, settled by what each draws at a rail's volts."""

from __future__ import annotations

import itertools
import json
from pathlib import Path

import pytest

from hale_rail.core.power.arrangements import Piece
from hale_rail.core.power.dummies import Wanted, dummies
from hale_rail.core.power.ready_loads import LOAD_KINDS, ReadyLoad
from tests.cli.running import run_in


def ready(text: str) -> list[ReadyLoad]:
    """`lamp 12 1.75, drive 5 0.6`: kind, volts, amperes; each by its kind and volts."""
    rows = [one.split() for one in text.split(",") if one.strip()]
    return [ReadyLoad(f"{k} {v}", LOAD_KINDS[k], float(v), float(a)) for k, v, a in rows]


@pytest.mark.parametrize(
    ("rail", "loads", "resistors", "chosen", "amps"),
    [
        # a 12 V lamp of 21 W draws 1.75 A at 12 V: right where 1.75 A are wanted
        ((12, 1.75), "lamp 12 1.75", [], "lamp 12", 1.75),
        # 11.5 V is within a tenth of 12 V, 5 V is not
        ((11.5, 1.7), "lamp 12 1.75", [], "lamp 12", 1.75),
        ((5, 1.7), "lamp 12 1.75", [], "", None),
        # a lamp has no polarity, a drive has
        ((-12, 1.75), "lamp 12 1.75", [], "lamp 12", 1.75),
        ((-12, 0.5), "drive 12 0.5", [], "", None),
        ((12, 0.5), "drive 12 0.5", [], "drive 12", 0.5),
        # further off than 30 % of what is wanted it is none
        ((12, 1.0), "lamp 12 1.75", [], "", None),
        # an electronic load draws what is wanted, as far as it goes
        ((5, 1.5), "electronic 60 5", [], "electronic 60", 1.5),
        ((5, 6.0), "electronic 60 5", [], "electronic 60", 5.0),
        ((5, 8.0), "electronic 60 5", [], "", None),
        ((65, 1.0), "electronic 60 5", [], "", None),
        # the nearer one is taken: 12 ohms draw 1 A, the drive 0.8 A
        ((12, 1.0), "drive 12 0.8", [(12, 50)], "", 1.0),
        ((12, 0.85), "drive 12 0.8", [(12, 50)], "drive 12", 0.8),
    ],
)
def test_a_load_serves_a_rail(
    rail: tuple[float, float],
    loads: str,
    resistors: list[tuple[float, float]],
    chosen: str,
    amps: float | None,
) -> None:
    stock = [Piece(ohm, watt, 200.0) for ohm, watt in resistors]
    found = dummies([Wanted(*rail)], stock, ready(loads))
    if amps is None:
        assert not found.loads and found.unmet
        return
    (load,) = found.loads
    assert load.amps == pytest.approx(amps)
    assert load.parts[0].name == chosen
    assert load.heat_w == pytest.approx(abs(rail[0]) * amps)
    # a cold filament has a tenth of the hot one's ohms
    is_lamp = chosen.startswith("lamp")
    assert load.parts[0].cold_a == (pytest.approx(10 * amps) if is_lamp else None)


def test_without_resistors_the_rest_is_bought() -> None:
    found = dummies([Wanted(12, 1.75), Wanted(5, 2)], None, ready("lamp 12 1.75"))
    first, second = found.loads
    assert (first.parts[0].name, second.parts[0].name) == ("lamp 12", "")
    assert second.ohms == pytest.approx(2.7)


def test_each_load_is_used_once_and_the_sum_of_errors_is_least() -> None:
    """Every way to give two rails three loads, tried out."""
    loads = ready("lamp 12 1.75, drive 12 1.4, electronic 60 1.6")
    for one, two in itertools.product((1.3, 1.5, 1.8, 2.1), repeat=2):
        rails = [Wanted(12, one), Wanted(12, two)]
        ways = []
        for a, b in itertools.permutations(loads, 2):
            drawn = [load.draws(12, w.amps) for load, w in zip((a, b), rails, strict=True)]
            errors = [abs((amps or 0) / w.amps - 1) for amps, w in zip(drawn, rails, strict=True)]
            if max(errors) <= 0.3:
                ways.append(sum(errors))
        found = dummies(rails, [], loads)
        names = [load.parts[0].name for load in found.loads]
        assert len(set(names)) == len(names)
        total = sum(abs(load.amps / load.wanted.amps - 1) for load in found.loads)
        assert (len(found.loads), total) == (2, pytest.approx(min(ways)))


def test_the_command_reads_a_list_of_loads(tmp_path: Path) -> None:
    (tmp_path / "loads.csv").write_text("load,kind,volts,amps\nBench lamp,lamp,12,1.75\n")
    words = ["dummy", "--rail", "12:1.7", "--loads", "loads.csv", "--json"]
    code, out, _ = run_in(tmp_path, *words)
    (rail,) = json.loads(out)["rails"]
    assert (code, rail["parts"][0]["load"], rail["amps"]) == (0, "Bench lamp", 1.75)
    (tmp_path / "loads.csv").write_text("load,kind,volts,amps\nBench lamp,candle,12,1.75\n")
    code, _, err = run_in(tmp_path, *words)
    assert code == 2 and "line 2: kind is drive, lamp, electronic" in err
