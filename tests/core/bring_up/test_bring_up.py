"""The end of the work by hand: a regulator's heat, what an event takes along, pairs."""

from __future__ import annotations

import pytest

from hale_rail.core.bring_up.collateral import RailEvent, collateral, event_words
from hale_rail.core.bring_up.continuity import Pairing, PairState, state_of
from hale_rail.core.bring_up.linear import linear
from hale_rail.core.errors import InputError
from hale_rail.core.parts.families import Family
from hale_rail.core.supply.sheet import Rail, Regulation, Sheet, Topology
from hale_rail.core.supply.templates import make_part


def test_the_heat_of_a_regulator_and_what_a_module_saves() -> None:
    found = linear(9.0, 5.0, 0.9, 0.85, 74.0)
    assert found.heat_w == pytest.approx(3.6)
    assert found.module_a == pytest.approx(5 * 0.9 / (0.85 * 9))
    assert found.saved_a == pytest.approx(0.9 - found.module_a)
    assert any("hot" in note for note in found.notes)
    turned = linear(-12.0, -5.0, 0.1)
    assert turned.heat_w == pytest.approx(0.7)
    assert any("drops out" in note for note in linear(6.0, 5.0, 1.0).notes)


@pytest.mark.parametrize(
    ("v_in", "v_out", "amps", "efficiency"),
    [(5, 9, 1, 0.9), (9, -5, 1, 0.9), (9, 5, 0, 0.9), (9, 5, 1, 1.2), (9, 9, 1, 0.9)],
)
def test_what_no_regulator_does_is_refused(
    v_in: float, v_out: float, amps: float, efficiency: float
) -> None:
    with pytest.raises(InputError):
        linear(v_in, v_out, amps, efficiency)


def _sheet() -> Sheet:
    five, minus = "+5 V", "−5 V"
    parts = (
        make_part(1, "U1", "regulator", five, 10),
        make_part(2, "C1", "capacitor", five, 20, value=1e-4, volt=16.0, family=Family.ALUMINIUM),
        make_part(3, "C2", "capacitor", five, 30, value=1e-5, volt=6.3, family=Family.ALUMINIUM),
        make_part(4, "C3", "capacitor", five, 40, value=1e-5, volt=16.0, family=Family.TANTALUM),
        make_part(5, "B1", "board", "", 50, rails=(five, minus)),
        make_part(6, "B2", "board", "", 60, rails=(five,)),
    )
    rails = (
        Rail(five, 5.0, Regulation.LINEAR),
        Rail(minus, -5.0, Regulation.LINEAR, guards="+12 V"),
    )
    return Sheet("Test", Topology.LINEAR, rails, parts)


def test_after_an_over_voltage_passed_ratings_come_first_then_tantalums_then_boards() -> None:
    sheet = _sheet()
    found = [s.part.ref for s in collateral(sheet, sheet.rails[0], RailEvent.OVER, 9.0)]
    assert found == ["C2", "C3", "C1", "B1", "B2"]
    text = event_words(sheet.rails[0], RailEvent.OVER, 9.0, ["B1"])
    assert "expect dead chips" in text and "B1" in text
    assert "dead" not in event_words(sheet.rails[0], RailEvent.OVER, 6.0, [])


def test_a_missing_rail_names_the_boards_that_had_another_without_it() -> None:
    sheet = _sheet()
    found = collateral(sheet, sheet.rails[1], RailEvent.MISSING, None)
    assert [s.part.ref for s in found] == ["B1"] and "substrate" in found[0].why
    assert "It guards +12 V" in event_words(sheet.rails[1], RailEvent.MISSING, None, [])


@pytest.mark.parametrize(
    ("is_joined", "ohm", "state"),
    [
        (True, 0.2, PairState.RIGHT), (True, 2.0, PairState.RIGHT), (True, 2.1, PairState.OPEN),
        (True, float("inf"), PairState.OPEN), (False, 0.4, PairState.UNEXPECTED),
        (False, float("inf"), PairState.RIGHT), (False, 5000.0, PairState.RIGHT),
        (True, None, PairState.UNREAD),
    ],
)  # fmt: skip
def test_what_a_reading_says_of_a_pair(
    is_joined: bool, ohm: float | None, state: PairState
) -> None:
    assert state_of(Pairing("A", "B", is_joined), ohm) is state
