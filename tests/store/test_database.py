"""The store: what is appended stays, a writer is told when it is not its turn."""

from __future__ import annotations

import errno
import sqlite3
import threading
from typing import NoReturn

import pytest

from hale_rail.actions import readings
from hale_rail.case.file import open_case
from hale_rail.errors import CorruptError, FullError, LockedError, ReadOnlyError, StoreError
from hale_rail.store import connections, error_mapping, write_lock
from hale_rail.store.database import Store
from tests.conftest import Bench


def test_the_connection_is_durable_and_checked(store: Store) -> None:
    with store.jot() as connection:  # nothing is lost with what is derived
        assert connection.execute("PRAGMA synchronous").fetchone()[0] == 1
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
    "practice", "practice_act", "bad_part",
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
    known = {
        (table, "log_id")
        for table in ("photo", "document", "wave_record", "soak_row", "board_view")
    }
    assert set(lacking) <= known


def test_a_failed_action_leaves_nothing(store: Store) -> None:
    with pytest.raises(RuntimeError), store.write() as connection:
        connection.execute("INSERT INTO setting VALUES ('school', 'blanket')")
        raise RuntimeError
    assert store.read().execute("SELECT count(*) FROM setting").fetchone()[0] == 0


@pytest.mark.parametrize(
    ("code", "error", "says"),
    [
        (sqlite3.SQLITE_BUSY, LockedError, "Press again"),
        (sqlite3.SQLITE_LOCKED, LockedError, "Press again"),
        (sqlite3.SQLITE_FULL, FullError, "Make room"),
        (sqlite3.SQLITE_IOERR_SHMSIZE, FullError, "Make room"),
        (sqlite3.SQLITE_READONLY, ReadOnlyError, "right"),
        (sqlite3.SQLITE_CANTOPEN, ReadOnlyError, "data folder"),
        (sqlite3.SQLITE_CORRUPT, CorruptError, "the remedy"),
        (sqlite3.SQLITE_NOTADB, CorruptError, "the remedy"),
        (sqlite3.SQLITE_IOERR, StoreError, "disk"),
        (-errno.ENOSPC, FullError, "Make room"),
        (-errno.EROFS, ReadOnlyError, "right"),
        (-errno.EACCES, ReadOnlyError, "right"),
        (-errno.EMFILE, StoreError, "Close something"),
    ],
)
def test_what_the_database_and_the_system_report_says_what_to_do(
    code: int, error: type[StoreError], says: str
) -> None:
    """Codes below zero are the system's."""
    raised: Exception = OSError(-code, "as it says")
    if code >= 0:
        raised = sqlite3.OperationalError("as it says")
        raised.sqlite_errorcode = code if code > 0xFF else code | (3 << 8)  # an extended code
    found = error_mapping.translated(raised, "the remedy")
    assert type(found) is error
    assert says in str(found)
    assert error_mapping.translated(ConnectionResetError(errno.ECONNRESET, "gone")) is None


def test_a_locked_database_is_said_to_be(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(connections, "BUSY_S", 0.05)
    other = Store(bench.store.folder)
    with bench.store.write(), pytest.raises(LockedError), other.write():
        pass
    other.close()


def test_a_full_database_keeps_what_was_saved_and_goes_on(bench: Bench) -> None:
    with bench.store.write() as connection:
        pages = connection.execute("PRAGMA page_count").fetchone()[0]
        connection.execute(f"PRAGMA max_page_count = {pages}")
    with pytest.raises(FullError), bench.store.write() as connection:
        for _ in range(2000):
            connection.execute(
                "INSERT INTO instrument_family VALUES (hex(randomblob(16)), hex(zeroblob(2048)))"
            )
    with bench.store.write() as connection:
        connection.execute("PRAGMA max_page_count = 1000000")
    bench.make_safe()
    assert bench.read("F1", "ohms", "0.2")


def test_a_line_that_cannot_be_kept_undoes_nothing_that_was_saved(
    bench: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    bench.make_safe()

    def refuse(_: Store) -> NoReturn:
        raise FullError("The disk is full.")

    monkeypatch.setattr(Store, "jot", refuse)
    reading_id = bench.read("F1", "ohms", "0.2")
    assert bench.file.rows.readings[reading_id].value == 0.2


def test_who_cannot_write_soon_is_told_and_no_more_wait_than_there_is_room(
    store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    """While one writes the others wait their moment; beyond the room they are refused at once."""
    monkeypatch.setattr(write_lock, "WAIT_S", 0.2)
    room, told = write_lock.MOST_WAITING, []

    def write() -> None:
        try:
            with store.write():
                told.append("wrote")
        except LockedError as error:
            told.append(str(error))
        finally:
            store.close()

    threads = [threading.Thread(target=write) for _ in range(room + 3)]
    with store.write():
        for thread in threads:
            thread.start()
        store.read().execute("SELECT count(*) FROM setting").fetchone()  # nobody who reads waits
        for thread in threads:
            thread.join()
    assert len(told) == room + 3
    assert set(told) == {error_mapping.BUSY}
    write()
    assert told[-1] == "wrote"


def test_infinite_readings_survive_the_store(bench: Bench) -> None:
    bench.make_safe()
    reading_id = bench.read("F1", "ohms", "OL")
    assert bench.state("F1") == "failed"
    assert bench.file.rows.readings[reading_id].value == float("inf")
