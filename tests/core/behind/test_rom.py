"""ROM dumps against brute force: faults are put into a dump, and must be named."""

from __future__ import annotations

import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.core.behind.checksums import sums
from hale_rail.core.behind.rom import against_sum, alone_says, compare
from hale_rail.core.errors import InputError
from tests.sizes import examples

GOOD = random.Random(16).randbytes(4096)


def by_brute_force(one: bytes, other: bytes) -> tuple[int, dict[int, tuple[int, int | None]]]:
    """Bytes that differ, and by bit how many, and what is read there, one at a time."""
    bits: dict[int, list[int]] = {}
    for read, good in zip(one, other, strict=True):
        for bit in range(8):
            if (read ^ good) >> bit & 1:
                bits.setdefault(bit, []).append(read >> bit & 1)
    told = {bit: (len(seen), seen[0] if len(set(seen)) == 1 else None)
            for bit, seen in bits.items()}  # fmt: skip
    return sum(a != b for a, b in zip(one, other, strict=True)), told


def through(place: int, line: int, level: int) -> int:
    """The place that is read where a line does not follow."""
    return place | 1 << line if level else place & ~(1 << line)


@settings(max_examples=examples(200))
@given(st.binary(min_size=1, max_size=300), st.randoms(use_true_random=False))
def test_bits_are_those_of_brute_force(good: bytes, chance: random.Random) -> None:
    read = bytes(byte ^ chance.choice((0, 0, 1 << chance.randrange(8))) for byte in good)
    says = compare(read, good)
    differing, bits = by_brute_force(read, good)
    assert says.differing == differing
    assert says.equal is (differing == 0)
    assert {bit: (found.differing, found.reads) for bit, found in says.bits.items()} == bits


@settings(max_examples=examples(60))
@given(st.integers(0, 11), st.integers(0, 1), st.integers(8, 12), st.integers(0, 10**6))
def test_a_stuck_address_line_is_named(line: int, level: int, size: int, seed: int) -> None:
    line %= size
    good = random.Random(seed).randbytes(1 << size)
    read = bytes(good[through(place, line, level)] for place in range(len(good)))
    says = compare(read, good)
    assert set(says.address_lines) == {f"A{line}"}
    assert says.address_lines[f"A{line}"].stuck == level
    assert says.address_lines[f"A{line}"].explains == says.differing
    assert f"A{line} stuck {'high' if level else 'low'}" in says.text


@settings(max_examples=examples(60))
@given(st.integers(0, 7), st.integers(0, 1), st.integers(0, 10**6))
def test_a_stuck_output_is_named(bit: int, level: int, seed: int) -> None:
    good = random.Random(seed).randbytes(512)
    read = bytes(byte | 1 << bit if level else byte & ~(1 << bit) for byte in good)
    says = compare(read, good)
    assert {b: found.reads for b, found in says.bits.items()} == {bit: level}
    assert f"output {bit}, stuck" in says.text
    assert says.address_lines == {}


def swapped(place: int, one: int, other: int) -> int:
    first, second = place >> one & 1, place >> other & 1
    return (place & ~(1 << one | 1 << other)) | first << other | second << one


#: (the dump, what it is told, what it is not)
DUMPS = {
    "an output and a line at once": (
        bytes(GOOD[through(p, 11, 0)] | 8 for p in range(4096)),
        ("A11 stuck low", "bit 3 reads 1"), ("no single output",)),
    "two lines exchanged": (
        bytes(GOOD[swapped(p, 3, 6)] for p in range(4096)), ("A3 and A6 exchanged",), ("stuck",)),
    "two lines joined": (
        bytes(GOOD[p if (p >> 2 & 1) == (p >> 5 & 1) else p & ~0x24] for p in range(4096)),
        ("A2 and A5 joined: both low where one is",), ("stuck",)),
    "two outputs joined": (
        bytes(b if (b >> 2 & 1) == (b >> 5 & 1) else b & ~0x24 for b in GOOD),
        ("outputs 2 and 5 joined",), ("stuck", "cells")),
    "one output that follows its neighbour": (
        bytes(b & ~4 | (b >> 1 & 4) for b in GOOD), ("outputs 2 and 3 joined",), ("cells",)),
    "two data lines crossed": (
        bytes(b & ~0x81 | b >> 7 | (b & 1) << 7 for b in GOOD), ("Bits 0 and 7 are exchanged",),
        ("joined", "stuck")),
    "read through an inverter": (
        bytes(b ^ 255 for b in GOOD), ("inverts",), ("no single output",)),
    "two bytes of an erased chip are no address fault": (
        GOOD[:2] + b"\xff" * 4094, ("differ",), ("joined", "exchanged", "stuck low")),
    "another chip": (random.Random(2).randbytes(4096), ("no single output",), ("stuck", "joined")),
    "blank": (b"\xff" * 4096, ("Blank",), ("stuck",)),
    "nothing answers": (b"\x00" * 4096, ("nothing answers",), ("stuck",)),
    "faded cells of one bit are no stuck output": (
        bytes(b | 8 if p % 7 == 0 else b for p, b in enumerate(GOOD)),
        ("Bit 3 reads 1 wherever it differs, but 0 elsewhere",), ("stuck.",)),
    "faded cells of all bits": (
        bytes(b | (1 << p % 8) for p, b in enumerate(GOOD)), ("faded to erased",), ("stuck",)),
    "one byte": (
        GOOD[:5] + bytes([GOOD[5] ^ 1]) + GOOD[6:],
        ("1 of 4096", "a cell, or a slip", "address 5"), ("stuck",)),
    "the upper half was never written": (
        GOOD[:2048] + b"\xff" * 2048, ("All of it lies where A11 is high",), ("stuck",)),
    "read as a larger chip": (GOOD * 2, ("stands 2 times", "8192 bytes against 4096"), ("stuck",)),
    "cut short": (GOOD[:1000], ("Other sizes", "first bytes agree"), ("2 times",)),
}  # fmt: skip


@pytest.mark.parametrize("case", DUMPS.values(), ids=DUMPS.keys())
def test_a_dump_is_told_by_what_it_shows(
    case: tuple[bytes, tuple[str, ...], tuple[str, ...]],
) -> None:
    dump, said, not_said = case
    says = compare(dump, GOOD)
    assert not says.equal
    assert [text for text in said if text not in says.text] == [], says.text
    assert [text for text in not_said if text in says.text] == [], says.text


@pytest.mark.parametrize(
    ("bad", "lines", "said"),
    [
        (bytes(GOOD[through(p, 11, 0)] for p in range(4096)), {"A11"},
         "The second dump, not the first: Halves alike: A11 stuck low"),
        (b"\xff" * 4096, set(), "The second dump, not the first: Blank"),
        (bytes(byte | 8 for byte in GOOD), set(), "In the second dump bit 3 reads 1 everywhere"),
        (bytes(byte | 8 for byte in GOOD[:64]) + GOOD[64:], set(), "Bit 3 reads 0 wherever"),
    ],
)  # fmt: skip
def test_a_fault_in_the_second_dump_is_not_laid_to_the_first(
    bad: bytes, lines: set[str], said: str
) -> None:
    says = compare(GOOD, bad)
    assert (set(says.address_lines), said in says.text) == (lines, True), says.text


def test_a_checksum_agrees_by_any_of_its_kinds_and_by_no_other() -> None:
    own = sums(GOOD)
    assert own["sum16"] == sum(GOOD) % 65536
    right = (f"{own['sum16']:04X}", f"sum {own['sum16']}.", f"crc32 {own['crc32']:08x}",
             str(own["sha1"]), f"0x{own['sum8']:02X}")  # fmt: skip
    assert [text for text in right if not against_sum(GOOD, text).equal] == []
    wrong = (f"{own['sum16'] ^ 1:04X}", f"crc32 {own['sum32']:08x}", "a" * 40)
    assert [text for text in wrong if against_sum(GOOD, text).equal] == []
    assert f"{own['sum16']:04X}" in against_sum(GOOD, wrong[0]).text


@pytest.mark.parametrize("text", ["", "sum", "xyz", "123456789", "sha1 12", "crc32 123456789"])
def test_what_is_no_checksum_is_refused(text: str) -> None:
    with pytest.raises(InputError):
        against_sum(GOOD, text)


def test_a_dump_alone_is_blank_mirrored_or_has_a_line_without_use() -> None:
    assert alone_says(b"\xff" * 64).is_blank
    assert alone_says(GOOD[:1024] * 4).mirrored_at == 1024
    inner = bytes(GOOD[through(place, 4, 0)] for place in range(1024))
    assert "A4 makes no difference" in alone_says(inner).text
    assert alone_says(bytes(byte | 8 for byte in GOOD)).still_bits == {3: 1}
    assert alone_says(GOOD).text == ""
