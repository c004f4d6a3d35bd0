"""The store: what was acknowledged survives, what is appended stays, what is newer is refused."""

from __future__ import annotations

import os
import signal
import sqlite3
import subprocess
import sys
import textwrap
from pathlib import Path

import pytest

from hale_rail.core.supply.points import Quantity
from hale_rail.errors import MigrationError, NewerStoreError, StoreError
from hale_rail.store import database
from hale_rail.store.database import BACKUPS_KEPT, Store

from ..conftest import Bench

WRITER = textwrap.dedent(
    """
    import sys
    from pathlib import Path
    from hale_rail.actions import record
    from hale_rail.store.database import Store
    store = Store(Path(sys.argv[1]))
    for number in range(10_000):
        record.note(store, "T-1", f"note {number}")
        print(number, flush=True)
    """
)


def test_a_kill_loses_nothing_that_was_acknowledged(bench: Bench) -> None:
    """kill −9 while writing, three times; every printed number is in the log, and all is sound."""
    folder = str(bench.store.folder)
    for _ in range(3):
        before = len(notes(bench.store))
        command = [sys.executable, "-c", WRITER, folder]
        with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as writer:
            assert writer.stdout
            for _ in range(12):
                acknowledged = int(writer.stdout.readline())
            os.kill(writer.pid, signal.SIGKILL)
            acknowledged += len(writer.stdout.read().splitlines())
        bench.store.close()
        kept = notes(bench.store)
        assert len(kept) - before >= acknowledged + 1
        assert kept[before : before + acknowledged + 1] == [
            f"note {number}" for number in range(acknowledged + 1)
        ]
    check = bench.store.read()
    assert check.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    assert check.execute("PRAGMA foreign_key_check").fetchall() == []


def notes(store: Store) -> list[str]:
    rows = store.read().execute("SELECT text FROM log WHERE kind = 'note' ORDER BY id")
    return [row["text"] for row in rows]


def test_the_connection_is_durable_and_checked(store: Store) -> None:
    with store.write() as connection:
        pragmas = {
            name: connection.execute(f"PRAGMA {name}").fetchone()[0]
            for name in ("foreign_keys", "synchronous", "journal_mode")
        }
    assert pragmas == {"foreign_keys": 1, "synchronous": 2, "journal_mode": "wal"}
    with pytest.raises(sqlite3.OperationalError):
        store.read().execute("DELETE FROM setting")


@pytest.mark.parametrize("table", ["reading", "strike", "decision", "log"])
@pytest.mark.parametrize("verb", ["UPDATE {} SET id = id", "DELETE FROM {}"])
def test_what_was_appended_cannot_be_changed(demo: Store, table: str, verb: str) -> None:
    from hale_rail.actions import record

    first = demo.read().execute("SELECT id FROM reading WHERE case_id = 1").fetchone()["id"]
    record.strike(demo, "LW-003", first, "for the test")
    with pytest.raises(sqlite3.IntegrityError, match="append-only"), demo.write() as connection:
        connection.execute(verb.format(table))


def test_a_failed_action_leaves_nothing(store: Store) -> None:
    with pytest.raises(RuntimeError), store.write() as connection:
        connection.execute("INSERT INTO setting VALUES ('a', 'b')")
        raise RuntimeError
    assert store.read().execute("SELECT count(*) FROM setting").fetchone()[0] == 0


def test_a_newer_database_is_refused(store: Store) -> None:
    with store.write() as connection:
        connection.execute("INSERT INTO migration VALUES (99, 'later', 'x', 'then')")
    with pytest.raises(NewerStoreError, match="newer Hale Rail"):
        Store(store.folder)


def test_an_edited_migration_is_noticed(store: Store) -> None:
    with store.write() as connection:
        connection.execute("UPDATE migration SET checksum = 'other'")
    with pytest.raises(MigrationError, match="0001_first_case"):
        Store(store.folder)


def test_a_failing_migration_rolls_back_whole_after_a_backup(
    bench: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    real = database._migrations()
    bad = ("0002_bad.sql", "CREATE TABLE extra (id INTEGER) STRICT; SELECT nonsense;", "sum")
    monkeypatch.setattr(database, "_migrations", lambda: [*real, bad])
    with pytest.raises(StoreError):
        Store(bench.store.folder)
    tables = bench.store.read().execute("SELECT name FROM sqlite_master WHERE name = 'extra'")
    assert tables.fetchall() == []
    assert len(list((bench.store.folder / "backups").iterdir())) == 1


def test_backups_are_whole_and_few(bench: Bench) -> None:
    for _ in range(BACKUPS_KEPT + 2):
        last = bench.store.backup()
    kept = sorted(last.parent.iterdir())
    assert (len(kept), kept[-1]) == (BACKUPS_KEPT, last)
    copy = sqlite3.connect(last)
    assert copy.execute("SELECT number FROM bench_case").fetchall() == [("T-1",)]
    copy.close()


def test_a_backup_a_day(bench: Bench) -> None:
    first = bench.store.backup_if_due()
    assert first is not None
    assert bench.store.backup_if_due() is None
    os.utime(first, (0, 0))
    assert bench.store.backup_if_due() is not None


def test_a_folder_that_cannot_be_used(tmp_path: Path) -> None:
    (tmp_path / "hale-rail.db").write_bytes(b"this is no database, but it is long enough" * 50)
    with pytest.raises(StoreError, match="cannot be used"):
        Store(tmp_path)
    (tmp_path / "file").write_text("")
    with pytest.raises(StoreError):
        Store(tmp_path / "file" / "data")


def test_infinite_readings_survive_the_store(bench: Bench) -> None:
    bench.make_safe()
    bench.read("F1", Quantity.RESISTANCE, "OL")
    assert bench.state("F1") == "failed"
    assert bench.dossier.readings[-1].value == float("inf")
