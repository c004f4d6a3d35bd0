"""kill −9 at any moment: what was acknowledged is there, and the folder opens again, whole."""

from __future__ import annotations

import os
import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import textwrap
import time
from contextlib import closing
from pathlib import Path

import pytest

from hale_rail.store import check_restore, database, migrating
from hale_rail.store.database import DATABASE, Store
from tests.conftest import Bench
from tests.sizes import IS_ALL

WRITER = textwrap.dedent(
    """
    import sys
    from pathlib import Path
    from hale_rail.actions.parts import decisions
    from hale_rail.store.database import Store
    store = Store(Path(sys.argv[1]))
    for number in range(10_000):
        decisions.note(store, "T-1", f"note {number}")
        print(number, flush=True)
    """
)
#: opens a folder as after an update of forty changes: it says so once it could be killed
OPENER = textwrap.dedent(
    """
    import sys
    from pathlib import Path
    from hale_rail.store import database
    from hale_rail.store.database import Store
    real = database.migrations()
    bodies = ["CREATE TABLE extra_%d (id INTEGER) STRICT;" % n for n in range(40)]
    more = [("90%02d_extra.sql" % n, body, str(n)) for n, body in enumerate(bodies)]
    database.migrations = lambda: [*real, *more]
    print("begin", flush=True)
    Store(Path(sys.argv[1])).close()
    print("done", flush=True)
    """
)


def test_a_kill_loses_nothing_that_was_acknowledged(bench: Bench) -> None:
    """kill −9 while writing, thrice in `make test-all`; every printed number is in the log, and all
    is sound."""
    folder = str(bench.store.folder)
    for _ in range(3 if IS_ALL else 1):
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
    assert check_restore.problems(bench.store.folder) == []


def notes(store: Store) -> list[str]:
    rows = store.read().execute("SELECT text FROM log WHERE kind = 'note' ORDER BY id")
    return [row["text"] for row in rows]


def opening(folder: Path, kill_after_s: float | None) -> tuple[float, bool]:
    """Open a folder in a process of its own, killed so long after it began; returns how long it
    took, and whether it was cut."""
    command = [sys.executable, "-c", OPENER, str(folder)]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as opener:
        assert opener.stdout
        assert opener.stdout.readline() == "begin\n"
        began = time.monotonic()
        if kill_after_s is not None:
            time.sleep(kill_after_s)
            os.kill(opener.pid, signal.SIGKILL)
        is_cut = "done" not in opener.stdout.read()
        return time.monotonic() - began, is_cut


@pytest.mark.parametrize("how", ["start", "migrate"])
def test_a_kill_while_starting_or_migrating_leaves_a_folder_that_opens(
    how: str, bench: Bench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """An empty folder at its first start, made by the changes; one that lacks forty of them."""
    bench.store.close()

    def folder_of(name: str) -> Path:
        folder = tmp_path / name
        if how == "migrate":
            shutil.copytree(bench.store.folder, folder)
        return folder

    whole_s, _ = opening(folder_of("whole"), None)
    steps, chance, cut = migrating.migrations(), random.Random(13), 0
    for index in range(10 if IS_ALL else 4):
        folder = folder_of(f"cut-{index}")
        cut += opening(folder, chance.random() * whole_s * 0.8)[1]
        found = done(folder / DATABASE) if (folder / DATABASE).exists() else []
        later = [("x", "SELECT 1;", str(n)) for n in range(max(0, len(found) - len(steps)))]
        monkeypatch.setattr(database, "migrations", lambda later=later: [*steps, *later])
        with closing(Store(folder)) as store:
            assert store.is_usable()
            cases = store.read().execute("SELECT count(*) FROM bench_case").fetchone()[0]
            assert cases == (how == "migrate")
        assert check_restore.problems(folder) == []
        assert not list(folder.rglob("*.part*"))
    assert cut


def done(path: Path) -> list[str]:
    with closing(sqlite3.connect(path)) as connection:
        return [row[0] for row in connection.execute("SELECT checksum FROM migration")]
