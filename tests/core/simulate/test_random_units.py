"""Units drawn for practice, what a hand finds at them, and how their circuits are laid."""

from __future__ import annotations

from collections import Counter

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from hale_rail.core.errors import InputError
from hale_rail.core.parts.kinds import KINDS, by_code
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.simulate import technician
from hale_rail.core.simulate.circuit import Circuit
from hale_rail.core.simulate.costs import minutes
from hale_rail.core.simulate.elements import MODELS
from hale_rail.core.simulate.faults import (
    MODES,
    SimulatedFault,
    faults,
    find_fault,
    named,
    ways,
)
from hale_rail.core.simulate.graded_cases import drawn_of
from hale_rail.core.simulate.meters import Meters, gains
from hale_rail.core.simulate.nodes import GROUND
from hale_rail.core.simulate.random_units import Difficulty, difficulty_of, draw, practice_sheet
from hale_rail.core.simulate.truth import fresh, truths
from hale_rail.core.simulate.unit import SimulatedUnit
from hale_rail.core.supply.sheet import Rail, Regulation, Sheet, Topology
from hale_rail.core.supply.templates import make_part, template
from larkmoor import units

from ...sizes import examples

FLYBACK = practice_sheet(Topology.FLYBACK, 1984)
ALL = [
    *(practice_sheet(t, 1984) for t in Topology), *(template(t) for t in Topology),
    units.loomwright(), units.draftmaster(), units.pattern_editor(), units.shed_terminal(),
]  # fmt: skip


@given(st.sampled_from(list(Topology)), st.integers(0, 5000), st.sampled_from([None, *Difficulty]))
@settings(max_examples=examples(40))
def test_a_draw_is_its_seeds_and_its_owner_notices_it(
    topology: Topology, seed: int, difficulty: Difficulty | None
) -> None:
    drawn = draw(topology, seed, difficulty)
    assert drawn == draw(topology, seed, difficulty)
    assert drawn.sheet.topology is topology
    assert drawn.unit().symptom is not None
    if difficulty:
        assert difficulty_of(drawn.fault) is difficulty


def test_draws_spread_over_the_faults() -> None:
    seen = Counter(draw(Topology.FLYBACK, seed).fault.how for seed in range(60))
    assert len(seen) >= 5
    assert max(seen.values()) < 40


@pytest.mark.parametrize(
    ("place", "topology", "difficulty", "seed"),
    [(17, "", "", 0), (0, "", "", 0), (None, "steam", "", 1)],
)
def test_what_is_no_unit_is_refused(
    place: int | None, topology: str, difficulty: str, seed: int
) -> None:
    with pytest.raises(InputError):
        drawn_of(place, topology, difficulty, seed)


@pytest.mark.parametrize("code", ["short:Z9", "dry:F1", "melted:Q1", "", "short", "short:q1 "])
def test_faults_are_found_by_their_codes(code: str) -> None:
    if code.strip().lower() == "short:q1":
        assert find_fault(FLYBACK, code) == SimulatedFault(FaultMode.SHORT, "Q1")
    else:
        with pytest.raises(InputError, match="no fault"):
            find_fault(FLYBACK, code)


def test_every_kind_says_how_it_fails() -> None:
    """A later kind without its faults fails here, and draws none silently."""
    assert {kind.model for kind in KINDS} == MODELS.keys() == MODES.keys()
    drawn = [(part, set(ways(part))) for sheet in ALL for part in sheet.parts]
    assert all(modes <= set(part.kind.fails(part)) for part, modes in drawn)
    with pytest.raises(KeyError):
        ways(replace(FLYBACK.parts[0], kind=replace(by_code("fuse"), model="unheard-of")))


def test_faults_have_names_and_codes_of_their_own() -> None:
    for sheet in ALL:
        known = faults(sheet)
        assert len({f.code for f in known}) == len(known)
        assert all(f.name for f in known)
        assert all(find_fault(sheet, f.code) == f for f in known)
    doubled = [name for _, name in named(units.draftmaster()) if "#" in name]
    assert "C60#2" in doubled


OBSERVED = {
    "adapter": technician.adapter,
    "ring": technician.ring,
    "reference": technician.reference,
    "dummy": technician.dummy,
    "control": technician.control,
    "ripple": technician.ripple,
    "heat": technician.heat,
    "idle": technician.idle,
    "tap": technician.tap,
    "more_load": technician.more_load,
}


@pytest.mark.parametrize(
    ("fault", "finds"),
    [
        ("", {"dummy": 0}),
        ("turns:T1", {"ring": 0, "idle": 0}),
        ("short:D10", {"ring": 0}),
        ("drift:feedback", {"reference": 0}),
        ("dry:C2", {"control": 0, "heat": 0}),
        ("dead:U9", {"control": 1}),
        ("dry:C10+C11", {"ripple": 1, "heat": 0}),
        ("dry:C1", {"ripple": 0, "heat": 0}),
        ("joint:T1", {"dummy": 0, "heat": 0, "tap": 0}),
        ("open:F1", {"dummy": 0}),
        ("joint:D10", {"dummy": 0, "heat": 0, "tap": 1}),
        ("worn:P1", {"dummy": 0, "tap": 2}),
        ("short:Main board", {"dummy": 0}),
        ("no-load:unit", {"dummy": 0, "more_load": 0}),
    ],
)
def test_a_hand_finds_what_no_figure_says(fault: str, finds: dict[str, int]) -> None:
    unit = SimulatedUnit(FLYBACK, find_fault(FLYBACK, fault) if fault else None, 2)
    found = {name: observe(unit) for name, observe in OBSERVED.items()}
    assert {name: said for name, said in found.items() if said is not None} == finds
    dc = practice_sheet(Topology.DC_FED, 1983)
    assert technician.adapter(SimulatedUnit(dc, find_fault(dc, "dead:adapter"), 2)) == 0


def test_every_part_of_every_sheet_is_in_the_circuit() -> None:
    for sheet in ALL:
        circuit = Circuit(sheet, None, 1)
        assert sheet.parts
        for part in sheet.parts:
            pins = circuit.wiring.pins[part.id]
            if part.kind.code in ("connector", "board"):
                continue
            assert pins, (sheet.name, part.ref)
            wanted = MODELS[part.kind.model].pins
            assert set(wanted) <= set(pins), (sheet.name, part.ref)
        for bank in sheet.banks:
            places = {tuple(circuit.wiring.pins[p.id].values()) for p in bank}
            assert len(places) == 1, (sheet.name, bank[0].ref)


@given(
    st.floats(20, 2000), st.floats(2, 10), st.sampled_from([5.0, 12.0, -12.0, 24.0]),
    st.sampled_from(list(Topology)),
)  # fmt: skip
@settings(max_examples=examples(40))
def test_a_sound_rail_reads_what_its_sheet_says(
    isolated: float, times: float, nominal: float, topology: Topology
) -> None:
    """However the rest is laid: a resistor stands in for what no part accounts for."""
    rail = Rail("X", nominal, Regulation.LINEAR, None, 1.0, ohm_isolated=isolated,
                ohm_attached=isolated / times)  # fmt: skip
    parts = (
        make_part(1, "C1", "capacitor", "X", 10, value=100e-6, volt=35.0, role="output-filter"),
        make_part(2, "P1", "connector", "", 20, rails=("X",)),
        make_part(3, "Board", "board", "", 30, rails=("X",), board="P1"),
    )
    circuit = Circuit(Sheet("S", topology, (rail,), parts), None, 1)
    node = circuit.wiring.output["X"]
    plus, minus = (GROUND, node) if nominal < 0 else (node, GROUND)
    bench = Meters(gains(1))
    for attached, ohm in ((False, isolated), (True, isolated / times)):
        network = circuit.network(attached=attached)
        found = network.drop(plus, minus, 1e-4) / 1e-4
        assert found == pytest.approx(ohm, rel=0.03)
    assert bench.gain.lead_ohm > 0


def test_truths_are_drawn_by_family_and_age() -> None:
    sheet = units.loomwright()
    true = [truths(sheet, None, seed) for seed in range(60)]
    part = next(p for p in sheet.parts if p.ref == "C1")
    kept = [t[part.id].farad / part.value for t in true]
    mean = sum(kept) / len(kept)
    assert mean == pytest.approx(1.04 - 0.0018 * 42 - 0.06 * 0.063, abs=0.02)
    assert 0.02 < (sum((k - mean) ** 2 for k in kept) / len(kept)) ** 0.5 < 0.07
    new = fresh(part, sheet, 1, 1)
    assert new.farad / part.value == pytest.approx(1.04, abs=0.14)
    assert new != fresh(part, sheet, 1, 2)


@pytest.mark.parametrize(
    ("procedure", "condition", "is_first", "spent"),
    [
        ("ohms", "in-circuit", True, 0.5), ("ohms", "lifted", True, 6.5),
        ("ohms", "lifted", False, 0.5), ("look", "", True, 0.2), ("replaced", "", True, 8.0),
        ("esr", "in-circuit", True, 0.5),
    ],
)  # fmt: skip
def test_steps_cost_their_minutes(
    procedure: str, condition: str, is_first: bool, spent: float
) -> None:
    assert minutes(procedure, condition, is_first=is_first) == pytest.approx(spent)
