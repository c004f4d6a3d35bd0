"""Power applied to simulated units: what runs, what stops, what is spent."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from hale_rail.core.parts.markings import JointMarking
from hale_rail.core.simulate.circuit import Circuit, dummy_a, machine_a
from hale_rail.core.simulate.faults import find_fault
from hale_rail.core.simulate.outcome import AppliedLoad, PowerOutcome, RailState, RunMode, at_place
from hale_rail.core.simulate.powered import Powering
from hale_rail.core.simulate.random_units import practice_sheet
from hale_rail.core.simulate.unit import BENCH, MAINS, OFF, SimulatedUnit
from hale_rail.core.supply.sheet import Rail, Regulation, Sheet, Topology
from larkmoor import units

SHEETS = {
    "linear": practice_sheet(Topology.LINEAR, 1980),
    "flyback": practice_sheet(Topology.FLYBACK, 1984),
    "half": practice_sheet(Topology.HALF_BRIDGE, 1986),
    "dc": practice_sheet(Topology.DC_FED, 1983),
    "loom": units.loomwright(),
    "draft": units.draftmaster(),
    "corvane": units.pattern_editor(),
    "shed": units.shed_terminal(),
}


def powered(
    sheet: str,
    fault: str = "",
    load: AppliedLoad = AppliedLoad.MACHINE,
    *,
    limited: bool = False,
    seed: int = 3,
) -> PowerOutcome:
    found = SHEETS[sheet]
    circuit = Circuit(found, find_fault(found, fault) if fault else None, seed)
    return Powering(circuit, load, limited).outcome()


@pytest.mark.parametrize("sheet", SHEETS)
@pytest.mark.parametrize("load", [AppliedLoad.DUMMY, AppliedLoad.MACHINE])
@pytest.mark.parametrize("seed", [0, 1, 2])
def test_a_sound_unit_runs_with_every_rail_in_its_band(
    sheet: str, load: AppliedLoad, seed: int
) -> None:
    found = powered(sheet, load=load, seed=seed)
    assert found.mode is RunMode.RUNS
    assert not found.blown
    assert not found.destroyed
    for rail in SHEETS[sheet].rails:
        state = found.rails[rail.key]
        assert state.high_v / rail.nominal_v == pytest.approx(1.0, abs=0.05), rail.key
        wanted = dummy_a(rail) if load is AppliedLoad.DUMMY else machine_a(rail)
        assert state.ampere == pytest.approx(wanted)


@pytest.mark.parametrize(
    ("rail", "dummy", "machine"),
    [
        (Rail("+5 V", 5, Regulation.MAIN, 0.8, 8.0), 0.8, 4.8),
        (Rail("+5 V", 5, Regulation.MAIN, None, 8.0), 1.2, 4.8),
        (Rail("+5 V", 5, Regulation.MAIN, 6.0, 8.0), 6.0, 6.0),
        (Rail("−12 V", -12, Regulation.AUXILIARY, None, 0.3), 0.045, 0.18),
    ],
)
def test_loads_are_those_of_the_open_formats(rail: Rail, dummy: float, machine: float) -> None:
    assert dummy_a(rail) == pytest.approx(dummy)
    assert machine_a(rail) == pytest.approx(machine)


@pytest.mark.parametrize(
    ("sheet", "fault", "mode"),
    [
        ("flyback", "open:S1", RunMode.OFF),
        ("flyback", "open:RT1", RunMode.OFF),
        ("flyback", "open:L1", RunMode.OFF),
        ("linear", "open:T1", RunMode.SILENT),
        ("flyback", "open:T1", RunMode.SILENT),
        ("flyback", "dead:U9", RunMode.SILENT),
        ("flyback", "open:Q1", RunMode.SILENT),
        ("flyback", "open:R3", RunMode.SILENT),
        ("flyback", "short:C2", RunMode.SILENT),
        ("corvane", "open:C5", RunMode.SILENT),
        ("corvane", "short:C5", RunMode.SILENT),
        ("dc", "dead:adapter", RunMode.OFF),
        ("dc", "open:D1", RunMode.OFF),
        ("shed", "short:Q1", RunMode.OFF),
        ("dc", "short:D1", RunMode.RUNS),
        ("flyback", "open:CX1", RunMode.RUNS),
        ("flyback", "open:PC1", RunMode.RUNS),
        ("flyback", "joint:T1", RunMode.RUNS),
        ("flyback", "worn:P1", RunMode.RUNS),
    ],
)
def test_what_is_in_the_way_keeps_it_from_running(sheet: str, fault: str, mode: RunMode) -> None:
    assert powered(sheet, fault).mode is mode


FOLDED = (
    ("flyback", "short:D10"), ("flyback", "short:C12"), ("flyback", "short:SCR1"),
    ("flyback", "short:Main board"), ("flyback", "overload:Main board"),
    ("flyback", "open:D10"), ("flyback", "open:L10"), ("half", "short:C14"),
    ("half", "short:D14"),
)  # fmt: skip


@pytest.mark.parametrize(("sheet", "fault"), FOLDED)
@pytest.mark.parametrize("seed", [1, 2, 5])
def test_a_switching_stage_folds_back_by_its_own_habit(sheet: str, fault: str, seed: int) -> None:
    found = powered(sheet, fault, seed=seed)
    assert found.mode in (RunMode.HICCUP, RunMode.SILENT)
    assert found.rails == {}


@pytest.mark.parametrize(("sheet", "fault"), FOLDED)
def test_a_fault_makes_some_units_tick_and_others_stay_silent(sheet: str, fault: str) -> None:
    habits = {powered(sheet, fault, seed=seed).mode for seed in range(12)}
    assert habits == {RunMode.HICCUP, RunMode.SILENT}


@pytest.mark.parametrize(
    ("sheet", "fault", "key", "share"),
    [
        ("linear", "short:C12", "+12 V", 0.05),
        ("linear", "open:U2", "+12 V", 0.004),
        ("flyback", "open:D12", "+12 V", 0.004),
        ("flyback", "open:L13", "−12 V", 0.004),
        ("loom", "open:D7", "−5 V", 0.004),  # it hangs on −12 V
        ("linear", "short:U1", "+5 V", 1.6),
        ("linear", "short:Main board", "+5 V", 0.05),
    ],
)
def test_one_rail_is_off_alone(sheet: str, fault: str, key: str, share: float) -> None:
    found = powered(sheet, fault)
    assert found.mode is RunMode.RUNS
    for rail in SHEETS[sheet].rails:
        volts = found.rails[rail.key].high_v / rail.nominal_v
        hangs_on_it = sheet == "loom" and rail.key == "−12 V"
        wanted = share if rail.key == key or hangs_on_it else 1.0
        assert volts == pytest.approx(wanted, abs=0.05), rail.key


def test_an_overload_of_a_linear_rail_sags_and_runs_on_dummies() -> None:
    volts = powered("linear", "overload:Main board").rails["+5 V"].high_v
    assert 4.0 < volts < 4.75
    assert powered("linear", "overload:Main board", AppliedLoad.DUMMY).rails["+5 V"].high_v > 4.9


def test_a_board_that_names_no_rails_draws_too_much_of_its_connectors_first() -> None:
    """Cold and powered, the same rail."""
    sheet = SHEETS["linear"]
    bare_marking = JointMarking()
    parts = tuple(
        replace(p, marking=bare_marking) if p.kind.code == "board" else p for p in sheet.parts
    )
    bare = replace(sheet, parts=parts)
    circuit = Circuit(bare, find_fault(bare, "overload:Main board"), 3)
    sound = Circuit(bare, None, 3)
    lower = [a.rail for a, b in zip(circuit.boards, sound.boards, strict=True) if a.ohm < b.ohm]
    sagging = [
        key
        for key, state in Powering(circuit, AppliedLoad.MACHINE).outcome().rails.items()
        if state.ampere > 1.5 * Powering(sound, AppliedLoad.MACHINE).outcome().rails[key].ampere
    ]
    assert lower == sagging
    assert len(sagging) == 1


@pytest.mark.parametrize(
    ("sheet", "fault", "looks"),
    [
        ("flyback", "short:BR1", "blackened"), ("flyback", "short:C1", "blackened"),
        ("half", "short:Q1", "blackened"), ("half", "short:Q2", "blackened"),
        ("linear", "short:BR2", "clean-gap"), ("linear", "short:C3", "clean-gap"),
    ],
)  # fmt: skip
def test_a_fuse_shows_how_hard_it_went_and_a_lamp_spares_it(
    sheet: str, fault: str, looks: str
) -> None:
    seen = [powered(sheet, fault, seed=seed).blown for seed in range(20)]
    assert seen.count(looks) >= 16
    assert powered(sheet, fault, limited=True).blown == ""


def test_the_thermistor_of_a_small_fuse_decides_between_soot_and_gap() -> None:
    """Peak through 11 Ω is 30 A: fifteen times 2 A is black; five times 6 A a clean gap."""
    parts = tuple(
        p if p.ref != "F1" else replace(p, marking=type(p.marking)(ampere=6.0))
        for p in SHEETS["flyback"].parts
    )
    found = SHEETS["flyback"]
    large = Sheet(found.name, found.topology, found.rails, parts, year=found.year)
    circuit = Circuit(large, find_fault(large, "short:C1"), 1)
    assert Powering(circuit, AppliedLoad.MACHINE).outcome().blown == "clean-gap"
    assert powered("flyback", "short:C1", seed=1).blown == "blackened"


@pytest.mark.parametrize("seed", range(6))
def test_without_its_least_load_it_jumps_or_does_not_start(seed: int) -> None:
    found = powered("flyback", load=AppliedLoad.NONE, seed=seed)
    if found.mode is RunMode.RUNS:
        state = found.rails["+5 V"]
        assert state.low_v == pytest.approx(0.92 * state.high_v)
        assert found.rails["+12 V"].high_v > 12.9
    else:
        assert found.mode in (RunMode.HICCUP, RunMode.SILENT)


def test_a_regulator_that_passes_its_input_takes_the_board_along() -> None:
    found = powered("linear", "short:U1")
    assert ("Main board", "burnt") in found.destroyed
    assert powered("linear", "short:U1", limited=True).destroyed == ()


def test_a_shorted_capacitor_on_a_stiff_rail_burns() -> None:
    found = powered("linear", "short:C11")
    assert ("C11", "burnt") in found.destroyed
    assert powered("linear", "short:C11", AppliedLoad.DUMMY).destroyed == ()


@pytest.mark.parametrize("fault", ["short:CX1", "leaky:CX1", "short:CX2", "short:CY1"])
def test_a_suppressor_smokes_trips_or_takes_the_fuse(fault: str) -> None:
    seen = [powered("loom", fault, seed=seed) for seed in range(25)]
    assert any(o.smokes for o in seen)
    assert any(o.trips for o in seen)
    assert all(o.smokes or o.trips or o.blown or fault.startswith("leaky") for o in seen)


@pytest.mark.parametrize(
    ("place", "lost"), [("", 0.0), ("supply", 0.0), ("connector", 0.008), ("far", 0.032)]
)
def test_a_place_along_the_harness_loses_its_part(place: str, lost: float) -> None:
    unit = SimulatedUnit(SHEETS["flyback"], None, 1)
    state = at_place(unit.circuit, "+5 V", RailState(5.0, 5.0, 4.0), place)
    assert state.high_v == pytest.approx(5.0 - lost)
    negative = at_place(unit.circuit, "−12 V", RailState(-12.0, -12.0, 4.0), place)
    assert negative.high_v == pytest.approx(-12.0 + lost)


def test_a_switch_at_the_plug_charges_and_lets_go() -> None:
    unit = SimulatedUnit(SHEETS["half"], None, 2)
    assert unit.power == OFF
    assert unit.switch(MAINS) is not None
    bulk = [p for p in unit.sheet.parts if p.role == "bulk"]
    assert [unit.charges[p.id].volt for p in bulk] == pytest.approx([162.6, 162.6], abs=0.2)
    assert unit.switch(OFF) is None
    assert unit.charges[bulk[0].id].volt == pytest.approx(0.35 * 162.6, rel=0.01)
    unit.wait(unit.at_s + 3600)
    assert abs(unit.charges[bulk[0].id].volt) < 1.0
    assert unit.switch(BENCH) is not None
    assert unit.events == []
