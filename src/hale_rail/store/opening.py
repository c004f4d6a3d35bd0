"""A data folder at start-up: looked at before anything is opened, made new, or brought up to date.

A workshop that was cut off or is gone is never taken for an empty one: what would start over there
would in time push the good backups out.
"""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Callable, Sequence
from contextlib import closing, suppress
from pathlib import Path

from hale_rail.errors import CorruptError
from hale_rail.store import backup_files
from hale_rail.store.connections import connect
from hale_rail.store.empty_workshop import shipped
from hale_rail.store.kept_files import name_new, open_private, partial_of
from hale_rail.store.migrating import Migration, migrate, pending, rehearse

_MAGIC = b"SQLite format 3\x00"
_HEADER = 100
_LARGEST_PAGE = 65_536


def look(path: Path) -> None:
    """Look at the file before it is opened; raises CorruptError with what to do.

    Its header must be a database's, and its size what the header says (by the file format of
    SQLite: page size at byte 16, pages at byte 28, valid where the counters at 24 and 92 agree).
    """
    remedy = backup_files.remedy(path.parent)
    if not path.exists():
        if backup_files.newest_good(path.parent):
            raise CorruptError(
                f"{path} is not there, though there are backups of it. {remedy}. To begin an empty "
                "workshop instead, use another folder (--data)."
            )
        return
    size = path.stat().st_size
    if size == 0:
        raise CorruptError(f"{path} is empty (0 bytes): it was cut off. {remedy}")
    with path.open("rb") as file:
        header = file.read(_HEADER)
    if header[: len(_MAGIC)] != _MAGIC or len(header) < _HEADER:
        raise CorruptError(f"{path} is not a database of this program. {remedy}")
    wanted = _size_of(header)
    if size < wanted and not _has_log(path):
        raise CorruptError(f"{path} was cut off: it has {size} bytes of {wanted}. {remedy}")


def _size_of(header: bytes) -> int:
    """The size in bytes that a database's header states, 0 where it states none."""
    page = int.from_bytes(header[16:18], "big")
    page = _LARGEST_PAGE if page == 1 else page
    is_stated = header[24:28] == header[92:96]
    return page * int.from_bytes(header[28:32], "big") if is_stated else 0


def _has_log(path: Path) -> bool:
    """True where a write-ahead log still holds pages of it."""
    log = path.with_name(f"{path.name}-wal")
    return log.exists() and log.stat().st_size > 0


def make_new(path: Path, steps: Sequence[Migration]) -> None:
    """A new, empty workshop: made beside, then named at once, so that it is whole or not there."""
    partial = partial_of(path)
    try:
        made = shipped(steps)
        with os.fdopen(open_private(partial), "wb") as file:
            file.write(made or b"")
        if made is None:
            migrate(partial, steps, is_synced=False)
        with partial.open("rb") as file:
            os.fsync(file.fileno())
        with suppress(FileExistsError):  # another start was first
            name_new(partial, path)
    finally:
        for left in path.parent.glob(f"{partial.name}*"):
            left.unlink(missing_ok=True)


def bring_up(path: Path, steps: Sequence[Migration], back_up: Callable[[], object]) -> None:
    """Bring a workshop up to date: a backup, each change tried on a copy, then done.

    Raises CorruptError, OldLayoutError, NewerStoreError or MigrationError; nothing was changed.
    """
    if not pending(path, steps):
        return
    back_up()
    rehearse(path, steps)
    migrate(path, steps)


def use_log(path: Path) -> None:
    """Have writes go through a write-ahead log, so that nobody who reads waits for them.

    By the file format of SQLite bytes 18 and 19 are 2 where they do.
    """
    with path.open("rb") as file:
        if file.read(_HEADER)[18:20] == b"\x02\x02":
            return
    with closing(connect(path)) as connection:
        mode = connection.execute("PRAGMA journal_mode=WAL").fetchone()[0]
        if mode != "wal":
            raise sqlite3.OperationalError(f"journal mode is {mode}")
