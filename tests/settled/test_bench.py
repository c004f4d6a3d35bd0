"""The simulated bench asked as others would: raw rails, stores after the plug, boards, the fuse."""

from __future__ import annotations

import json
import math
from typing import Any

import numpy as np
import pytest

from hale_rail.core.quantities import Unit as Quantity
from hale_rail.core.quantities import read
from hale_rail.core.simulate.faults import find_fault
from hale_rail.core.simulate.question import SimulatedQuestion
from hale_rail.core.simulate.questions import Bench
from hale_rail.core.simulate.unit import SimulatedUnit
from hale_rail.core.supply.sheet import Sheet
from hale_rail.formats.units.unit_json import read_unit

#: 1 A from 4464 µF falls 224 V/s between two peaks
LINEAR: dict[str, Any] = {
    "name": "Bench raw", "topology": "linear", "mains_v": 230, "mains_hz": 50, "year": 2026,
    "rails": [
        {"key": "+18 V", "nominal_v": 18, "regulation": "raw", "load_max_a": 1.6667},
        {"key": "+12 V", "nominal_v": 12, "regulation": "linear", "load_max_a": 0.5,
         "ohm_attached": 300},
    ],
    "parts": [
        {"ref": "F1", "kind": "fuse", "line": "main", "value": "1A"},
        {"ref": "T1", "kind": "transformer", "line": "main"},
        {"ref": "BR1", "kind": "bridge", "line": "+18 V"},
        {"ref": "C1", "kind": "capacitor", "family": "aluminium", "line": "+18 V",
         "value": "4464u", "volt": 35, "role": "raw-filter"},
        {"ref": "BR2", "kind": "bridge", "line": "+12 V"},
        {"ref": "C2", "kind": "capacitor", "family": "aluminium", "line": "+12 V",
         "value": "2200u", "volt": 35, "role": "raw-filter"},
        {"ref": "U1", "kind": "regulator", "line": "+12 V"},
        {"ref": "C3", "kind": "capacitor", "family": "tantalum", "line": "+12 V",
         "value": "10u", "volt": 25, "role": "output-filter"},
        {"ref": "P1", "kind": "connector", "line": "+12 V"},
    ],
}  # fmt: skip
FLYBACK: dict[str, Any] = {
    "name": "Bench flyback", "topology": "flyback", "mains_v": 230, "mains_hz": 50, "year": 1986,
    "rails": [{"key": "+5 V", "nominal_v": 5, "regulation": "main", "load_min_a": 0.5,
               "load_max_a": 5}],
    "parts": [
        {"ref": "F1", "kind": "fuse", "line": "main", "value": "1.6A"},
        {"ref": "CX1", "kind": "capacitor", "family": "suppression-film", "class": "X2",
         "line": "main", "value": "220n", "volt": 275, "role": "suppressor-x"},
        {"ref": "BR1", "kind": "bridge", "line": "main"},
        {"ref": "C1", "kind": "capacitor", "family": "aluminium", "line": "main",
         "value": "100u", "volt": 400, "role": "bulk"},
        {"ref": "Q1", "kind": "transistor", "line": "main"},
        {"ref": "T1", "kind": "transformer", "line": "main"},
        {"ref": "D5", "kind": "schottky", "line": "+5 V"},
        {"ref": "C10", "kind": "capacitor", "family": "aluminium", "line": "+5 V",
         "value": "1000u", "volt": 10, "role": "output-filter"},
    ],
}  # fmt: skip


def on_bench(unit: dict[str, Any], fault: str = "") -> Bench:
    """A unit that was never on with its fault."""
    sheet: Sheet = read_unit(json.dumps(unit))
    return Bench(
        SimulatedUnit(sheet, find_fault(sheet, fault) if fault else None, 7, is_unpowered=True)
    )


def ask(on: Bench, target: str, procedure: str, condition: str = "in-circuit", **more: Any) -> str:
    """What the bench shows."""
    return on.answer(SimulatedQuestion(target, procedure, condition, **more))


def figure(text: str, unit: Quantity) -> float:
    """A figure as shown."""
    return read(text, unit).value


def power(on: Bench, value: str, at_s: float | None = None) -> None:
    """Plug in, or out."""
    on.answer(SimulatedQuestion("", "power", value=value, at_s=at_s))


def record(on: Bench, rail: str) -> tuple[np.ndarray, float]:
    """A rail's record in the machine."""
    asked = SimulatedQuestion(rail, "waveform", "machine")
    volt, step = on.wave(asked, on.turn(asked))
    return np.asarray(volt), step


def test_a_raw_rail_falls_by_its_current_and_its_filter() -> None:
    on = on_bench(LINEAR)
    power(on, "mains")
    volt, step = record(on, "+18 V")
    true = on.circuit.true[on.unit.part("C1").id]
    assert true.farad is not None
    # a millisecond apart, the meter's noise of 1 mV is little; the usual fall is the filter's own
    apart = round(1e-3 / step)
    slopes = (volt[apart:] - volt[:-apart]) / 1e-3
    falling = slopes[slopes < -0.5 / true.farad]
    assert float(np.median(falling)) == pytest.approx(-1.0 / true.farad, rel=0.03)
    assert len(falling) > 0.5 * len(slopes)
    assert 0.6 * 0.01 / true.farad < np.ptp(volt) < 0.01 / true.farad
    assert float(volt.mean()) == pytest.approx(18.0, rel=0.03)
    shown = figure(ask(on, "+18 V", "volts", "machine"), Quantity.VOLT)
    assert shown == pytest.approx(float(volt.mean()), rel=0.02)
    assert 1.0 < figure(ask(on, "+18 V", "volts", "no-load"), Quantity.VOLT) / shown < 1.35


def test_an_open_raw_filter_leaves_half_waves_and_nothing_below_ground() -> None:
    on = on_bench(LINEAR, "open:C1")
    power(on, "mains")
    volt, step = record(on, "+18 V")
    assert volt.min() > -0.05
    assert volt.min() < 0.5
    assert 18 < volt.max() < 26
    # a rectified half wave: a hundred a second
    lines = np.abs(np.fft.rfft(volt - volt.mean()))
    assert np.fft.rfftfreq(len(volt), step)[lines.argmax()] == pytest.approx(100.0, abs=5)


def test_volts_asked_without_power_are_none_and_put_none_on() -> None:
    on = on_bench(FLYBACK)
    assert figure(ask(on, "+5 V", "volts", "machine"), Quantity.VOLT) == 0.0
    assert np.ptp(record(on, "+5 V")[0]) < 0.02
    assert figure(ask(on, "C1", "store", ""), Quantity.VOLT) == 0.0


def test_a_store_keeps_its_charge_by_its_own_leak_and_overloads_a_meter() -> None:
    on = on_bench(FLYBACK, "open:Q1")
    power(on, "mains", 60.0)
    power(on, "off", 120.0)
    first = figure(ask(on, "C1", "store", "", at_s=121.0), Quantity.VOLT)
    assert first == pytest.approx(230 * math.sqrt(2), rel=0.02)
    later = figure(ask(on, "C1", "store", "", at_s=180.0), Quantity.VOLT)
    assert 0.5 * first < later < first
    for procedure in ("ohms", "c", "esr"):
        assert ask(on, "C1", procedure, at_s=181.0) == "overload"
    # volts asked of a rail meanwhile feed nothing
    assert figure(ask(on, "+5 V", "volts", "machine", at_s=182.0), Quantity.VOLT) == 0.0
    last = figure(ask(on, "C1", "store", "", at_s=183.0), Quantity.VOLT)
    assert 0.97 * later < last < later


def test_a_suppressor_keeps_the_moment_at_which_the_plug_came_out() -> None:
    on = on_bench(FLYBACK)
    power(on, "mains", 60.0)
    power(on, "off", 61.0)
    held = abs(figure(ask(on, "CX1", "store", "", at_s=61.01), Quantity.VOLT))
    assert 1.0 < held <= 230 * math.sqrt(2) * 1.01
    assert abs(figure(ask(on, "CX1", "store", "", at_s=300.0), Quantity.VOLT)) < 1.0


def test_the_boards_behind_a_connector_load_their_rail() -> None:
    on = on_bench(LINEAR)
    assert figure(ask(on, "+12 V", "ground", "attached"), Quantity.OHM) == pytest.approx(
        300, rel=0.02
    )
    assert figure(ask(on, "+12 V", "ground", "isolated"), Quantity.OHM) > 600
    parts = [p for p in LINEAR["parts"] if p["kind"] != "connector"]
    soldered = on_bench({**LINEAR, "parts": parts})
    assert figure(ask(soldered, "+12 V", "ground", "attached"), Quantity.OHM) < 310


def test_the_fuse_is_whole_before_power_blows_it() -> None:
    on = on_bench(FLYBACK, "short:Q1")
    assert figure(ask(on, "F1", "ohms"), Quantity.OHM) < 1.0
    assert ask(on, "F1", "look", "") == "none"
    power(on, "bench")
    power(on, "off")
    assert figure(ask(on, "F1", "ohms"), Quantity.OHM) < 1.0
    power(on, "mains")
    power(on, "off")
    assert ask(on, "F1", "ohms") == "OL"
    assert ask(on, "F1", "look", "") == "blackened"
