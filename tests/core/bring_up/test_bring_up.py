"""The board behind the supply by hand: bits to chips, swaps, heat, what an event takes along."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.bring_up.bring_up import (
    MemoryRead,
    Moved,
    bad_bits,
    bad_chips,
    common_cause,
    layout_of,
    read_word,
    swap_says,
)
from hale_rail.core.bring_up.collateral import RailEvent, collateral, event_words
from hale_rail.core.bring_up.continuity import Pairing, PairState, state_of
from hale_rail.core.bring_up.linear import linear
from hale_rail.core.errors import InputError
from hale_rail.core.parts.families import Family
from hale_rail.core.supply.sheet import Rail, Regulation, Sheet, Topology
from hale_rail.core.supply.templates import make_part

LAYOUT = layout_of([(bank, bit, f"M{bank}{bit}") for bank in ("0", "1") for bit in range(8)])


@pytest.mark.parametrize(
    ("written", "read", "bits"),
    [(0xFF, 0xEF, (4,)), (0x55, 0x55, ()), (0x00, 0x81, (0, 7)), (0xA5, 0x5A, tuple(range(8)))],
)
def test_the_bad_bits_are_those_that_differ(written: int, read: int, bits: tuple[int, ...]) -> None:
    assert bad_bits(written, read) == bits


@given(st.integers(0, 2**64 - 1), st.integers(0, 2**64 - 1))
def test_turning_the_bad_bits_round_gives_what_was_written(written: int, read: int) -> None:
    for bit in bad_bits(written, read):
        read ^= 1 << bit
    assert read == written


def test_bits_and_banks_name_the_chip_the_most_often_wrong_first() -> None:
    readings = [MemoryRead("1", 0xFF, 0xEF, 8), MemoryRead("1", 0x55, 0x45, 8),
                MemoryRead("0", 0xFF, 0xFE, 8), MemoryRead("2", 0xFF, 0xFE, 8)]  # fmt: skip
    found = [(chip.ref, chip.count) for chip in bad_chips(readings, LAYOUT)]
    assert found == [("M14", 2), ("M00", 1), ("", 1)]
    assert readings[0].stuck == {4: "low"}


@pytest.mark.parametrize(
    ("readings", "words"),
    [
        ([("0", 0xFF, 0x00)], "select"),
        ([("0", 0xFF, 0xFE), ("1", 0x55, 0x54)], "data buffer"),
        ([("0", 0xFF, 0xFE)], ""),
        ([("0", 0xFF, 0xFF)], ""),
    ],
)
def test_what_many_bad_bits_have_in_common(
    readings: list[tuple[str, int, int]], words: str
) -> None:
    text = common_cause([MemoryRead(bank, w, r, 8) for bank, w, r in readings])
    assert (words in text) if words else text == ""


@pytest.mark.parametrize(
    ("text", "value"),
    [("A5", 0xA5), ("$a5", 0xA5), ("0xA5", 0xA5), ("A5h", 0xA5), ("0b10100101", 0xA5), ("7", 7)],
)
def test_words_as_monitors_print_them(text: str, value: int) -> None:
    assert read_word(text, 8) == value


@pytest.mark.parametrize("text", ["", "xyz", "1FF", "0b111111111", "-1", "A5 A5"])
def test_what_is_no_word_is_refused(text: str) -> None:
    with pytest.raises(InputError):
        read_word(text, 8)


@pytest.mark.parametrize(
    ("moved", "words"),
    [
        (Moved.MOVED, "A is bad"),
        (Moved.STAYED, "neither A nor B"),
        (Moved.GONE, "Nothing is proven"),
    ],
)
def test_what_a_swap_proves(moved: Moved, words: str) -> None:
    assert words in swap_says(moved, "A", "B")


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
