"""Wave records: rows in the database, the original files under the hash of their bytes.

Beside an original lie arrays that follow from it, for the view; they may be thrown away.
"""

from __future__ import annotations

import hashlib
import sqlite3
from collections.abc import Mapping
from pathlib import Path
from typing import IO, Any

from hale_rail.core.arrays import np
from hale_rail.core.targets import Target
from hale_rail.store.append_only import AppendedRow, AppendOnly
from hale_rail.store.kept_files import write_for_good, writing
from hale_rail.store.readings import target_id

FOLDER = "records"
_CHUNK = 1 << 20


class WaveRow(AppendedRow, frozen=True):
    """A record as stored: of which rail, its file's name, and the hash of its bytes."""

    rail: str
    name: str
    sha256: str


class WaveSetting(AppendedRow, frozen=True):
    """What was said of a record: fields by name."""

    record_id: int
    body: Mapping[str, Any]


_RAIL = "(SELECT key FROM rail JOIN target AS t ON rail.id = t.rail_id WHERE t.id = target_id)"
WAVE_RECORDS = AppendOnly("wave_record", WaveRow, looked_up={"rail": _RAIL})
WAVE_SETTINGS = AppendOnly("wave_setting", WaveSetting, newest_by=lambda row: row.record_id)


def path_of(folder: Path, sha256: str) -> Path:
    """Where a record's original lies."""
    return folder / FOLDER / sha256[:2] / f"{sha256}.wave"


def put_file(folder: Path, source: IO[bytes]) -> str:
    """Write an original to disk for good; returns the hash that names it."""
    digest = hashlib.sha256()
    with writing(folder / FOLDER / "incoming") as made:
        while chunk := source.read(_CHUNK):
            digest.update(chunk)
            made.file.write(chunk)
        made.target = path_of(folder, digest.hexdigest())
    return digest.hexdigest()


def drop_unused(connection: sqlite3.Connection, folder: Path, sha256: str) -> None:
    """Take an original away again that no record names: it was refused."""
    row = connection.execute("SELECT 1 FROM wave_record WHERE sha256 = ?", (sha256,)).fetchone()
    if row is None:
        path_of(folder, sha256).unlink(missing_ok=True)


def put_arrays(folder: Path, key: str, arrays: Mapping[str, Any]) -> None:
    """Keep what follows from a record under a key of its own; each array can be read in parts."""
    place = _arrays(folder, key)
    for name, array in arrays.items():
        with writing(place / f"{name}.npy") as made:
            np.save(made.file, np.asarray(array), allow_pickle=False)
    write_for_good(place / "whole", b"")


def arrays_of(folder: Path, key: str) -> dict[str, Any] | None:
    """The arrays of a key, read as they are wanted, or None where they were not made."""
    place = _arrays(folder, key)
    if not (place / "whole").exists():
        return None
    return {
        path.stem: np.load(path, mmap_mode="r", allow_pickle=False) for path in place.glob("*.npy")
    }


def _arrays(folder: Path, key: str) -> Path:
    return folder / FOLDER / "views" / key[:32]


def insert(
    connection: sqlite3.Connection,
    case_id: int,
    sheet_id: int,
    log_id: int,
    target: Target,
    name: str,
    sha256: str,
) -> int:
    """Append a record; returns its id."""
    row = WaveRow(target.rail, name, sha256)
    target_row = target_id(connection, case_id, sheet_id, target)
    return WAVE_RECORDS.insert(connection, case_id, log_id, row, target_id=target_row)
