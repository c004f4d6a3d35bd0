"""Photos: rows in the database, files in the data folder under the hash of their bytes."""

from __future__ import annotations

import hashlib
import sqlite3
from pathlib import Path

from msgspec import Struct

from hale_rail.store.ids import new_uuid
from hale_rail.store.kept_files import write_for_good

FOLDER = "photos"


class Photo(Struct, frozen=True):
    """A photo as stored."""

    id: int
    part_id: int | None
    sha256: str
    width: int
    height: int
    caption: str
    added_at: str


def path_of(folder: Path, sha256: str, *, thumb: bool = False) -> Path:
    """Where a photo's file lies."""
    return folder / FOLDER / sha256[:2] / f"{sha256}{'.thumb' if thumb else ''}.jpg"


def put_file(folder: Path, full: bytes, thumb: bytes) -> str:
    """Write a photo and its thumbnail to disk for good; returns the hash that names them."""
    sha256 = hashlib.sha256(full).hexdigest()
    for data, is_thumb in ((thumb, True), (full, False)):
        write_for_good(path_of(folder, sha256, thumb=is_thumb), data)
    return sha256


def insert(
    connection: sqlite3.Connection,
    case_id: int,
    log_id: int,
    part_id: int | None,
    sha256: str,
    size: tuple[int, int],
    caption: str,
) -> None:
    """Append a photo of a part, or of the unit (None); `size` in pixels."""
    connection.execute(
        "INSERT INTO photo (uuid, case_id, log_id, part_id, sha256, width, height, caption)"
        " VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, part_id, sha256, *size, caption),
    )


def of_case(connection: sqlite3.Connection, case_id: int) -> list[Photo]:
    """Every photo of a case, oldest first."""
    rows = connection.execute(
        "SELECT p.id, p.part_id, p.sha256, p.width, p.height, p.caption, l.at"
        " FROM photo AS p JOIN log AS l ON l.id = p.log_id WHERE p.case_id = ? ORDER BY p.id",
        (case_id,),
    )
    return [Photo(*row) for row in rows]
