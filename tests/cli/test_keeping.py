"""The commands that look after a data folder."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

import pytest
from click.testing import CliRunner, Result

from hale_rail.case.file import open_case
from hale_rail.cli import main
from hale_rail.store.database import DATABASE, Store

from ..conftest import Bench


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
            "no database of this program",
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
