"""Start-up: what is not a whole workshop is told and left; changes are tried on a copy; rights."""

from __future__ import annotations

import errno
import os
import sqlite3
import subprocess
import sys
from contextlib import closing
from pathlib import Path
from typing import NoReturn

import pytest

from hale_rail.errors import (
    CorruptError,
    MigrationError,
    NewerStoreError,
    OldLayoutError,
    ReadOnlyError,
    StoreError,
    TakenError,
)
from hale_rail.store import backup_files, check_restore, database, folder_lock, opening
from hale_rail.store.connections import connect
from hale_rail.store.database import DATABASE, Store
from hale_rail.store.empty_workshop import shipped
from hale_rail.store.migrating import damage, migrations
from tests.conftest import Bench


def test_a_newer_database_is_refused(store: Store) -> None:
    with store.write() as connection:
        connection.execute("INSERT INTO migration VALUES (99, 'later', 'x', 'then')")
    with pytest.raises(NewerStoreError, match="newer Hale Rail"):
        Store(store.folder)


def test_an_edited_migration_is_noticed(store: Store) -> None:
    with store.write() as connection:
        connection.execute("UPDATE migration SET checksum = 'other'")
    with pytest.raises(MigrationError, match="0001_schema"):
        Store(store.folder)


@pytest.mark.parametrize("first", ["0001_first_case.sql", "0001_workshop.sql"])
def test_a_store_of_an_old_layout_is_refused_and_left_as_it_is(tmp_path: Path, first: str) -> None:
    old = sqlite3.connect(tmp_path / "hale-rail.db")
    old.execute("CREATE TABLE migration (number INTEGER, name TEXT, checksum TEXT, run_at TEXT)")
    old.execute("INSERT INTO migration VALUES (1, ?, 'x', 'then')", (first,))
    old.commit()
    assert "as a bundle" in check_restore.problems(tmp_path)[0]
    with pytest.raises(OldLayoutError, match=r"another folder .* as a bundle"):
        Store(tmp_path)
    assert old.execute("SELECT count(*) FROM sqlite_master").fetchone()[0] == 1
    old.close()


def cut(path: Path) -> None:
    with path.open("r+b") as file:
        file.truncate(path.stat().st_size // 2)


def scribble(path: Path) -> None:
    with path.open("r+b") as file:
        file.write(b"this is not a database, but it is long enough")


def other_program(path: Path) -> None:
    path.unlink()
    with closing(sqlite3.connect(path)) as connection:
        connection.execute("CREATE TABLE recipe (id INTEGER)")
        connection.commit()


@pytest.mark.parametrize(
    ("harm", "says"),
    [
        (lambda path: path.write_bytes(b""), "empty \\(0 bytes\\)"),
        (lambda path: path.unlink(), "is not there"),
        (cut, "was cut off"),
        (scribble, "not a database of this program"),
        (other_program, "not a workshop of this program"),
    ],
)
@pytest.mark.parametrize("has_backup", [True, False])
def test_what_is_no_whole_workshop_is_left_and_names_the_backup(
    bench: Bench, harm: object, says: str, has_backup: bool
) -> None:
    """Nothing starts over there, and no backup is made that could push a good one out."""
    bench.make_safe()
    folder, path = bench.store.folder, bench.store.path
    newest = bench.store.backup() if has_backup else None
    bench.store.close()
    assert callable(harm)
    harm(path)
    if not has_backup and not path.exists():
        Store(folder).close()  # a folder in which nothing ever stood begins
        assert path.exists()
        return
    before = {file: file.read_bytes() for file in folder.rglob("*") if file.is_file()}
    with pytest.raises(CorruptError, match=says) as caught:
        Store(folder)
    expected = f"hale-rail restore {newest}" if newest else "There is no backup in"
    assert expected in str(caught.value)
    left = {file: file.read_bytes() for file in folder.rglob("*") if file.is_file()}
    assert {k: v for k, v in left.items() if "-wal" not in k.name and "-shm" not in k.name} == {
        k: v for k, v in before.items() if "-wal" not in k.name and "-shm" not in k.name
    }


def test_a_folder_that_cannot_be_one(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("")
    with pytest.raises(StoreError):
        Store(tmp_path / "file" / "data")


BAD = (
    ("CREATE TABLE extra (id INTEGER) STRICT;\nSELECT nonsense;", "nonsense"),
    ("PRAGMA defer_foreign_keys=ON;\nUPDATE bench_case SET sheet_id = 999;", "FOREIGN KEY"),
)


@pytest.mark.parametrize(("sql", "says"), BAD)
def test_a_migration_that_does_not_fit_is_found_on_a_copy(
    bench: Bench, monkeypatch: pytest.MonkeyPatch, sql: str, says: str
) -> None:
    real = migrations()
    monkeypatch.setattr(database, "migrations", lambda: [*real, ("9999_bad.sql", sql, "sum")])
    before = bench.store.read().execute("SELECT count(*), max(run_at) FROM migration").fetchone()
    with pytest.raises(MigrationError, match=says):
        Store(bench.store.folder)
    after = bench.store.read().execute("SELECT count(*), max(run_at) FROM migration").fetchone()
    assert tuple(before) == tuple(after)
    assert len(backup_files.good(bench.store.folder)) == 1
    assert not list(bench.store.folder.glob("*.part*"))


def test_the_empty_workshop_that_ships_is_what_the_migrations_make(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A migration or a word that was added asks for `make schema`; until then what ships is not
    used, or the word is added at the start."""
    steps = migrations()
    packed = shipped(steps)
    assert packed, "make schema"
    (tmp_path / DATABASE).write_bytes(packed)
    monkeypatch.setattr(opening, "shipped", lambda _: None)
    Store(tmp_path / "made").close()
    found = []
    for path in (tmp_path / DATABASE, tmp_path / "made" / DATABASE):
        with closing(connect(path)) as connection:
            asked = (
                "SELECT type, name, tbl_name, sql FROM sqlite_master",
                "SELECT number, name, checksum FROM migration",
                "SELECT list, code FROM vocabulary",
                "PRAGMA user_version",
                "PRAGMA journal_mode",
            )
            assert not damage(connection)
            found.append([sorted(map(tuple, connection.execute(sql))) for sql in asked])
    assert found[0] == found[1], "make schema"
    assert found[0][-1] == [("wal",)]
    assert shipped(steps[:-1]) is None


def test_a_workshop_without_a_log_gets_one_at_its_start(bench: Bench) -> None:
    """As a backup that was put in its place has none."""
    bench.store.close()
    with closing(sqlite3.connect(bench.store.path)) as connection:
        assert connection.execute("PRAGMA journal_mode=DELETE").fetchone() == ("delete",)
    with closing(Store(bench.store.folder)) as store:
        assert store.read().execute("PRAGMA journal_mode").fetchone()[0] == "wal"


def test_a_workshop_is_its_owners_alone(bench: Bench) -> None:
    """Folders 700, files 600; what an older version left open is closed at the next start."""
    folder = bench.store.folder
    bench.store.backup()
    (folder / "photos").mkdir()
    for path in (folder, folder / "photos", folder / "backups"):
        path.chmod(0o755)
    bench.store.path.chmod(0o644)
    Store(folder).close()
    modes = {path.name: path.stat().st_mode & 0o777 for path in (folder, *folder.rglob("*"))}
    assert {modes["data"], modes["photos"], modes["backups"]} == {0o700}
    files = {path.name: modes[path.name] for path in folder.rglob("*") if path.is_file()}
    assert set(files.values()) == {0o600}, files


def test_a_folder_of_somebody_elses_keeps_its_rights(tmp_path: Path) -> None:
    shared = tmp_path / "shared"
    shared.mkdir(mode=0o755)
    shared.chmod(0o755)
    (shared / "letter.txt").write_text("not ours")
    Store(shared).close()
    assert shared.stat().st_mode & 0o777 == 0o755
    assert (shared / DATABASE).stat().st_mode & 0o777 == 0o600


def test_what_a_killed_process_left_is_swept_and_what_runs_stays(bench: Bench) -> None:
    folder = bench.store.folder
    gone = subprocess.run([sys.executable, "-c", "import os; print(os.getpid())"],
                          capture_output=True, text=True, check=True).stdout.strip()  # fmt: skip
    old = "0b8f1e5c-7a44-4f0e-9d5e-2c1f7b6a9e10"
    names = {
        f"photos/ab/x.jpg.1234abcd.{gone}.part": False,
        f"photos/ab/x.jpg.1234abcd.{os.getpid()}.part": True,
        f"records/{old}.part": False,
        f"records/views/ab/ch1.{old}.part.npy": False,
        "photos/holiday.part": True,  # of another program
        "film.mkv.part": True,
        f"{DATABASE}.1234abcd.{gone}.part-wal": False,
    }
    for name in names:
        (folder / name).parent.mkdir(parents=True, exist_ok=True)
        (folder / name).write_text("half")
        if gone not in name and str(os.getpid()) not in name:
            os.utime(folder / name, (0, 0))
    Store(folder).close()
    assert {name: (folder / name).exists() for name in names} == names


def test_one_server_a_folder(tmp_path: Path) -> None:
    told = f"process {os.getpid()} at http://127.0.0.1:5080"
    with (
        folder_lock.hold(tmp_path, "http://127.0.0.1:5080"),
        pytest.raises(TakenError, match=told),
        folder_lock.hold(tmp_path, "http://127.0.0.1:5081"),
    ):
        raise AssertionError("two servers hold one folder")
    with folder_lock.hold(tmp_path, "http://127.0.0.1:5081"):
        assert (tmp_path / folder_lock.LOCK).exists()


@pytest.mark.skipif(os.geteuid() == 0, reason="root may write everywhere")
def test_a_folder_that_may_not_be_written_is_told(tmp_path: Path) -> None:
    tmp_path.chmod(0o500)
    with pytest.raises(ReadOnlyError, match="may not be written"):
        Store(tmp_path / "data")


def test_a_workshop_begins_on_a_disk_without_links_too(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def refuse(*_: object) -> NoReturn:
        raise PermissionError(errno.EPERM, "Operation not permitted")

    monkeypatch.setattr(os, "link", refuse)
    with closing(Store(tmp_path / "data")) as store:
        assert store.is_usable()
