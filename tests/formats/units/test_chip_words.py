"""Chips, crystals and batteries in a pasted list: read, refused by line, written and read back."""

from __future__ import annotations

import msgspec
import pytest

from hale_rail.core.parts.markings import ChipMarking
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import Rail
from hale_rail.formats.units.part_words import write_part
from hale_rail.formats.units.parts_text import read_parts
from hale_rail.formats.units.rails_text import read_rail

THREE = ("+5 V", "+12 V", "−5 V")


@pytest.fixture(scope="module")
def rails() -> list[Rail]:
    return [read_rail([sign], ()) for sign in ("+5", "+12", "-5")]


def read(line: str, rails: list[Rail]) -> list[Part]:
    found = read_parts(line, rails)
    assert [one.problem for one in found] == [""] * len(found)
    return [one.part for one in found if one.part]


@pytest.mark.parametrize(
    ("line", "role", "package", "on", "bits", "active"),
    [
        ("U20 processor 40", "processor", 40, (), [()], ""),
        ("U20 cpu +5 reset high 64", "processor", 64, (), [()], "high"),
        ("U5..U8 memory bank 0 bits 0-3 +5 +12 -5", "memory", None, THREE,
         [(0,), (1,), (2,), (3,)], ""),
        ("U5,U6 dram bank 1 bits 0-7", "memory", None, (), [(0, 1, 2, 3), (4, 5, 6, 7)], ""),
        ("U9 ram 18 bit 0 bit 4", "memory", 18, (), [(0, 4)], ""),
        ("U3 reset generator active low", "reset", None, (), [()], "low"),
        ("U2 clock", "clock", None, (), [()], ""),
        ("U8 eprom 24", "rom", 24, (), [()], ""),
    ],
)  # fmt: skip
def test_a_chip_is_read_and_written_back(
    line: str, role: str, package: int | None, on: tuple[str, ...], bits: list[tuple[int, ...]],
    active: str, rails: list[Rail]
) -> None:  # fmt: skip
    parts = read(line, rails)
    markings = [part.chip for part in parts]
    assert all(part.kind.code == "chip" and part.role == role for part in parts)
    assert [one.bits for one in markings if one] == bits
    for part, marking in zip(parts, markings, strict=True):
        assert isinstance(marking, ChipMarking)
        assert (marking.package, marking.active) == (package, active)
        assert set(on) <= set(marking.rails)
        (again,) = read(f"{part.ref} {write_part(part)}", rails)
        assert isinstance(again.chip, ChipMarking)
        assert (again.role, again.bank, again.line) == (part.role, part.bank, part.line)
        assert {*again.chip.rails, part.line} == {*marking.rails, part.line}
        assert msgspec.structs.replace(again.chip, rails=marking.rails) == marking


@pytest.mark.parametrize(
    ("line", "kind", "value"),
    [("X1 4.000 MHz", "crystal", 4e6), ("X2 32.768 kHz", "crystal", 32768.0),
     ("BT1 3V6", "battery", 3.6)],
)  # fmt: skip
def test_a_crystal_and_a_battery_have_their_value(
    line: str, kind: str, value: float, rails: list[Rail]
) -> None:
    (part,) = read(line, rails)
    assert (part.kind.code, part.value) == (kind, pytest.approx(value))
    assert read(f"{part.ref} {write_part(part)}", rails)[0].value == pytest.approx(value)


@pytest.mark.parametrize(
    ("line", "carries"),
    [("J5 connector to the keyboard", ()), ("CN3 +5 edge +12", ("+5 V", "+12 V")), ("J1", ())],
)
def test_a_connector_stands_on_no_line_and_carries_what_is_named(
    line: str, carries: tuple[str, ...], rails: list[Rail]
) -> None:
    (part,) = read(line, rails)
    assert (part.kind.code, part.line, part.rails) == ("connector", "", carries)


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("U5 memory bits 9-3", "the lower one first"),
        ("U5..U7 memory bits 0-7", "8 bits cannot be dealt out to 3 chips"),
        ("U5 memory bit 64", "from 0 to 63"),
        ("U5 memory +24", "the line “rail +24” adds it"),
        ("+24", "“rail +24 2A”"),
    ],
)
def test_what_cannot_be_is_told_on_its_line(line: str, says: str, rails: list[Rail]) -> None:
    assert says in read_parts(line, rails)[0].problem
