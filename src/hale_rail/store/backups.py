"""Backups of the database: made with SQLite's backup interface, judged, and rotated by age."""

from __future__ import annotations

import os
import sqlite3
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path

from hale_rail.errors import CorruptError
from hale_rail.store import backup_files
from hale_rail.store.connections import Connection, connect_to_read
from hale_rail.store.kept_files import partial_of, private_folder, settle
from hale_rail.store.migrating import damage, open_copy

_DAY = timedelta(days=1)
#: how far two clocks may be apart
_OFF = timedelta(minutes=5)
#: a backup that holds less than this share of the one before is doubtful
_LEAST_SHARE = 0.5
#: with so few entries, a loss is noticed
_FEW = 10


def back_up(path: Path, *, is_meant: bool = False) -> Path:
    """Copy the database into `backups/`; returns the copy, which is named doubtful where it is.

    `is_meant`: that it holds less is what somebody wanted, who put an older workshop back; what
    follows is held against this one then. A doubtful one takes no good one's place. Raises
    CorruptError for a database that is damaged, whose copy is kept as doubtful, and StoreError for
    a disk at fault.
    """
    folder = path.parent
    private_folder(folder / backup_files.FOLDER)
    partial = partial_of(backup_files.new_name(folder))
    try:
        open_copy(path, partial)
        problems = _damage_of(partial)
        before = None if is_meant else backup_files.newest_good(folder)
        is_doubtful = bool(problems) or _is_less(partial, before)
        target = backup_files.new_name(folder, is_doubtful=is_doubtful)
        _put(partial, target)
    finally:
        for left in partial.parent.glob(f"{partial.name}*"):
            left.unlink(missing_ok=True)
    backup_files.rotate(folder, is_doubtful=is_doubtful)
    if problems:
        raise CorruptError(f"{problems[0]} {backup_files.remedy(folder)}")
    return target


def _put(partial: Path, target: Path) -> None:
    with partial.open("rb") as file:
        os.fsync(file.fileno())
    partial.replace(target)
    settle(target)


def is_due(folder: Path) -> bool:
    """True when the newest backup is a day old, or there is none.

    One that is stamped in the future, by a clock that was wrong then or is now, says nothing.
    """
    now = datetime.now(UTC)
    made = [at for at in backup_files.moments(folder) if at <= now + _OFF]
    return not made or now - max(made) >= _DAY


def _damage_of(copy: Path) -> list[str]:
    with closing(connect_to_read(copy)) as connection:
        try:
            return damage(connection)
        except (sqlite3.Error, CorruptError) as error:
            return [f"The database is damaged: {error}."]


def _is_less(copy: Path, before: Path | None) -> bool:
    """True for a copy that holds far less than the newest good one: entries are never removed."""
    if before is None:
        return False
    then = _entries(before)
    return then > _FEW and _entries(copy) < then * _LEAST_SHARE


def _entries(path: Path) -> int:
    with closing(connect_to_read(path)) as connection:
        return _counted(connection)


def _counted(connection: Connection) -> int:
    try:
        return int(connection.execute("SELECT count(*) FROM log").fetchone()[0])
    except (sqlite3.Error, CorruptError):
        return 0
