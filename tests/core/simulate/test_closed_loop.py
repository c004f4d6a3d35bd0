"""The loop closed: what is put into a simulated unit, the ripple lab and the trace find again."""

from __future__ import annotations

import random

import numpy as np
import pytest

from hale_rail.core.parts.families import typical_esr
from hale_rail.core.ripple.analyse import analyse
from hale_rail.core.ripple.question import RailSource, RippleQuestion
from hale_rail.core.ripple.wave import Wave
from hale_rail.core.simulate.circuit import machine_a
from hale_rail.core.simulate.copper import ShortedBoard, etched
from hale_rail.core.simulate.faults import find_fault
from hale_rail.core.simulate.outcome import AppliedLoad
from hale_rail.core.simulate.powered import Powering
from hale_rail.core.simulate.question import SimulatedQuestion as Asked
from hale_rail.core.simulate.questions import Bench
from hale_rail.core.simulate.random_units import practice_sheet
from hale_rail.core.simulate.ripples import raw_wave, stage
from hale_rail.core.simulate.unit import SimulatedUnit
from hale_rail.core.simulate.warmth import kelvin, watts
from hale_rail.core.supply.sheet import Rail, Topology

SWITCHING = (Topology.FLYBACK, Topology.HALF_BRIDGE)


def rail_of(unit: SimulatedUnit, key: str) -> Rail:
    found = unit.sheet.rail(key)
    assert found is not None
    return found


@pytest.mark.parametrize("topology", SWITCHING, ids=lambda t: t.code)
@pytest.mark.parametrize(
    ("key", "fault"), [("+5 V", "dry:C10+C11"), ("+12 V", "dry:C12"), ("−12 V", "dry:C13")]
)
@pytest.mark.parametrize("seed", [1, 2])
def test_the_lab_finds_the_esr_that_was_put_in(
    topology: Topology, key: str, fault: str, seed: int
) -> None:
    sheet = practice_sheet(topology, 1985)
    bench = Bench(SimulatedUnit(sheet, find_fault(sheet, fault), seed))
    rail = rail_of(bench.unit, key)
    bench.unit.switch("mains")
    volt, step = bench.wave(Asked(key, "waveform", "machine"), random.Random(seed))
    made = stage(bench.circuit, rail)
    parts = [p for p in sheet.on_line(key) if p.role == "output-filter"]
    new = [typical_esr(p.family, p.value, p.volt, p.grade).ohm for p in parts]
    found = analyse(
        Wave(volt, step),
        RippleQuestion(
            rail.nominal_v, load_a=machine_a(rail), stage=RailSource.FORWARD, is_ac=False,
            switching_hz=made.hz, full_load_a=rail.load_max_a, delta_a=made.delta_a,
            bank_esr_ohm=1 / sum(1 / ohm for ohm in new),
        ),
    )  # fmt: skip
    high = next(cause for cause in found.causes if cause.code == "output-esr-high")
    assert high.estimate is not None
    assert high.estimate.value == pytest.approx(made.esr_ohm, rel=0.2)


@pytest.mark.parametrize(
    ("key", "fault"), [("+5 V", "dry:C1"), ("+12 V", "dry:C2"), ("−5 V", "dry:C3")]
)
def test_the_lab_finds_the_farads_of_a_raw_filter(key: str, fault: str) -> None:
    sheet = practice_sheet(Topology.LINEAR, 1980)
    unit = SimulatedUnit(sheet, find_fault(sheet, fault), 4)
    rail = rail_of(unit, key)
    load = machine_a(rail)
    volt, step = raw_wave(unit.circuit, rail, load)
    part = next(p for p in sheet.on_line(key) if p.role == "raw-filter")
    cycles = np.tile(volt, 3)
    found = analyse(
        Wave(cycles, step),
        RippleQuestion(
            1.5 * abs(rail.nominal_v),
            is_raw=True,
            mains_hz=50,
            load_a=load,
            stage=RailSource.LINEAR,
            is_ac=False,
            nominal_farad=part.value,
        ),
    )
    low = next(cause for cause in found.causes if cause.code == "filter-capacitance-low")
    assert low.estimate is not None
    assert low.estimate.value == pytest.approx(unit.circuit.true[part.id].farad, rel=0.2)


def test_copper_drops_only_between_the_clamp_and_the_short() -> None:
    """A ladder by hand: 1 A through 10 + 20 mΩ to the short, nothing beyond, back through 5 mΩ."""
    copper = [("a", "b", 0.010), ("b", "c", 0.020), ("c", "d", 0.040), ("g", "h", 0.005)]
    board = ShortedBoard.of(copper, ("c", "h", 0.3))
    assert board.drop("a", "b", "a", "g", 1.0) == pytest.approx(0.010)
    assert board.drop("b", "c", "a", "g", 1.0) == pytest.approx(0.020)
    assert board.drop("c", "d", "a", "g", 1.0) == pytest.approx(0.0, abs=1e-9)
    assert board.drop("c", "h", "a", "g", 1.0) == pytest.approx(0.3)
    assert board.drop("h", "g", "a", "g", 0.5) == pytest.approx(0.0025)
    off = etched(copper, 1.1, 0.0, random.Random(1))
    assert [ohm for _, _, ohm in off] == pytest.approx([1.1 * ohm for _, _, ohm in copper])


@pytest.mark.parametrize(
    ("fault", "warm", "cool"),
    [("", "D10", "C10"), ("dry:C10+C11", "C10", "C12"), ("short:C12", "C12", "C13")],
)
def test_what_dissipates_is_warm(fault: str, warm: str, cool: str) -> None:
    sheet = practice_sheet(Topology.FLYBACK, 1985)
    unit = SimulatedUnit(sheet, find_fault(sheet, fault) if fault else None, 2)
    outcome = Powering(unit.circuit, AppliedLoad.MACHINE).outcome()
    by_ref = {p.ref: p for p in sheet.parts}
    hot, cold = (watts(unit.circuit, by_ref[ref], outcome) for ref in (warm, cool))
    assert hot > cold
    assert kelvin(unit.circuit, by_ref[warm], outcome) >= kelvin(
        unit.circuit, by_ref[cool], outcome
    )
