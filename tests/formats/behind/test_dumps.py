"""Dumps as programmers write them: records written here are read back, broken ones are told."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.core.errors import InputError
from hale_rail.formats.behind.dumps import read_dump
from tests.sizes import examples


def intel(data: bytes, at: int = 0, row: int = 16) -> str:
    """Intel HEX with an extended address where it is needed."""
    lines, upper = [], None
    for place in range(0, len(data), row):
        address, chunk = at + place, data[place : place + row]
        chunk = chunk[: 0x10000 - (address & 0xFFFF)]
        if address >> 16 != upper:
            upper = address >> 16
            lines.append(_record(0, 4, upper.to_bytes(2, "big")))
        lines.append(_record(address & 0xFFFF, 0, chunk))
    return "\n".join([*lines, ":00000001FF", ""])


def _record(address: int, kind: int, data: bytes) -> str:
    body = bytes([len(data)]) + address.to_bytes(2, "big") + bytes([kind]) + data
    return ":" + (body + bytes([-sum(body) & 0xFF])).hex().upper()


def motorola(data: bytes, at: int = 0, row: int = 16) -> str:
    lines = ["S0030000FC"]
    for place in range(0, len(data), row):
        chunk = (at + place).to_bytes(3, "big") + data[place : place + row]
        body = bytes([len(chunk) + 1]) + chunk
        lines.append("S2" + (body + bytes([~sum(body) & 0xFF])).hex().upper())
    return "\r\n".join([*lines, "S804000000FB"])


@settings(max_examples=examples(60))
@given(st.binary(min_size=1, max_size=400), st.sampled_from([0, 0xF000, 0x20000]))
def test_records_are_read_back_from_their_lowest_address(data: bytes, at: int) -> None:
    assert read_dump(intel(data, at).encode()) == data
    assert read_dump(motorola(data, at).encode()) == data


@given(st.binary(min_size=1, max_size=100).filter(lambda data: data[:1] not in (b":", b"S", b"s")))
@settings(max_examples=examples(40))
def test_what_is_no_text_of_records_is_the_bytes_themselves(data: bytes) -> None:
    kept = data if data.lstrip()[:1] not in (b":", b"S", b"s") else b"\x00" + data
    assert read_dump(kept) == kept


def test_a_gap_reads_as_an_erased_chip() -> None:
    text = f"{_record(0, 0, b'AB')}\n{_record(6, 0, b'C')}\n:00000001FF"
    assert read_dump(text.encode()) == b"AB\xff\xff\xff\xffC"


GOOD = intel(bytes(range(40)))
_AT_FIRST = _record(0, 0, b"A")
FAR = "\n".join([_AT_FIRST, _record(0, 4, b"\xff\xff"), _AT_FIRST, ":00000001FF"])
BROKEN = {
    "a wrong checksum": (GOOD.replace(":10", ":11", 1), "line 2"),
    "a line cut short": (GOOD[:60], "cut short|checksum"),
    "no end": (GOOD.replace(":00000001FF", ""), "no end record"),
    "an unknown type": (_record(0, 9, b"A") + "\n:00000001FF", "type 9"),
    "an address twice": (f"{_record(0, 0, b'A')}\n{_record(0, 0, b'B')}\n:00000001FF", "twice"),
    "only an end": (":00000001FF", "no data"),
    "a broken S-record": ("S1130000\n", "not an S-record"),
    "a far reach": (FAR, "reaches over"),
    "nothing": ("", "empty"),
}  # fmt: skip


@pytest.mark.parametrize("case", BROKEN.values(), ids=BROKEN.keys())
def test_a_broken_file_is_told_with_its_line(case: tuple[str, str]) -> None:
    text, words = case
    with pytest.raises(InputError, match=words):
        read_dump(text.encode())
