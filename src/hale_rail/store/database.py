"""A data folder as it is used: transactions, reads, backups.

Writes go through one short immediate transaction each, with `synchronous=FULL`: what was
acknowledged survives a kill. Reads use their own read-only connection with a time limit.
"""

from __future__ import annotations

import sqlite3
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from hale_rail.core import procedures
from hale_rail.core.parts.kinds import KINDS
from hale_rail.core.parts.looks import FINDINGS
from hale_rail.errors import StoreError
from hale_rail.store import backup_files, backups, opening
from hale_rail.store.connections import Connection, connect, connect_to_read
from hale_rail.store.error_mapping import translated
from hale_rail.store.full_backup import DATABASE
from hale_rail.store.ids import new_uuid
from hale_rail.store.kept_files import private_folder, sweep, tighten
from hale_rail.store.migrating import migrations
from hale_rail.store.write_lock import Turns

__all__ = ["DATABASE", "Store"]
READ_LIMIT_S = 5.0
_STEPS_BETWEEN_CHECKS = 20_000


class Store:
    """One data folder. Safe to share between threads: each gets connections of its own."""

    def __init__(self, folder: Path, *, is_trial: bool = False) -> None:
        self.folder = folder.absolute()
        self.path = self.folder / DATABASE
        #: tells this opening of the folder from any other, for what is cached of it
        self.token = new_uuid()
        #: a temporary folder: nothing is computed in the background for its pages
        self.is_trial = is_trial
        #: why the last daily backup is none to rely on, "" where it is
        self.trouble = ""
        self._local = threading.local()
        self._turns = Turns()
        try:
            self._open()
        except StoreError:
            raise
        except (OSError, sqlite3.DatabaseError, UnicodeDecodeError) as error:
            ours = translated(error, backup_files.remedy(self.folder))
            if ours is None:
                text = f"The data folder {folder} cannot be used: {error}"
                raise StoreError(text) from error
            raise type(ours)(f"{folder}: {ours}") from error

    def _open(self) -> None:
        private_folder(self.folder)
        tighten(self.folder, self.path)
        sweep(self.folder)
        opening.look(self.path)
        steps = migrations()
        if not self.path.exists():
            opening.make_new(self.path, steps)
        opening.bring_up(self.path, steps, self.backup)
        opening.use_log(self.path)
        self._learn_words()

    @contextmanager
    def write(self) -> Iterator[sqlite3.Connection]:
        """A transaction: committed and on disk when the block ends, or rolled back whole."""
        with self._turns.turn(), self._transaction("FULL") as connection:
            yield connection

    @contextmanager
    def jot(self) -> Iterator[sqlite3.Connection]:
        """A transaction for what is derived: consistent, but not waited for until it is on disk.

        In WAL a commit that is not synced loses nothing but itself in a crash.
        """
        with self._turns.turn(), self._transaction("NORMAL") as connection:
            yield connection

    @contextmanager
    def _transaction(self, synchronous: str) -> Iterator[sqlite3.Connection]:
        connection = self._own("writer", connect)
        connection.execute(f"PRAGMA synchronous={synchronous}")
        connection.execute("BEGIN IMMEDIATE")
        try:
            yield connection
            connection.execute("COMMIT")
        except BaseException as error:
            connection.rollback()
            ours = translated(error, backup_files.remedy(self.folder))
            if ours is not None:
                raise ours from error
            raise

    def read(self) -> sqlite3.Connection:
        """The thread's read-only connection; a query past the time limit is interrupted."""
        connection = self._own("reader", connect_to_read)
        deadline = time.monotonic() + READ_LIMIT_S
        connection.set_progress_handler(
            lambda: int(time.monotonic() > deadline), _STEPS_BETWEEN_CHECKS
        )
        return connection

    def data_version(self) -> int:
        """A number that is another one once somebody else wrote since this thread last asked."""
        return int(
            self._own("reader", connect_to_read).execute("PRAGMA data_version").fetchone()[0]
        )

    def seen_here(self) -> dict[str, Any]:
        """What this thread keeps of its own beside its connection, which it belongs to."""
        seen: dict[str, Any] | None = getattr(self._local, "seen", None)
        if seen is None:
            seen = self._local.seen = {}
        return seen

    @contextmanager
    def snapshot(self) -> Iterator[sqlite3.Connection]:
        """The thread's read-only connection, seeing one state of the data until the block ends."""
        connection = self.read()
        connection.execute("BEGIN")
        try:
            yield connection
        finally:
            connection.execute("COMMIT")

    def close(self) -> None:
        """Close this thread's connections."""
        self._local.seen = None
        for name in ("reader", "writer"):
            connection = getattr(self._local, name, None)
            if connection is not None:
                connection.close()
                setattr(self._local, name, None)

    def is_usable(self) -> bool:
        """True when the store answers and its schema is the program's."""
        try:
            version = self.read().execute("PRAGMA user_version").fetchone()[0]
        except (sqlite3.Error, StoreError):
            return False
        return bool(version == len(migrations()))

    def backup(self) -> Path:
        """Copy the database into `backups/`; raises CorruptError where it is damaged."""
        return backups.back_up(self.path)

    def backup_if_due(self) -> Path | None:
        """A backup when the newest one is a day old or there is none.

        What is wrong with the newest, or kept it from being made, is not raised: it is in
        `trouble`.
        """
        made = None
        try:
            if backups.is_due(self.folder):
                made = self.backup()
        except (StoreError, OSError, sqlite3.Error) as error:
            self.trouble = f"Today’s backup failed. {translated(error) or error}"
            return None
        newest = backup_files.newest(self.folder)
        self.trouble = backup_files.DOUBT if newest and backup_files.is_doubtful(newest) else ""
        return made

    def _own(self, name: str, connected: Callable[[Path], Connection]) -> Connection:
        """The thread's connection of a name, made when it is first asked for."""
        connection: Connection | None = getattr(self._local, name, None)
        if connection is None:
            connection = connected(self.path)
            setattr(self._local, name, connection)
        return connection

    def _learn_words(self) -> None:
        """Take the program's lists over, so that a new kind or procedure needs no migration."""
        lists = {
            "kind": [kind.code for kind in KINDS],
            "procedure": [procedure.code for procedure in procedures.PROCEDURES],
            "finding": [finding.code for finding in FINDINGS],
        }
        wanted = {(name, code) for name, codes in lists.items() for code in codes}
        rows = self.read().execute("SELECT list, code FROM vocabulary").fetchall()
        missing = sorted(wanted - {(row["list"], row["code"]) for row in rows})
        if missing:
            with self.write() as connection:
                connection.executemany("INSERT OR IGNORE INTO vocabulary VALUES (?, ?)", missing)
