"""An empty workshop as it ships: what the migrations make of nothing, made once (`make schema`).

They are some 200 statements, and every start in an empty folder and every command that works on
files would run them.
"""

from __future__ import annotations

import hashlib
import tempfile
import zlib
from collections.abc import Sequence
from importlib import resources
from pathlib import Path

from hale_rail.store.migrating import Migration, migrate

NAME = "empty_workshop.bin"
_DIGEST_BYTES = 32


def shipped(steps: Sequence[Migration]) -> bytes | None:
    """The database that these migrations make; None where what ships was made by others."""
    source = resources.files("hale_rail.store") / NAME
    packed = source.read_bytes() if source.is_file() else b""
    if packed[:_DIGEST_BYTES] != _digest(steps):
        return None
    return zlib.decompress(packed[_DIGEST_BYTES:])


def packed_anew(steps: Sequence[Migration]) -> bytes:
    """What ships for these migrations: their digest, and the database that they make, deflated."""
    with tempfile.TemporaryDirectory() as folder:
        made = Path(folder) / NAME
        migrate(made, steps, is_synced=False)
        return _digest(steps) + zlib.compress(made.read_bytes(), 9)


def _digest(steps: Sequence[Migration]) -> bytes:
    return hashlib.sha256("".join(checksum for _, _, checksum in steps).encode()).digest()
