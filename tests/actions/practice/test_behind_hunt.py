"""The chain against simulated boards that know nothing of it: it must come to every true fault."""

from __future__ import annotations

import pytest

from hale_rail.actions.practice.behind_hunt import hunt_behind, is_behind
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.simulate.faults import SimulatedFault, faults
from hale_rail.core.simulate.graded_cases import GRADED
from hale_rail.core.simulate.random_units import DrawnUnit, board_sheet
from hale_rail.core.supply.sheet import Topology
from tests.sizes import sampled

SHEET = board_sheet(Topology.FLYBACK, 1984)
#: one memory chip of each bank stands for the others, which are told alike
_ALIKE = {f"M{n}" for n in range(1, 17)} - {"M3", "M14"}
FAULTS = [
    fault
    for fault in faults(SHEET)
    if is_behind(DrawnUnit(SHEET, fault, 1)) and fault.where not in _ALIKE
]


def test_every_way_of_every_chip_is_a_fault() -> None:
    assert len(FAULTS) == 36
    assert not is_behind(DrawnUnit(SHEET, SimulatedFault(FaultMode.SHORT, "Q1"), 1))


@pytest.mark.parametrize("fault", sampled(FAULTS, 4), ids=lambda fault: fault.code)
def test_the_chain_comes_to_the_chip_or_to_its_contact(fault: SimulatedFault) -> None:
    found = hunt_behind(DrawnUnit(SHEET, fault, 7))
    assert found.is_right, f"{found.said}: {[step.label for step in found.path]}"
    assert len(found.path) <= 40


@pytest.mark.parametrize("graded", GRADED[-4:], ids=lambda case: case.fault)
def test_the_graded_cases_behind_the_supply_are_found(graded: object) -> None:
    found = hunt_behind(graded.drawn())  # type: ignore[attr-defined]
    assert found.is_right and found.minutes < 60
