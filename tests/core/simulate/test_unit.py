"""The simulated unit: what it reads cold, powered and charged, and that a seed stays what it is."""

from __future__ import annotations

import ast
from pathlib import Path

import numpy as np
import pytest

import hale_rail.core.simulate
from hale_rail.core.errors import InputError
from hale_rail.core.parts.banks import shown
from hale_rail.core.quantities import Unit as Quantity
from hale_rail.core.quantities import read
from hale_rail.core.simulate.faults import faults, find_fault
from hale_rail.core.simulate.observations import Complaint
from hale_rail.core.simulate.question import SimulatedQuestion
from hale_rail.core.simulate.questions import Bench
from hale_rail.core.simulate.random_units import practice_sheet
from hale_rail.core.simulate.unit import SimulatedUnit
from hale_rail.core.supply.sheet import Sheet, Topology
from hale_rail.formats.knowledge import knowledge_for
from larkmoor import units

from ...sizes import sampled

FLYBACK = practice_sheet(Topology.FLYBACK, 1984)
HALF = practice_sheet(Topology.HALF_BRIDGE, 1984)
LINEAR = practice_sheet(Topology.LINEAR, 1980)
DC = practice_sheet(Topology.DC_FED, 1983)
SHEETS = {"flyback": FLYBACK, "half": HALF, "linear": LINEAR, "dc": DC}


def bench(sheet: Sheet = FLYBACK, fault: str = "", seed: int = 3) -> Bench:
    return Bench(SimulatedUnit(sheet, find_fault(sheet, fault) if fault else None, seed))


def ask(on: Bench, target: str, procedure: str, condition: str = "", pair: str = "", **more) -> str:
    ends = tuple(pair.split(">")) if pair else None
    return on.answer(SimulatedQuestion(target, procedure, condition, pair=ends, **more))


def number(text: str, unit: Quantity = Quantity.OHM) -> float:
    return read(text, unit).value


def test_the_simulator_imports_no_diagnosis_and_no_rule_of_verdict() -> None:
    """It is the ground truth that both are measured by."""
    root = Path(hale_rail.core.simulate.__file__).parent
    allowed = {
        "hale_rail.core.arrays", "hale_rail.core.errors", "hale_rail.core.parts.families",
        "hale_rail.core.parts.modes", "hale_rail.core.parts.part", "hale_rail.core.supply.sheet",
        "hale_rail.core.supply.templates", "hale_rail.core.behind.pins",
    }  # fmt: skip
    paths = list(root.glob("*.py"))
    assert len(paths) > 20
    for path in paths:
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("hale_rail"):
                own = node.module.startswith("hale_rail.core.simulate")
                assert own or node.module in allowed, f"{path.name}: {node.module}"


@pytest.mark.parametrize(
    ("fault", "target", "procedure", "condition", "pair", "low", "high"),
    [
        ("", "F1", "ohms", "in-circuit", "", 0.2, 0.45),
        ("", "RT1", "ohms", "in-circuit", "", 9.0, 11.5),
        ("", "BR1", "diode", "in-circuit", "~1>+", 0.45, 0.68),
        ("", "Q1", "diode", "in-circuit", "B>E", 0.45, 0.68),
        ("", "D10", "diode", "lifted", "A>K", 0.14, 0.32),
        # a diode reads both ways through a winding: a milliampere through 150 Ω of the rail
        ("", "D10", "diode", "in-circuit", "K>A", 0.13, 0.16),
        ("", "+5 V", "ground", "isolated", "", 145, 155),
        ("", "+12 V", "ground", "attached", "", 290, 310),
        ("short:Q1", "Q1", "ohms", "lifted", "C>E", 0.2, 0.6),
        # the bulk shows a shorted switch through the primary winding
        ("short:Q1", "C1", "ohms", "in-circuit", "", 1.5, 2.6),
        ("short:D10", "+5 V", "ground", "isolated", "", 0.2, 0.7),
        ("short:Main board", "+5 V", "ground", "isolated", "", 145, 155),
        ("short:Main board", "+5 V", "ground", "attached", "", 0.3, 1.0),
        ("open:C12", "C12", "c", "lifted", "", 0, 1e-10),
        ("dry:C12", "C12", "c", "in-circuit", "", 250e-6, 520e-6),
        ("leaky:C12", "C12", "leak", "lifted", "", 4e-3, 20e-3),
    ],
)  # fmt: skip
def test_cold_readings_are_what_the_circuit_gives(
    fault: str, target: str, procedure: str, condition: str, pair: str, low: float, high: float
) -> None:
    text = ask(bench(fault=fault), target, procedure, condition, pair)
    unit = {"c": Quantity.FARAD, "diode": Quantity.VOLT, "leak": Quantity.AMPERE}
    assert low <= number(text, unit.get(procedure, Quantity.OHM)) <= high, text


@pytest.mark.parametrize(
    ("fault", "target", "condition", "pair"),
    [
        ("", "BR1", "in-circuit", "+>~1"), ("", "D10", "lifted", "K>A"),
        ("open:F1", "F1", "lifted", ""), ("open:D12", "D12", "lifted", "A>K"),
        ("", "Q1", "in-circuit", "E>B"), ("open:Q1", "Q1", "in-circuit", "B>E"),
    ],
)  # fmt: skip
def test_what_blocks_reads_over_range(fault: str, target: str, condition: str, pair: str) -> None:
    assert ask(bench(fault=fault), target, "diode" if pair else "ohms", condition, pair) == "OL"


@pytest.mark.parametrize("fault", ["", "open:C10", "dry:C11"])
def test_a_bank_reads_as_its_exact_admittance(fault: str) -> None:
    """And so hides its open member: C10 reads its neighbour."""
    on = bench(fault=fault)
    true = [on.circuit.true[p.id] for p in FLYBACK.parts if p.ref in ("C10", "C11")]
    members = [(t.farad or 0.0, t.esr_ohm or 0.0) for t in true]
    farad = number(ask(on, "C10", "c", "in-circuit"), Quantity.FARAD)
    esr = number(ask(on, "C11", "esr", "in-circuit"))
    assert farad == pytest.approx(shown(members, 120.0).farad, rel=0.02)
    assert esr == pytest.approx(shown(members, 100e3).esr_ohm, rel=0.03, abs=0.002)


def test_a_bulk_capacitor_charges_while_its_ohms_are_read() -> None:
    on = bench()
    first = number(ask(on, "C1", "ohms", "lifted", at_s=10.0))
    later = number(ask(on, "C1", "ohms", "lifted", at_s=40.0))
    assert first < later
    assert ask(on, "C1", "ohms", "lifted", at_s=30_000.0) in ("OL", "overload") or later > 1e5


def test_a_charged_store_overloads_the_meter_until_it_has_fallen() -> None:
    on = bench()
    ask(on, "", "power", value="mains", at_s=10.0)
    assert number(ask(on, "C1", "store", at_s=20.0), Quantity.VOLT) == pytest.approx(325, rel=0.01)
    for procedure in ("ohms", "c", "esr"):
        assert ask(on, "C1", procedure, "in-circuit") == "overload"
    off = on.unit.at_s + 1
    ask(on, "", "power", value="off", at_s=off)
    at_once = number(ask(on, "C1", "store", at_s=off + 1), Quantity.VOLT)
    later = number(ask(on, "C1", "store", at_s=off + 21), Quantity.VOLT)
    # a supply that ran drained most; the rest falls through 150 kΩ and 150 µF
    assert 80 < at_once < 130
    assert later < 0.6 * at_once
    assert ask(on, "C1", "ohms", "in-circuit", at_s=off + 600) != "overload"


def test_a_supply_that_never_ran_holds_all_of_its_bulk() -> None:
    on = bench(fault="dead:U9")
    ask(on, "", "power", value="mains")
    ask(on, "", "power", value="off")
    held = number(ask(on, "C1", "store", at_s=on.unit.at_s + 1), Quantity.VOLT)
    assert held > 290


@pytest.mark.parametrize(
    ("sheet", "fault", "symptom", "fuse"),
    [
        ("flyback", "", None, "none"),
        ("flyback", "short:BR1", Complaint.FUSE_BLACK, "blackened"),
        ("flyback", "open:F1", Complaint.FUSE_CLEAN, "clean-gap"),
        ("linear", "short:C1", Complaint.FUSE_CLEAN, "clean-gap"),
        ("linear", "short:C13", Complaint.MISSING, "none"),
        ("linear", "short:U1", Complaint.HIGH, "none"),
        ("flyback", "open:D12", Complaint.MISSING, "none"),
        ("flyback", "open:L1", Complaint.DEAD, "none"),
        ("flyback", "dry:C12", Complaint.RIPPLE, "none"),
        ("linear", "dry:C11", None, "none"),
        ("dc", "dead:adapter", Complaint.DEAD, "none"),
        ("flyback", "open:CX1", None, "none"),
    ],
)
def test_a_unit_comes_as_its_owner_left_it(
    sheet: str, fault: str, symptom: Complaint | None, fuse: str
) -> None:
    on = bench(SHEETS[sheet], fault)
    assert on.unit.symptom is symptom
    assert ask(on, "F1", "look") == fuse
    assert (ask(on, "F1", "ohms", "in-circuit") == "OL") == (fuse != "none")


def test_rails_carry_the_loads_of_the_formats() -> None:
    """At dummy the least load, in the machine 60 % of the most; a worn contact loses beyond it."""
    on = bench(fault="worn:P1")
    ask(on, "", "power", value="mains")
    supply = number(ask(on, "+5 V", "volts", "machine", place="supply"), Quantity.VOLT)
    far = number(ask(on, "+5 V", "volts", "machine", place="far"), Quantity.VOLT)
    light = number(ask(on, "+5 V", "volts", "dummy", place="far"), Quantity.VOLT)
    assert supply == pytest.approx(5.0, rel=0.02)
    lost, lost_light = supply - far, supply - light
    assert 0.08 * 5 < lost < 0.17 * 5
    assert lost_light / lost == pytest.approx(0.8 / 4.8, rel=0.15)


def test_a_new_fuse_blows_again_and_a_lamp_spares_it() -> None:
    on = bench(fault="short:Q1")
    ask(on, "F1", "replaced", value="2 A")
    ask(on, "", "power", value="bench")
    assert ask(on, "F1", "look") == "none"
    assert on.unit.events == []
    ask(on, "", "power", value="off")
    ask(on, "", "power", value="mains")
    assert ask(on, "F1", "look") == "blackened"
    assert [event.what for event in on.unit.events] == ["F1"]


def test_what_is_replaced_is_new_and_its_fault_is_gone() -> None:
    on = bench(fault="dry:C12")
    ask(on, "C12", "replaced", value="1000 µF 25 V")
    assert number(ask(on, "C12", "c", "lifted"), Quantity.FARAD) > 900e-6
    assert on.circuit.fault is None


def test_a_seed_stays_what_it_is_and_one_question_changes_no_other() -> None:
    questions = [("C10", "c"), ("C12", "esr"), ("F1", "ohms"), ("T1", "ohms")]
    first, second = bench(seed=11), bench(seed=11)
    there = {q: ask(first, *q, "in-circuit") for q in questions}
    back = {q: ask(second, *q, "in-circuit") for q in reversed(questions)}
    assert there == back
    assert there != {q: ask(bench(seed=12), *q, "in-circuit") for q in questions}
    sound, faulty = (
        SimulatedUnit(FLYBACK, None, 4),
        SimulatedUnit(FLYBACK, find_fault(FLYBACK, "dry:C12"), 4),
    )
    moved = [p.ref for p in FLYBACK.parts if sound.circuit.true[p.id] != faulty.circuit.true[p.id]]
    assert moved == ["C12"]


@pytest.mark.parametrize(
    ("target", "procedure", "condition", "pair", "said"),
    [
        ("X9", "ohms", "in-circuit", "", "no part"),
        ("+3 V", "volts", "dummy", "", "no rail"),
        ("F1", "c", "in-circuit", "", "not a capacitor"),
        ("D10", "diode", "in-circuit", "", "two pins"),
        ("D10", "diode", "in-circuit", "B>E", "no pins"),
        ("C10", "leak", "in-circuit", "", "lifted"),
        ("+5 V", "volts", "attached", "", "volts are read"),
        ("+5 V", "ground", "dummy", "", "attached or isolated"),
        ("F1", "store", "", "", "no charge"),
        ("F1", "weigh", "", "", "cannot be asked"),
        ("", "power", "", "", "power is"),
        ("F1", "replaced", "", "", "what was fitted"),
    ],
)
def test_what_cannot_be_asked_is_told(
    target: str, procedure: str, condition: str, pair: str, said: str
) -> None:
    with pytest.raises(InputError, match=said):
        ask(bench(), target, procedure, condition, pair)


def test_every_fault_of_every_topology_makes_a_unit_that_answers() -> None:
    """Its symptom, where it has one, is one that the diagnosis knows; a sixth of them in `make
    test`."""
    for sheet in (*SHEETS.values(), units.loomwright(), units.pattern_editor(), units.draftmaster(),
                  units.shed_terminal()):  # fmt: skip
        known = {s.id for s in knowledge_for(sheet.topology).symptoms}
        noticed = 0
        tried = sampled(faults(sheet), 6)
        for fault in tried:
            unit = SimulatedUnit(sheet, fault, 1)
            assert unit.symptom is None or unit.symptom.value in known, fault.code
            noticed += unit.symptom is not None
            on = Bench(unit)
            key = sheet.rails[0].key
            assert ask(on, key, "ground", "attached")
            assert ask(on, key, "volts", "machine")
        assert noticed > 10 * len(tried) / len(faults(sheet)), sheet.name
        assert SimulatedUnit(sheet, None, 1).symptom is None, sheet.name


@pytest.mark.parametrize("key", ["+5 V", "+12 V"])
@pytest.mark.parametrize("fault", ["", "dry:C10+C11", "dry:C12"])
def test_a_record_shows_the_ripple_of_its_bank(key: str, fault: str) -> None:
    """Peak to peak of the fast part is the choke's ΔI across the true ESR, and C's parabola."""
    from hale_rail.core.simulate.ripples import stage

    on = bench(fault=fault)
    on.unit.switch("mains")
    volt, step = on.wave(
        SimulatedQuestion(key, "waveform", "machine"), on.turn(SimulatedQuestion(key, "waveform"))
    )
    rail = FLYBACK.rail(key)
    assert rail is not None
    made = stage(on.circuit, rail)
    cycle = round(1 / made.hz / step)
    swings = [np.ptp(volt[n : n + cycle]) for n in range(0, len(volt) - cycle, cycle)]
    at_least = made.delta_a * made.esr_ohm
    assert at_least * 0.9 < float(np.median(swings)) < 1.3 * at_least + 0.2 * rail.nominal_v / 100
