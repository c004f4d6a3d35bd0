"""Photos: rows in the database, files in the data folder under the hash of their bytes."""

from __future__ import annotations

import hashlib
from pathlib import Path

from hale_rail.store.append_only import AppendedRow, AppendOnly
from hale_rail.store.kept_files import write_for_good

FOLDER = "photos"


class Photo(AppendedRow, frozen=True):
    """A photo of a part, or of the unit (None); its size in pixels."""

    part_id: int | None
    sha256: str
    width: int
    height: int
    caption: str


PHOTOS = AppendOnly("photo", Photo)


def path_of(folder: Path, sha256: str, *, thumb: bool = False) -> Path:
    """Where a photo's file lies."""
    return folder / FOLDER / sha256[:2] / f"{sha256}{'.thumb' if thumb else ''}.jpg"


def put_file(folder: Path, full: bytes, thumb: bytes) -> str:
    """Write a photo and its thumbnail to disk for good; returns the hash that names them."""
    sha256 = hashlib.sha256(full).hexdigest()
    for data, is_thumb in ((thumb, True), (full, False)):
        write_for_good(path_of(folder, sha256, thumb=is_thumb), data)
    return sha256
