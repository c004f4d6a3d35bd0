"""Migrations: shipped as SQL, run once each in a transaction of its own, on a copy first."""

from __future__ import annotations

import hashlib
import os
import sqlite3
from collections.abc import Iterator, Sequence
from contextlib import closing
from datetime import UTC, datetime
from functools import cache
from importlib import resources
from pathlib import Path

from hale_rail.errors import CorruptError, MigrationError, NewerStoreError, OldLayoutError
from hale_rail.store.backup_files import remedy
from hale_rail.store.connections import connect
from hale_rail.store.error_mapping import translated
from hale_rail.store.kept_files import open_private, partial_of

#: the first migrations of layouts before the first release
_OLD_LAYOUTS = ("0001_first_case.sql", "0001_workshop.sql")
#: name, SQL and checksum
Migration = tuple[str, str, str]


@cache
def migrations() -> tuple[Migration, ...]:
    """Every migration shipped, in order."""
    folder = resources.files("hale_rail.store") / "migrations"
    files = sorted((f for f in folder.iterdir() if f.name.endswith(".sql")), key=lambda f: f.name)
    texts = [(f.name, f.read_text(encoding="utf-8")) for f in files]
    return tuple((name, sql, hashlib.sha256(sql.encode()).hexdigest()) for name, sql in texts)


def pending(path: Path, steps: Sequence[Migration]) -> list[Migration]:
    """The migrations that a database lacks.

    Raises CorruptError, OldLayoutError, NewerStoreError or MigrationError for one that is not to
    be touched.
    """
    with closing(connect(path)) as connection:
        if not _has_table(connection, "migration"):
            raise CorruptError(f"{path} is not a workshop of this program. {remedy(path.parent)}")
        refuse_old_layout(connection, path)
        done = _done(connection)
    if len(done) > len(steps):
        raise NewerStoreError(
            f"{path} was written by a newer Hale Rail (schema {len(done)}, this one "
            f"knows {len(steps)}). Use the newer program, or another data folder."
        )
    for (name, _, checksum), recorded in zip(steps, done, strict=False):
        if checksum != recorded:
            raise MigrationError(f"Migration {name} is not the one run on {path}.")
    return list(steps[len(done) :])


def migrate(path: Path, steps: Sequence[Migration], *, is_synced: bool = True) -> None:
    """Run what a database lacks, each migration and its record in one transaction.

    `is_synced` False for a file that is not yet anybody's.
    """
    with closing(connect(path)) as connection:
        if not is_synced:
            connection.execute("PRAGMA synchronous=OFF")
        done = len(_done(connection))
        for number, (name, sql, checksum) in enumerate(steps[done:], done + 1):
            _apply(connection, number, name, sql, checksum)


def rehearse(path: Path, steps: Sequence[Migration]) -> None:
    """Run what a database lacks on a copy of it, and look the copy over.

    Raises MigrationError where a step fails or leaves damage; the database is as it was then.
    """
    copy = partial_of(path)
    open_copy(path, copy)
    try:
        migrate(copy, steps, is_synced=False)
        with closing(connect(copy)) as connection:
            found_damage = damage(connection)
        if found_damage:
            raise MigrationError(_refusal(path, found_damage[0]))
    except sqlite3.Error as error:
        raise MigrationError(_refusal(path, str(error))) from error
    finally:
        for left in path.parent.glob(f"{copy.name}*"):
            left.unlink(missing_ok=True)


def _refusal(path: Path, what: str) -> str:
    return (
        f"This version's changes do not fit {path}: {what}. They were tried on a copy and nothing "
        "was changed: go on with the version before, and keep the newest backup."
    )


def open_copy(path: Path, copy: Path) -> None:
    """Copy a database as it is now, with what its log holds, into a file of the owner alone.

    The copy is one file, without a log beside it. Raises StoreError for a disk at fault.
    """
    os.close(open_private(copy))
    try:
        with closing(connect(path)) as source, closing(sqlite3.connect(copy)) as target:
            source.backup(target)
            target.execute("PRAGMA journal_mode=DELETE")
    except sqlite3.Error as error:
        raise translated(error, remedy(path.parent)) or error from error


def damage(connection: sqlite3.Connection, most: int = 20) -> list[str]:
    """What is wrong within a database itself, in sentences."""
    damage = [
        f"The database is damaged: {row[0]}."
        for row in connection.execute(f"PRAGMA integrity_check({most:d})")
        if row[0] != "ok"
    ]
    damage += [
        f"A row of {row[0]} names one of {row[2]} that is not there."
        for row in connection.execute("PRAGMA foreign_key_check").fetchmany(most)
    ]
    return damage


def refuse_old_layout(connection: sqlite3.Connection, path: Path) -> None:
    """Raise OldLayoutError for a database of a layout before the first release."""
    row = connection.execute("SELECT name FROM migration WHERE number = 1").fetchone()
    if row is not None and row["name"] in _OLD_LAYOUTS:
        raise OldLayoutError(
            f"{path} was written before the first release, in a layout that is no longer read. It "
            "is left as it is: start with another folder (--data). To take its cases along, send "
            "each as a bundle from the program that wrote it."
        )


def _has_table(connection: sqlite3.Connection, name: str) -> bool:
    table = "SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = ?"
    return connection.execute(table, (name,)).fetchone() is not None


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
        connection.execute("COMMIT")
    except BaseException:
        connection.rollback()
        raise


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
