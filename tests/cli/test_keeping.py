"""The commands that look after a data folder."""

from __future__ import annotations

import re
import shutil
import sqlite3
import warnings
import zipfile
from contextlib import closing
from pathlib import Path

import pytest
from click.testing import CliRunner, Result

from hale_rail.actions.parts import decisions
from hale_rail.case.file import open_case
from hale_rail.cli import main
from hale_rail.store import backup_files, folder_lock
from hale_rail.store.database import DATABASE, Store
from tests.conftest import Bench


def run(*arguments: object) -> Result:
    return CliRunner().invoke(main, [str(argument) for argument in arguments])


def machine(folder: Path, number: str) -> str:
    with closing(Store(folder)) as store:
        return open_case(store, number).case.machine


def test_a_backup_put_back_brings_the_workshop_of_that_day(bench: Bench) -> None:
    folder = bench.store.folder
    made = run("backup", "--data", folder)
    assert made.exit_code == 0
    copy = Path(made.output.removeprefix("Backed up to ").strip())
    Bench(bench.store, number="T-2")
    bench.store.close()
    back = run("restore", copy, "--data", folder)
    assert back.exit_code == 0, back.output
    assert machine(folder, "T-1") == "Test unit"
    with closing(Store(folder)) as store:
        numbers = [row[0] for row in store.read().execute("SELECT number FROM bench_case")]
    assert numbers == ["T-1"]
    before = Path(back.output.rpartition("before is ")[2].strip())
    with closing(sqlite3.connect(before)) as kept:
        assert kept.execute("SELECT count(*) FROM bench_case").fetchone()[0] == 2
    assert run("check", "--data", folder).output == "The data folder is whole.\n"


def test_a_backup_is_put_into_a_folder_that_is_not_there_yet(bench: Bench, tmp_path: Path) -> None:
    copy = bench.store.backup()
    assert run("restore", copy, "--data", tmp_path / "new").exit_code == 0
    assert machine(tmp_path / "new", "T-1") == "Test unit"


@pytest.mark.parametrize(
    ("name", "content", "says"),
    [
        ("none.db", None, "There is no file"),
        (
            "text.db",
            b"not a database, but long enough to be read as one\n" * 40,
            "not a database of this program",
        ),
    ],
)
def test_what_is_no_backup_changes_nothing(
    bench: Bench, tmp_path: Path, name: str, content: bytes | None, says: str
) -> None:
    if content:
        (tmp_path / name).write_bytes(content)
    refused = run("restore", tmp_path / name, "--data", bench.store.folder)
    assert refused.exit_code == 2
    assert "Traceback" not in refused.output
    assert says in refused.output
    assert open_case(bench.store, bench.number).case.machine == "Test unit"


def test_a_whole_backup_carries_the_files_into_a_new_folder(demo: Store, tmp_path: Path) -> None:
    """One file of the owner's alone; the workshop that comes out of it is whole."""
    made = run("backup", "--to", tmp_path / "disk", "--data", demo.folder)
    assert made.exit_code == 0, made.output
    (file,) = (tmp_path / "disk").iterdir()
    assert (file.suffix, file.stat().st_mode & 0o777) == (".zip", 0o600)
    back = run("restore", file, "--data", tmp_path / "new")
    assert back.exit_code == 0, back.output
    assert "came along" in back.output
    assert run("check", "--data", tmp_path / "new").output == "The data folder is whole.\n"
    assert machine(tmp_path / "new", "LW-014") == machine(demo.folder, "LW-014")
    assert not list((tmp_path / "new").glob("*.part"))


def test_a_daily_backup_brings_its_files_from_beside_it(demo: Store, tmp_path: Path) -> None:
    copy = demo.backup()
    assert run("restore", copy, "--data", tmp_path / "new").exit_code == 0
    assert run("check", "--data", tmp_path / "new").exit_code == 0
    shutil.copy(copy, tmp_path / "alone.db")
    alone = run("restore", tmp_path / "alone.db", "--data", tmp_path / "alone")
    assert "is missing" in alone.output
    assert run("check", "--data", tmp_path / "alone").exit_code == 1


def test_an_older_workshop_put_back_is_no_doubtful_one_from_then_on(bench: Bench) -> None:
    copy = bench.store.backup()
    for number in range(40):
        decisions.note(bench.store, "T-1", f"note {number}")
    bench.store.close()
    back = run("restore", copy, "--data", bench.store.folder)
    assert back.exit_code == 0, back.output
    with closing(Store(bench.store.folder)) as store:
        assert not backup_files.is_doubtful(store.backup())
        assert store.backup_if_due() is None
        assert store.trouble == ""
    assert Path(back.output.rpartition("before is ")[2].strip()).exists()


def test_a_damaged_workshop_is_kept_aside_when_its_backup_is_put_back(bench: Bench) -> None:
    copy = bench.store.backup()
    bench.store.close()
    for harm in (b"", b"scribbled over " * 400):
        bench.store.path.write_bytes(harm)
        assert run("check", "--data", bench.store.folder).exit_code == 1
        back = run("restore", copy, "--data", bench.store.folder)
        assert back.exit_code == 0, back.output
        kept = Path(back.output.rpartition("before is ")[2].strip())
        assert kept.read_bytes() == harm
        assert machine(bench.store.folder, "T-1") == "Test unit"


def test_a_folder_that_is_served_is_not_restored_into(bench: Bench) -> None:
    copy = bench.store.backup()
    with folder_lock.hold(bench.store.folder, "http://127.0.0.1:5080"):
        refused = run("restore", copy, "--data", bench.store.folder)
    assert (refused.exit_code, "served already" in refused.output) == (2, True)


def harmed(source: Path, target: Path, how: str) -> Path:
    """A whole backup with something wrong in it."""
    with zipfile.ZipFile(source) as old, zipfile.ZipFile(target, "w") as new:
        for name in old.namelist():
            data = old.read(name)
            if how == "photo" and name.endswith(".jpg"):
                data = data[:-1] + bytes([data[-1] ^ 1])
            if how == "manifest" and name == "manifest.json":
                data = b"[1]"
            if how == "vast" and name == "manifest.json":
                data = re.sub(rb'"bytes": \d+', b'"bytes": 99999999999999', data)
            if how == "newer" and name == "manifest.json":
                data = data.replace(b'"schema": 1', b'"schema": 9')
            if how != "not a database" or name != "hale-rail.db":
                new.writestr(name, data)
        if how == "outside":
            new.writestr("../../outside.txt", b"x")
        if how == "twice":
            with warnings.catch_warnings(action="ignore"):
                new.writestr("hale-rail.db", b"x")
    return target


@pytest.mark.parametrize(
    ("how", "says"),
    [
        ("photo", "is not what it was"),
        ("manifest", "not a backup of this program"),
        ("newer", "newer Hale Rail"),
        ("vast", "no room for it"),
        ("not a database", "not a backup of this program"),
        ("outside", "not a backup of this program"),
        ("twice", "not a backup of this program"),
        ("short", "damaged"),
    ],
)
def test_a_whole_backup_that_is_not_whole_changes_nothing(
    demo: Store, tmp_path: Path, how: str, says: str
) -> None:
    run("backup", "--to", tmp_path / "disk", "--data", demo.folder)
    (file,) = (tmp_path / "disk").iterdir()
    bad = harmed(file, tmp_path / "bad.zip", how)
    if how == "short":
        bad.write_bytes(file.read_bytes()[: file.stat().st_size // 2])
    refused = run("restore", bad, "--data", tmp_path / "new")
    assert (refused.exit_code, says in refused.output) == (2, True), refused.output
    assert "Traceback" not in refused.output
    assert not (tmp_path / "new" / DATABASE).exists()


def test_a_check_finds_a_file_that_is_no_longer_what_it_was(demo: Store) -> None:
    photo = next(p for p in demo.folder.glob("photos/*/*.jpg") if "thumb" not in p.name)
    record = next(demo.folder.glob("records/*/*.wave"))
    for path in (photo, record):
        path.write_bytes(path.read_bytes() + b"x")
    found = run("check", "--data", demo.folder)
    assert found.exit_code == 1
    for path in (photo, record):
        assert f"{path.relative_to(demo.folder)} is not what it was" in found.output


def test_a_check_names_what_is_missing(demo: Store) -> None:
    photo = next(demo.folder.glob("photos/*/*.thumb.jpg"))
    photo.unlink()
    with closing(sqlite3.connect(demo.folder / DATABASE)) as connection:
        connection.execute("PRAGMA foreign_keys=OFF")
        connection.execute("UPDATE bench_case SET unit_type_id = 999 WHERE number = 'LW-014'")
        connection.commit()
    found = run("check", "--data", demo.folder)
    assert found.exit_code == 1
    assert f"The photo {photo.relative_to(demo.folder)} is missing." in found.output
    assert "A row of bench_case names one of unit_type that is not there." in found.output


def test_there_is_nothing_to_look_after_in_an_empty_folder(tmp_path: Path) -> None:
    for command in ("backup", "check"):
        refused = run(command, "--data", tmp_path)
        assert refused.exit_code == 2
        assert "no workshop's data" in refused.output
    assert list(tmp_path.iterdir()) == []
