"""Files beside the database, under the hash of their bytes: on disk before they are named."""

from __future__ import annotations

import os
from pathlib import Path


def write_for_good(target: Path, data: bytes) -> None:
    """Write a file whole and to the disk, or not at all."""
    target.parent.mkdir(parents=True, exist_ok=True)
    partial = target.with_suffix(f".{os.getpid()}.part")
    with partial.open("wb") as file:
        file.write(data)
        file.flush()
        os.fsync(file.fileno())
    partial.replace(target)
