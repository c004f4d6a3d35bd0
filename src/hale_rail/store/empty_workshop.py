"""An empty workshop as it ships: what the migrations make of nothing, with the program's lists in
it, made once (`make schema`).

They are some 200 statements, and every start in an empty folder and every command that works on
files would run them.
"""

from __future__ import annotations

import hashlib
import zlib
from collections.abc import Sequence
from functools import cache
from importlib import resources

from hale_rail.store.migrating import Migration

NAME = "empty_workshop.bin"
_DIGEST_BYTES = 32


def shipped(steps: Sequence[Migration]) -> bytes | None:
    """The database that these migrations make; None where what ships was made by others."""
    source = resources.files("hale_rail.store") / NAME
    packed = source.read_bytes() if source.is_file() else b""
    if packed[:_DIGEST_BYTES] != _digest(steps):
        return None
    return _unpacked(packed[_DIGEST_BYTES:])


@cache
def _unpacked(packed: bytes) -> bytes:
    return zlib.decompress(packed)


def packed(steps: Sequence[Migration], database: bytes) -> bytes:
    """What ships for these migrations: their digest, and the database of a workshop in which
    nothing was done yet, deflated."""
    return _digest(steps) + zlib.compress(database, 9)


def _digest(steps: Sequence[Migration]) -> bytes:
    return hashlib.sha256("".join(checksum for _, _, checksum in steps).encode()).digest()
