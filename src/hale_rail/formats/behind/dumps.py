"""Reads a ROM's dump: plain binary, Intel HEX, or Motorola S-records, told by their content."""

from __future__ import annotations

import re
from pathlib import Path

from hale_rail.core.behind.rom import MOST_BYTES
from hale_rail.core.errors import InputError

_HEX_LINE = re.compile(rb":[0-9A-Fa-f]+")
_S_LINE = re.compile(rb"[Ss][0-9][0-9A-Fa-f]+")
#: bytes of an address by the type of an S-record that has data
_S_ADDRESS = {"1": 2, "2": 3, "3": 4}
_S_OTHER = {"0": 2, "5": 2, "6": 3, "7": 4, "8": 3, "9": 2}
#: what an erased chip reads between what a file gives
ERASED = 0xFF


def read_dump_file(path: Path) -> bytes:
    """The dump of a file; raises InputError naming it."""
    try:
        if path.stat().st_size > 4 * MOST_BYTES:
            raise InputError(f"{path} is too large for a dump.")
        data = path.read_bytes()
    except OSError as error:
        raise InputError(f"{path} cannot be read: {error.strerror}.") from error
    try:
        return read_dump(data)
    except InputError as error:
        raise InputError(f"{path}: {error}") from error


def read_dump(data: bytes) -> bytes:
    """The bytes of a dump from its lowest address; raises InputError naming the line.

    A file whose first line is a record is text of records; any other is the bytes themselves. Gaps
    are filled as an erased chip reads.
    """
    lines = _text_lines(data)
    if lines and _HEX_LINE.fullmatch(lines[0][1]):
        image = _intel(lines)
    elif lines and _S_LINE.fullmatch(lines[0][1]):
        image = _motorola(lines)
    else:
        if not data:
            raise InputError("The dump is empty.")
        if len(data) > MOST_BYTES:
            raise InputError(f"The dump has {len(data)} bytes: at most {MOST_BYTES >> 20} MB.")
        return data
    return _flat(image)


def _text_lines(data: bytes) -> list[tuple[int, bytes]]:
    """The lines of a text with their numbers; [] for what cannot be one."""
    plain = data.removeprefix(b"\xef\xbb\xbf")
    if b"\x00" in plain[:4096] or plain.lstrip()[:1] not in (b":", b"S", b"s"):
        return []
    stripped = enumerate((line.strip() for line in plain.splitlines()), 1)
    return [(number, line) for number, line in stripped if line]


def _bytes(number: int, figures: bytes) -> bytes:
    try:
        return bytes.fromhex(figures.decode("ascii"))
    except ValueError as error:
        raise InputError(f"line {number} is not a record") from error


def _intel(lines: list[tuple[int, bytes]]) -> dict[int, bytes]:
    image: dict[int, bytes] = {}
    base, is_ended = 0, False
    for number, line in lines:
        record = _bytes(number, line[1:]) if _HEX_LINE.fullmatch(line) else b""
        if len(record) < 5 or record[0] != len(record) - 5:
            raise InputError(f"line {number} is not an Intel HEX record, or is cut short")
        if sum(record) & 0xFF:
            raise InputError(f"line {number}: its checksum is wrong")
        kind, payload = record[3], record[4:-1]
        if kind == 0:
            _put(image, base + int.from_bytes(record[1:3], "big"), payload, number)
        elif kind == 1:
            is_ended = True
        elif kind in (2, 4):
            base = int.from_bytes(payload, "big") << (4 if kind == 2 else 16)
        elif kind not in (3, 5):
            raise InputError(f"line {number}: records of type {kind} are not known")
    if not is_ended:
        raise InputError("the file has no end record: it is cut short")
    return image


def _motorola(lines: list[tuple[int, bytes]]) -> dict[int, bytes]:
    image: dict[int, bytes] = {}
    for number, line in lines:
        kind = line[1:2].decode("ascii", "replace")
        record = _bytes(number, line[2:]) if _S_LINE.fullmatch(line) else b""
        width = _S_ADDRESS.get(kind) or _S_OTHER.get(kind)
        if not record or record[0] != len(record) - 1 or not width or len(record) < width + 2:
            raise InputError(f"line {number} is not an S-record, or is cut short")
        if sum(record) & 0xFF != 0xFF:
            raise InputError(f"line {number}: its checksum is wrong")
        if kind in _S_ADDRESS:
            at = int.from_bytes(record[1 : 1 + width], "big")
            _put(image, at, record[1 + width : -1], number)
    return image


def _put(image: dict[int, bytes], at: int, data: bytes, number: int) -> None:
    if at in image and image[at] != data:
        raise InputError(f"line {number}: address {at:X} is given twice")
    if data:
        image[at] = data


def _flat(image: dict[int, bytes]) -> bytes:
    if not image:
        raise InputError("the file has no data record")
    first = min(image)
    end = max(at + len(data) for at, data in image.items())
    if end - first > MOST_BYTES:
        raise InputError(f"the file reaches over more than {MOST_BYTES >> 20} MB")
    flat = bytearray([ERASED]) * (end - first)
    for at, data in image.items():
        flat[at - first : at - first + len(data)] = data
    return bytes(flat)
