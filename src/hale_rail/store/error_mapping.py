"""What sqlite3 and the operating system report, as errors of ours that say what to do."""

from __future__ import annotations

import errno
import sqlite3
from collections.abc import Mapping

from hale_rail.errors import CorruptError, FullError, LockedError, ReadOnlyError, StoreError

Fault = tuple[type[StoreError], str]
BUSY = "Another bench is writing. Press again in a moment; nothing was lost."
_FULL = (
    "The disk is full. Make room on it, then press again; what was saved before is safe, "
    "and this was not saved."
)
_READ_ONLY = (
    "The data folder may not be written. Give the user who runs Hale Rail the right to, or have "
    "its disk mounted for writing, then press again; this was not saved."
)
_IO = "The disk did not answer. Check it and its cable before more is saved; this was not saved."
_NOT_OPENED = (
    "The database cannot be opened. Check that the data folder is there, is yours, and that its "
    "disk may be written and is not full."
)
_MANY_FILES = "Too many files are open on this machine. Close something, then press again."
_SCHEMA = b"database schema"
#: result code of SQLite, extended where it says more -> our error and its sentence
FAULTS: Mapping[int, Fault] = {
    sqlite3.SQLITE_BUSY: (LockedError, BUSY),
    sqlite3.SQLITE_LOCKED: (LockedError, BUSY),
    sqlite3.SQLITE_FULL: (FullError, _FULL),
    sqlite3.SQLITE_IOERR_SHMSIZE: (FullError, _FULL),
    sqlite3.SQLITE_READONLY: (ReadOnlyError, _READ_ONLY),
    sqlite3.SQLITE_CANTOPEN: (
        ReadOnlyError,
        _NOT_OPENED,
    ),
    sqlite3.SQLITE_PERM: (
        ReadOnlyError,
        "The data folder is not yours to write. Change its owner, or choose another with --data.",
    ),
    sqlite3.SQLITE_CORRUPT: (CorruptError, "The database file is damaged."),
    sqlite3.SQLITE_NOTADB: (CorruptError, "The file is not a database of this program."),
    sqlite3.SQLITE_IOERR: (StoreError, _IO),
    sqlite3.SQLITE_INTERRUPT: (
        LockedError,
        "The question took too long and was stopped. Try again; nothing was lost.",
    ),
}
_OS_FAULTS: Mapping[int, Fault] = {
    errno.ENOSPC: (FullError, _FULL),
    errno.EDQUOT: (FullError, _FULL),
    errno.EFBIG: (FullError, _FULL),
    errno.EROFS: (ReadOnlyError, _READ_ONLY),
    errno.EACCES: (ReadOnlyError, _READ_ONLY),
    errno.EPERM: (ReadOnlyError, _READ_ONLY),
    errno.EIO: (StoreError, _IO),
    errno.EMFILE: (StoreError, _MANY_FILES),
    errno.ENFILE: (StoreError, _MANY_FILES),
}


def translated(error: BaseException, remedy: str = "") -> StoreError | None:
    """Our error for one of sqlite3's or the system's; None where it is not about the data folder.

    `remedy`: what helps where the database is damaged, added to the sentence.
    """
    if isinstance(error, sqlite3.Error):
        code = getattr(error, "sqlite_errorcode", None)
        types = FAULTS.get(code) or FAULTS.get(code & 0xFF) if code is not None else None
    elif isinstance(error, UnicodeDecodeError) and _SCHEMA in error.object:
        types = FAULTS[sqlite3.SQLITE_CORRUPT]  # sqlite3's error message itself was unreadable
    elif isinstance(error, OSError):
        types = _OS_FAULTS.get(error.errno or 0)
    else:
        types = None
    if types is None:
        return None
    kind, text = types
    return kind(f"{text} {remedy}".strip() if kind is CorruptError else text)
