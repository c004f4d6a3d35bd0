"""Backups: kept by age, never a suspicious one over a good one."""

from __future__ import annotations

import errno
import sqlite3
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import NoReturn

import pytest

from hale_rail.actions.parts import decisions
from hale_rail.errors import CorruptError
from hale_rail.store import backup_files, backups
from hale_rail.store.database import Store
from tests.conftest import Bench, Client

NOON = datetime(2026, 3, 12, 12, tzinfo=UTC)  # a Thursday


def days(*back: float) -> list[datetime]:
    return [NOON - timedelta(days=d) for d in back]


@pytest.mark.parametrize(
    ("made", "stay"),
    [
        (days(0), days(0)),
        (days(*range(12)), days(*range(10), 11)),  # 11 days ago is the newest of its week
        (days(*range(100)), days(*range(10), 11, 18, 25, 32, 39, 46)),
        (days(0, 0.01, 0.02, 1, 1.01), days(0, 0.01, 0.02, 1)),  # of the last day all
        (days(300, 400, 500), days(300, 400, 500)),  # a workshop that rested
    ],
)
def test_ten_days_and_eight_weeks_are_kept(made: list[datetime], stay: list[datetime]) -> None:
    assert backup_files.kept(made) == set(stay)


def stamped(folder: Path, at: datetime) -> Path:
    path = backup_files.new_name(folder, at=at)
    path.parent.mkdir(exist_ok=True)
    path.write_bytes(b"")
    return path


def test_old_backups_go_when_a_good_one_came(bench: Bench) -> None:
    folder = bench.store.folder
    old = [stamped(folder, NOON - timedelta(days=d)) for d in range(30)]
    last = bench.store.backup()
    left = backup_files.good(folder)
    assert left[-1] == last
    assert [path for path in left if path in old] == sorted([*old[:9], old[11], old[18], old[25]])
    with closing(sqlite3.connect(last)) as copy:
        assert copy.execute("SELECT number FROM bench_case").fetchall() == [("T-1",)]


def test_a_workshop_that_holds_far_less_pushes_no_good_backup_out(bench: Bench) -> None:
    for number in range(40):
        decisions.note(bench.store, "T-1", f"note {number}")
    folder = bench.store.folder
    good = bench.store.backup()
    bench.store.close()
    bench.store.path.unlink()
    for left in folder.glob("*-wal"):
        left.unlink()
    (folder / "elsewhere").mkdir()
    Store(folder / "elsewhere").close()
    (folder / "elsewhere" / "hale-rail.db").rename(bench.store.path)
    with closing(Store(folder)) as emptied:
        for _ in range(12):
            made = emptied.backup()
    assert made.name.startswith("doubtful-")
    assert backup_files.good(folder) == [good]
    assert len(list(made.parent.glob("doubtful-*"))) <= 10


def test_a_damaged_database_is_told_and_its_backup_is_no_good_one(bench: Bench) -> None:
    bench.make_safe()
    good = bench.store.backup()
    bench.store.close()
    with bench.store.path.open("r+b") as file:
        file.seek(5 * 4096)
        file.write(b"\xff" * 4096 * 8)
    with pytest.raises(CorruptError, match=f"hale-rail restore {good}"):
        bench.store.backup()
    assert backup_files.good(bench.store.folder) == [good]


def test_a_backup_a_day(bench: Bench) -> None:
    first = bench.store.backup_if_due()
    assert first is not None
    assert bench.store.backup_if_due() is None
    for days_off in (-2, 3):  # also where the machine's clock went back
        first.rename(
            backup_files.new_name(
                bench.store.folder, at=datetime.now(UTC) + timedelta(days=days_off)
            )
        )
        assert backups.is_due(bench.store.folder)
        first = bench.store.backup()
        for path in backup_files.good(bench.store.folder):
            if path != first:
                path.unlink()


def test_a_backup_that_is_none_to_rely_on_is_told_on_the_bench_page(
    client: Client, demo: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    def refuse(_: Path) -> NoReturn:
        raise OSError(errno.ENOSPC, "No space left on device")

    with monkeypatch.context() as full:
        full.setattr(backups, "back_up", refuse)
        assert demo.backup_if_due() is None
    assert "Today’s backup failed. The disk is full" in client.text("/")
    demo.backup_if_due()
    assert "backup" not in client.text("/")
    backup_files.new_name(demo.folder, is_doubtful=True).write_bytes(b"")
    demo.trouble = ""  # it is told as long as it stands, after a restart too
    assert demo.backup_if_due() is None
    assert "The newest backup is doubtful" in client.text("/")


def test_a_backup_stamped_in_the_future_makes_none_due_at_every_look(store: Store) -> None:
    made = store.backup()
    ahead = backup_files.new_name(store.folder, at=datetime.now(UTC) + timedelta(days=400))
    made.rename(ahead)
    assert backups.is_due(store.folder)
    assert store.backup_if_due()
    assert not backups.is_due(store.folder)
    assert store.backup_if_due() is None
    assert ahead.exists()
