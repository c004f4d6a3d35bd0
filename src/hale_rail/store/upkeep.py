"""Looking after a data folder: is it whole, and putting a backup back."""

from __future__ import annotations

import shutil
import sqlite3
import tempfile
from contextlib import closing
from pathlib import Path

from hale_rail.errors import StoreError
from hale_rail.store import documents, photos, waves
from hale_rail.store.database import DATABASE, Store

_MOST_TOLD = 20


def problems(store: Store) -> list[str]:
    """What is wrong with a data folder, in sentences; empty when it is whole."""
    found = damage(store)
    kept = (
        "SELECT sha256 FROM photo UNION"
        " SELECT json_extract(body, '$.picture.sha256') FROM board_map"
        " WHERE json_extract(body, '$.picture.sha256') <> ''"
    )
    for row in store.read().execute(kept):
        for is_thumb in (False, True):
            path = photos.path_of(store.folder, row["sha256"], thumb=is_thumb)
            if not path.exists():
                found.append(f"The photo {path.relative_to(store.folder)} is missing.")
    for row in store.read().execute("SELECT DISTINCT sha256, media_type FROM document"):
        path = documents.path_of(store.folder, row["sha256"], row["media_type"])
        if not path.exists():
            found.append(f"The drawing {path.relative_to(store.folder)} is missing.")
    for row in store.read().execute("SELECT DISTINCT sha256 FROM wave_record"):
        path = waves.path_of(store.folder, row["sha256"])
        if not path.exists():
            found.append(f"The wave record {path.relative_to(store.folder)} is missing.")
    return found


def damage(store: Store) -> list[str]:
    """What is wrong within the database itself, in sentences."""
    connection = store.read()
    found = [
        f"The database is damaged: {row[0]}."
        for row in connection.execute(f"PRAGMA integrity_check({_MOST_TOLD})")
        if row[0] != "ok"
    ]
    found += [
        f"A row of {row[0]} names one of {row[2]} that is not there."
        for row in connection.execute("PRAGMA foreign_key_check").fetchmany(_MOST_TOLD)
    ]
    return found


def restore(folder: Path, source: Path) -> Path:
    """Put a backup in place of a folder's database; returns the backup made of what stood there.

    The backup is opened as a copy first, brought up to date and checked. Raises StoreError for a
    file that is none of ours or damaged; nothing was changed then.
    """
    if not source.is_file():
        raise StoreError(f"There is no file {source}.")
    with tempfile.TemporaryDirectory(prefix="hale-rail-") as place:
        shutil.copyfile(source, Path(place) / DATABASE)
        copy = Store(Path(place))
        with closing(copy):
            if damage(copy):
                raise StoreError(f"{source} is damaged; nothing was changed. Try an older backup.")
        store = Store(folder)
        with closing(store):
            before = store.backup()
        with (
            closing(sqlite3.connect(Path(place) / DATABASE)) as good,
            closing(sqlite3.connect(folder / DATABASE)) as live,
        ):
            good.backup(live)
    return before
