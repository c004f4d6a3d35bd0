"""The connections to the database: for writing, for what is derived, for reading."""

from __future__ import annotations

import sqlite3
from pathlib import Path
from typing import Any

from hale_rail.store.backup_files import remedy
from hale_rail.store.error_mapping import translated

#: how long a connection waits for another program's lock, in seconds: a hand waits no longer
BUSY_S = 1.5


class Connection(sqlite3.Connection):
    """A connection whose faults come as errors of ours. `folder`: the data folder it is of."""

    folder: Path | None = None

    def execute(self, *arguments: Any) -> sqlite3.Cursor:
        """Run a statement; raises StoreError where the data folder is at fault."""
        try:
            return super().execute(*arguments)
        except (sqlite3.Error, UnicodeDecodeError) as error:
            ours = translated(error, remedy(self.folder) if self.folder else "")
            if ours is None:
                raise
            raise ours from error


def connect(path: Path) -> Connection:
    """A connection that writes: what it commits is on disk."""
    connection = _opened(str(path), path.parent)
    connection.execute("PRAGMA foreign_keys=ON")
    connection.execute("PRAGMA synchronous=FULL")
    return connection


def connect_to_read(path: Path) -> Connection:
    """A connection that cannot write."""
    return _opened(f"{path.as_uri()}?mode=ro", path.parent)


def _opened(name: str, folder: Path) -> Connection:
    try:
        connection = sqlite3.connect(
            name, uri=name.startswith("file:"), timeout=BUSY_S, isolation_level=None,
            factory=Connection,
        )  # fmt: skip
    except sqlite3.Error as error:
        raise translated(error, remedy(folder)) or error from error
    connection.folder = folder
    connection.row_factory = sqlite3.Row
    return connection
