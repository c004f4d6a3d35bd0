"""Checksums of a dump, and one as it is written: a sum, a CRC-32, a SHA-1.

Source: docs/formulas.md, “Behind the supply”. A sum is of all bytes, modulo 2^8, 2^16 or 2^32.
"""

from __future__ import annotations

import hashlib
import re
import zlib

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import tidy


def sums(data: bytes) -> dict[str, int | str]:
    """The checksums of a dump: sum modulo 2^16 and 2^32, CRC-32, SHA-1."""
    total = sum(data)
    return {
        "sum8": total & 0xFF,
        "sum16": total & 0xFFFF,
        "sum32": total & 0xFFFFFFFF,
        "crc32": zlib.crc32(data),
        "sha1": hashlib.sha1(data, usedforsecurity=False).hexdigest(),
    }


_KINDS = {"sum": ("sum8", "sum16", "sum32"), "crc": ("crc32",), "crc32": ("crc32",),
          "crc-32": ("crc32",), "sha1": ("sha1",), "sha-1": ("sha1",)}  # fmt: skip
_SHOWN = {"sum8": "sum of 8 bits", "sum16": "sum of 16 bits", "sum32": "sum of 32 bits",
          "crc32": "CRC-32", "sha1": "SHA-1"}  # fmt: skip
_WIDTH = {"sum8": 2, "sum16": 4, "sum32": 8, "crc32": 8}
_FIGURES = re.compile(r"(?:0x|\$|&h)?([0-9a-f]{1,40})h?", re.IGNORECASE)


def matches(data: bytes, checksum: str) -> tuple[str, str]:
    """Which checksum agrees ("" for none), and what the dump gives instead."""
    kind, figures, is_decimal = read_checksum(checksum)
    names = _kinds_of(kind, figures)
    own = sums(data)
    for name in names:
        if name == "sha1":
            if own["sha1"] == figures:
                return _SHOWN[name], ""
            continue
        values = {int(figures, 16)} if not is_decimal else {int(figures)}
        if kind == "sum" and figures.isdecimal() and not is_decimal:
            values.add(int(figures))
        if own[name] in values:
            return _SHOWN[name], ""
    told = ", ".join(f"{_SHOWN[name]} {_written(own[name], name)}" for name in names)
    return "", f"it gives {told}"


def _written(value: int | str, name: str) -> str:
    return value if isinstance(value, str) else f"{value:0{_WIDTH[name]}X}"


def read_checksum(text: str) -> tuple[str, str, bool]:
    """A checksum as it is written: its kind ("" where only its length tells), figures, decimal.

    `1A2B`, `sum 6699.`, `crc32 89abcdef`, a SHA-1 of forty figures. Raises InputError.
    """
    clean = tidy(text).lower().replace(":", " ").replace("=", " ")
    kind, _, rest = clean.partition(" ")
    if kind not in _KINDS:
        kind, rest = "", clean
    figures = rest.replace(" ", "")
    is_decimal = figures.endswith(".") and figures[:-1].isdecimal()
    match = _FIGURES.fullmatch(figures.rstrip("."))
    if not match:
        raise InputError(
            f"“{text.strip()[:20]}” is no checksum: write sum 1A2B, crc32 89ABCDEF, or the forty "
            "figures of a SHA-1."
        )
    return kind, match[1], is_decimal


def _kinds_of(kind: str, figures: str) -> tuple[str, ...]:
    """The checksums that so many figures may be."""
    if kind and kind != "sum":
        names = _KINDS[kind]
        wanted = 40 if names == ("sha1",) else 8
        if len(figures) > wanted or (wanted == 40 and len(figures) != 40):
            raise InputError(f"A {_SHOWN[names[0]]} has {wanted} figures, not {len(figures)}.")
        return names
    if len(figures) == 40 and not kind:
        return ("sha1",)
    if len(figures) > 8:
        raise InputError(
            f"A checksum of {len(figures)} figures is not known: 4 a sum, 8 a CRC-32, 40 a SHA-1."
        )
    if kind == "sum":
        return _KINDS["sum"]
    return {1: ("sum8",), 2: ("sum8",)}.get(
        len(figures), ("sum16",) if len(figures) <= 4 else ("crc32", "sum32")
    )
