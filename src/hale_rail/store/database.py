"""Opens the data folder: migrations, connections, transactions, backups. The only connections made.

Writes go through one short immediate transaction each, with `synchronous=FULL`: what was
acknowledged survives a kill. Reads use their own read-only connection with a time limit.
"""

from __future__ import annotations

import hashlib
import sqlite3
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from datetime import UTC, datetime
from importlib import resources
from pathlib import Path
from typing import Any

from hale_rail.core import procedures
from hale_rail.core.parts.kinds import KINDS
from hale_rail.core.parts.looks import FINDINGS
from hale_rail.errors import MigrationError, NewerStoreError, OldLayoutError, StoreError
from hale_rail.store.faults import translated
from hale_rail.store.ids import new_uuid

DATABASE = "hale-rail.db"
#: the first migration of the layout before the first release
_OLD_LAYOUT = "0001_first_case.sql"
BACKUPS_KEPT = 10
READ_LIMIT_S = 5.0
_BUSY_S = 10.0
_DAY_S = 86_400
_STEPS_BETWEEN_CHECKS = 20_000


class _Connection(sqlite3.Connection):
    """A connection whose faults come as errors of ours."""

    def execute(self, *arguments: Any) -> sqlite3.Cursor:
        """Run a statement; raises StoreError where the data folder is at fault."""
        try:
            return super().execute(*arguments)
        except sqlite3.Error as error:
            ours = translated(error)
            if ours is None:
                raise
            raise ours from error


class Store:
    """One data folder. Safe to share between threads: each gets connections of its own."""

    def __init__(self, folder: Path, *, is_trial: bool = False) -> None:
        self.folder = folder.absolute()
        self.path = self.folder / DATABASE
        #: tells this opening of the folder from any other, for what is cached of it
        self.token = new_uuid()
        #: a folder that is thrown away again: nothing is computed beside its pages
        self.is_trial = is_trial
        self._local = threading.local()
        try:
            folder.mkdir(parents=True, exist_ok=True)
            self._migrate()
            self._learn_words()
        except (OSError, sqlite3.DatabaseError) as error:
            raise StoreError(f"The data folder {folder} cannot be used: {error}") from error

    @contextmanager
    def write(self) -> Iterator[sqlite3.Connection]:
        """A transaction: committed and on disk when the block ends, or rolled back whole."""
        with self._transaction(self._own("writer", _connect)) as connection:
            yield connection

    @contextmanager
    def jot(self) -> Iterator[sqlite3.Connection]:
        """A transaction for what is derived: consistent, but not waited for until it is on disk."""
        with self._transaction(self._own("jotter", _connect_lightly)) as connection:
            yield connection

    @staticmethod
    @contextmanager
    def _transaction(connection: sqlite3.Connection) -> Iterator[sqlite3.Connection]:
        connection.execute("BEGIN IMMEDIATE")
        try:
            yield connection
        except BaseException:
            connection.rollback()
            raise
        connection.execute("COMMIT")

    def read(self) -> sqlite3.Connection:
        """The thread's read-only connection; a query past the time limit is interrupted."""
        connection: sqlite3.Connection | None = getattr(self._local, "reader", None)
        if connection is None:
            connection = sqlite3.connect(
                f"{self.path.as_uri()}?mode=ro",
                uri=True,
                timeout=_BUSY_S,
                factory=_Connection,
                isolation_level=None,
            )
            connection.row_factory = sqlite3.Row
            self._local.reader = connection
        deadline = time.monotonic() + READ_LIMIT_S
        connection.set_progress_handler(
            lambda: int(time.monotonic() > deadline), _STEPS_BETWEEN_CHECKS
        )
        return connection

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
        for name in ("reader", "writer", "jotter"):
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
        return bool(version == len(_migrations()))

    def backup(self) -> Path:
        """Copy the database into `backups/` with SQLite's backup interface; keeps the last ten."""
        target_folder = self.folder / "backups"
        target_folder.mkdir(exist_ok=True)
        stamp = datetime.now(UTC).strftime("%Y%m%dT%H%M%S%f")
        target = target_folder / f"hale-rail-{stamp}.db"
        with closing(_connect(self.path)) as source, closing(sqlite3.connect(target)) as copy:
            source.backup(copy)
        for old in sorted(target_folder.glob("hale-rail-*.db"))[:-BACKUPS_KEPT]:
            old.unlink()
        return target

    def backup_if_due(self) -> Path | None:
        """A backup when the newest is a day old or there is none."""
        kept = sorted((self.folder / "backups").glob("hale-rail-*.db"))
        if kept and time.time() - kept[-1].stat().st_mtime < _DAY_S:
            return None
        return self.backup()

    def _own(self, name: str, connect: Callable[[Path], sqlite3.Connection]) -> sqlite3.Connection:
        """The thread's connection of a name, made when it is first asked for."""
        connection: sqlite3.Connection | None = getattr(self._local, name, None)
        if connection is None:
            connection = connect(self.path)
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

    def _migrate(self) -> None:
        """Bring the schema up to date, each step and its record in one transaction."""
        is_new = not self.path.exists()
        steps = _migrations()
        with closing(_connect(self.path)) as connection:
            connection.execute("PRAGMA journal_mode=WAL")
            if _is_old_layout(connection):
                raise OldLayoutError(
                    f"{self.path} was written before the first release, in a layout that is no "
                    "longer read. It is left as it is: start with another folder (--data)."
                )
            done = _done(connection)
            if len(done) > len(steps):
                raise NewerStoreError(
                    f"{self.path} was written by a newer Hale Rail (schema {len(done)}, this one "
                    f"knows {len(steps)}). Use the newer program, or another data folder."
                )
            for (name, _, checksum), recorded in zip(steps, done, strict=False):
                if checksum != recorded:
                    raise MigrationError(f"Migration {name} is not the one run on {self.path}.")
        if len(done) < len(steps) and not is_new and done:
            self.backup()
        with closing(_connect(self.path)) as connection:
            for number, (name, sql, checksum) in enumerate(steps[len(done) :], len(done) + 1):
                _apply(connection, number, name, sql, checksum)


def _connect(path: Path) -> sqlite3.Connection:
    connection = sqlite3.connect(path, timeout=_BUSY_S, isolation_level=None, factory=_Connection)
    connection.row_factory = sqlite3.Row
    connection.execute("PRAGMA foreign_keys=ON")
    connection.execute("PRAGMA synchronous=FULL")
    return connection


def _connect_lightly(path: Path) -> sqlite3.Connection:
    """For derived rows: in WAL a commit that is not synced loses nothing but itself in a crash."""
    connection = _connect(path)
    connection.execute("PRAGMA synchronous=NORMAL")
    return connection


def _is_old_layout(connection: sqlite3.Connection) -> bool:
    """True for a database of the layout before the first release."""
    table = "SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = 'migration'"
    if connection.execute(table).fetchone() is None:
        return False
    row = connection.execute("SELECT name FROM migration WHERE number = 1").fetchone()
    return row is not None and row["name"] == _OLD_LAYOUT


def _migrations() -> list[tuple[str, str, str]]:
    """Name, SQL and checksum of every migration shipped, in order."""
    folder = resources.files("hale_rail.store") / "migrations"
    files = sorted((f for f in folder.iterdir() if f.name.endswith(".sql")), key=lambda f: f.name)
    texts = [(f.name, f.read_text(encoding="utf-8")) for f in files]
    return [(name, sql, hashlib.sha256(sql.encode()).hexdigest()) for name, sql in texts]


def _done(connection: sqlite3.Connection) -> list[str]:
    """Checksums of the migrations run on this database."""
    connection.execute(
        "CREATE TABLE IF NOT EXISTS migration (number INTEGER PRIMARY KEY, name TEXT NOT NULL,"
        " checksum TEXT NOT NULL, run_at TEXT NOT NULL) STRICT"
    )
    rows = connection.execute("SELECT checksum FROM migration ORDER BY number").fetchall()
    return [row["checksum"] for row in rows]


def _apply(connection: sqlite3.Connection, number: int, name: str, sql: str, checksum: str) -> None:
    connection.execute("BEGIN IMMEDIATE")
    try:
        if _already(connection, number):
            connection.rollback()
            return
        for statement in _statements(sql):
            connection.execute(statement)
        connection.execute(
            "INSERT INTO migration VALUES (?, ?, ?, ?)",
            (number, name, checksum, datetime.now(UTC).isoformat()),
        )
        connection.execute(f"PRAGMA user_version = {number:d}")
    except BaseException:
        connection.rollback()
        raise
    connection.commit()


def _already(connection: sqlite3.Connection, number: int) -> bool:
    """True when another process ran this step while we waited for the lock."""
    row = connection.execute("SELECT 1 FROM migration WHERE number = ?", (number,)).fetchone()
    return row is not None


def _statements(sql: str) -> Iterator[str]:
    """Split a script, since executescript would commit behind our back."""
    statement = ""
    for line in sql.splitlines(keepends=True):
        statement += line
        if sqlite3.complete_statement(statement):
            yield statement
            statement = ""
    if statement.strip():
        yield statement
