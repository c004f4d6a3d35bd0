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

from hale_rail.actions import readings
from hale_rail.case.file import open_case
from hale_rail.errors import (
    CorruptError,
    FullError,
    LockedError,
    MigrationError,
    NewerStoreError,
    OldLayoutError,
    ReadOnlyError,
    StoreError,
)
from hale_rail.store import database, faults
from hale_rail.store.database import BACKUPS_KEPT, Store

from ..conftest import Bench

WRITER = textwrap.dedent(
    """
    import sys
    from pathlib import Path
    from hale_rail.actions import decisions
    from hale_rail.store.database import Store
    store = Store(Path(sys.argv[1]))
    for number in range(10_000):
        decisions.note(store, "T-1", f"note {number}")
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
    with pytest.raises(ReadOnlyError):
        store.read().execute("DELETE FROM setting")


APPENDED = (
    "reading", "reading_figure", "strike", "decision", "log", "look", "look_finding",
    "power_event", "statement", "photo", "issued_report", "ground_record", "target",
    "part", "part_marking", "rail_marking", "sheet_version", "machine_note", "soak_row",
    "practice", "practice_act",
)  # fmt: skip


@pytest.mark.parametrize("table", APPENDED)
@pytest.mark.parametrize("verb", ["UPDATE {} SET rowid = rowid", "DELETE FROM {}"])
def test_what_was_appended_cannot_be_changed(demo: Store, table: str, verb: str) -> None:
    if table == "strike":
        readings.strike(demo, "LW-003", demo_reading(demo), "for the test")
    assert demo.read().execute(f"SELECT count(*) FROM {table}").fetchone()[0]
    with pytest.raises(sqlite3.IntegrityError, match="append-only"), demo.write() as connection:
        connection.execute(verb.format(table))


def demo_reading(demo: Store) -> int:
    return min(open_case(demo, "LW-003").rows.readings)


def test_an_enumeration_admits_no_other_word(demo: Store) -> None:
    """A CHECK, or the vocabulary that the program's lists fill."""
    for statement in (
        "UPDATE bench_case SET school = 'guess'",
        "UPDATE bench_case SET outcome = 'lost'",
        "INSERT INTO power_event (uuid, case_id, log_id, kind) SELECT uuid, 1, 1, 'maybe' FROM log",
        "INSERT INTO part (uuid, sheet_id, kind) SELECT uuid, 1, 'flux capacitor' FROM log",
        "INSERT INTO look_finding (look_id, place, code) VALUES (1, 99, 'sad')",
        "INSERT INTO target (case_id, kind) VALUES (1, 'pad')",
        "INSERT INTO setting VALUES ('mood', 'blue')",
    ):
        with pytest.raises(sqlite3.IntegrityError), demo.write() as connection:
            connection.execute(statement)


def test_every_foreign_key_that_is_searched_has_an_index(demo: Store) -> None:
    """None of them makes a delete or a join scan; those of the spine are unique, so indexed."""
    connection, lacking = demo.read(), []
    tables = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall()
    for (table,) in tables:
        first = {row["table"]: row["from"] for row in connection.execute(
            f"PRAGMA foreign_key_list({table})") if row["table"] not in ("vocabulary", "meter")
            and row["from"] != "sheet_id"}  # fmt: skip
        indexed = set()
        for index in connection.execute(f"PRAGMA index_list({table})").fetchall():
            columns = connection.execute(f"PRAGMA index_info({index['name']})").fetchall()
            indexed.add(columns[0]["name"])
        keys = connection.execute(f"PRAGMA table_info({table})").fetchall()
        indexed |= {row["name"] for row in keys if row["pk"] == 1}
        lacking += [(table, column) for column in first.values() if column not in indexed]
    known = {(table, "log_id") for table in ("photo", "document", "wave_record", "soak_row")}
    assert set(lacking) <= known


def test_a_failed_action_leaves_nothing(store: Store) -> None:
    with pytest.raises(RuntimeError), store.write() as connection:
        connection.execute("INSERT INTO setting VALUES ('school', 'blanket')")
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
    with pytest.raises(MigrationError, match="0001_workshop"):
        Store(store.folder)


def test_a_store_of_the_old_layout_is_refused_and_left_as_it_is(tmp_path: Path) -> None:
    old = sqlite3.connect(tmp_path / "hale-rail.db")
    old.execute("CREATE TABLE migration (number INTEGER, name TEXT, checksum TEXT, run_at TEXT)")
    old.execute("INSERT INTO migration VALUES (1, '0001_first_case.sql', 'x', 'then')")
    old.commit()
    with pytest.raises(OldLayoutError, match="another folder"):
        Store(tmp_path)
    assert old.execute("SELECT count(*) FROM sqlite_master").fetchone()[0] == 1
    old.close()


@pytest.mark.parametrize(
    ("code", "error", "says"),
    [
        (sqlite3.SQLITE_BUSY, LockedError, "Close it"),
        (sqlite3.SQLITE_LOCKED, LockedError, "Save again"),
        (sqlite3.SQLITE_FULL, FullError, "Make room"),
        (sqlite3.SQLITE_READONLY, ReadOnlyError, "right"),
        (sqlite3.SQLITE_CANTOPEN, ReadOnlyError, "data folder"),
        (sqlite3.SQLITE_CORRUPT, CorruptError, "backup"),
        (sqlite3.SQLITE_NOTADB, CorruptError, "--data"),
        (sqlite3.SQLITE_IOERR, StoreError, "disk"),
    ],
)
def test_what_the_database_reports_says_what_to_do(
    code: int, error: type[StoreError], says: str
) -> None:
    raised = sqlite3.OperationalError("as it says")
    raised.sqlite_errorcode = code | (3 << 8)  # an extended code
    found = faults.translated(raised)
    assert type(found) is error
    assert says in str(found)


def test_a_locked_database_is_said_to_be(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(database, "_BUSY_S", 0.05)
    other = Store(bench.store.folder)
    with bench.store.write(), pytest.raises(LockedError), other.write():
        pass
    other.close()


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
    with pytest.raises(CorruptError, match="no database of this program"):
        Store(tmp_path)
    (tmp_path / "file").write_text("")
    with pytest.raises(StoreError):
        Store(tmp_path / "file" / "data")


def test_infinite_readings_survive_the_store(bench: Bench) -> None:
    bench.make_safe()
    reading_id = bench.read("F1", "ohms", "OL")
    assert bench.state("F1") == "failed"
    assert bench.file.rows.readings[reading_id].value == float("inf")
