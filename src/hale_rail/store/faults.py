"""What sqlite3 reports, as errors of ours that say what to do."""

from __future__ import annotations

import sqlite3

from hale_rail.errors import CorruptError, FullError, LockedError, ReadOnlyError, StoreError

#: primary result code of SQLite -> our error and its sentence
FAULTS: dict[int, tuple[type[StoreError], str]] = {
    sqlite3.SQLITE_BUSY: (
        LockedError,
        "Another program holds the database. Close it, then save again; nothing was lost.",
    ),
    sqlite3.SQLITE_LOCKED: (
        LockedError,
        "The database is busy. Save again in a moment; nothing was lost.",
    ),
    sqlite3.SQLITE_FULL: (
        FullError,
        "The disk is full. Make room, then save again; what was saved before is safe.",
    ),
    sqlite3.SQLITE_READONLY: (
        ReadOnlyError,
        "The data folder may not be written. Give yourself the right to, then save again.",
    ),
    sqlite3.SQLITE_CANTOPEN: (
        ReadOnlyError,
        "The database cannot be opened. Check that the data folder is there and is yours.",
    ),
    sqlite3.SQLITE_PERM: (
        ReadOnlyError,
        "The data folder is not yours to write. Change its owner, or choose another with --data.",
    ),
    sqlite3.SQLITE_CORRUPT: (
        CorruptError,
        "The database file is damaged. Stop, copy the folder, then go back to its newest backup.",
    ),
    sqlite3.SQLITE_NOTADB: (
        CorruptError,
        "The file is no database of this program. Choose another folder with --data.",
    ),
    sqlite3.SQLITE_IOERR: (
        StoreError,
        "The disk did not answer. Check it and its cable before more is saved.",
    ),
    sqlite3.SQLITE_INTERRUPT: (
        LockedError,
        "The question took too long and was stopped. Try again; nothing was lost.",
    ),
}


def translated(error: sqlite3.Error) -> StoreError | None:
    """Our error for one of sqlite3's, or None where it is not about the data folder."""
    code = getattr(error, "sqlite_errorcode", None)
    if code is None:
        return None
    found = FAULTS.get(code & 0xFF)
    return found[0](found[1]) if found else None
