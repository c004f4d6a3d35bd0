"""The demo that ships is what its known truth makes, opens at once, and lies near today."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from datetime import UTC, datetime, timedelta
from importlib import resources
from pathlib import Path

import pytest

from hale_rail.case.file import open_case
from hale_rail.case.report.report import report
from hale_rail.demo.workshop import SHIPPED, VENDORS
from hale_rail.store import full_backup
from hale_rail.store.database import DATABASE, Store
from larkmoor import analyses, moment, sourcing, workshop
from larkmoor.__main__ import make

#: what differs each time: when a layout was changed, and what a search index keeps for itself
APART = ("migration", "analysis")


def rows_of(path: Path) -> dict[str, list[tuple[object, ...]]]:
    with closing(sqlite3.connect(path)) as connection:
        names = [
            name
            for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
            if name not in APART and "search" not in name
        ]
        found = {n: connection.execute(f"SELECT * FROM {n}").fetchall() for n in sorted(names)}
        kept = connection.execute("SELECT key, name FROM analysis ORDER BY key").fetchall()
        return {**found, "analysis": kept}


@pytest.fixture(scope="module")
def anew(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Store]:
    store = make(tmp_path_factory.mktemp("made") / "data")
    yield store
    store.close()


@pytest.mark.exhaustive
def test_what_ships_is_what_the_truth_makes(anew: Store, tmp_path: Path) -> None:
    with resources.as_file(resources.files("hale_rail.demo") / SHIPPED) as source:
        shipped = full_backup.take_out(source, tmp_path)
    made, kept = rows_of(anew.path), rows_of(shipped)
    assert made.keys() == kept.keys()
    for table in made:
        assert made[table] == kept[table], f"{table}: run `make demo-data`"
    files = {name for name, _ in full_backup.kept_files(anew.folder)}
    assert {name for name, _ in full_backup.kept_files(tmp_path)} == files


def test_what_ships_begins_as_the_truth_makes_it(tmp_path: Path) -> None:
    """The same of its first thousand entries, in `make test` too; later rows come behind them."""
    with resources.as_file(resources.files("hale_rail.demo") / SHIPPED) as source:
        (tmp_path / "shipped").mkdir()
        kept = rows_of(full_backup.take_out(source, tmp_path / "shipped"))
    with moment.stopped():
        store = Store(tmp_path / "data")
        workshop.begin(store)
        store.close()
    made = rows_of(store.path)
    for table in (
        "log",
        "reading",
        "look",
        "decision",
        "rail",
        "part",
        "offer",
        "drawer",
        "vendor",
    ):
        assert made[table] == kept[table][: len(made[table])], f"{table}: run `make demo-data`"
    assert len(made["log"]) > 1000
    told = (resources.files("hale_rail.demo") / VENDORS).read_text(encoding="utf-8")
    assert json.loads(told) == sourcing.told()


@pytest.mark.parametrize(
    "numbers", [("LW-014",), pytest.param((), marks=pytest.mark.exhaustive)], ids=["one", "all"]
)
def test_pages_open_with_their_analyses_computed(demo: Store, numbers: tuple[str, ...]) -> None:
    """Ledger and order, and the pages of one case; of all of them in `make test-all`."""

    def kept() -> int:
        return int(demo.read().execute("SELECT count(*) FROM analysis").fetchone()[0])

    before = kept()
    analyses.compute(demo, numbers)
    assert kept() == before > 20


def test_the_newest_entry_is_of_the_first_start_and_all_times_moved_alike(
    demo: Store, tmp_path: Path
) -> None:
    with resources.as_file(resources.files("hale_rail.demo") / SHIPPED) as source:
        shipped = full_backup.take_out(source, tmp_path)
    query = "SELECT max(at), min(at) FROM log"
    newest, oldest = map(datetime.fromisoformat, demo.read().execute(query).fetchone())
    assert timedelta() < datetime.now(UTC) - newest < timedelta(hours=1)
    with closing(sqlite3.connect(shipped)) as connection:
        then, long_ago = map(datetime.fromisoformat, connection.execute(query).fetchone())
        soaked = connection.execute("SELECT max(at_s) FROM soak_row").fetchone()[0]
    assert newest - then == oldest - long_ago
    moved = demo.read().execute("SELECT max(at_s) FROM soak_row").fetchone()[0]
    assert moved - soaked == pytest.approx((newest - then).total_seconds(), abs=1e-3)
    issued = demo.read().execute("SELECT body FROM issued_report").fetchone()[0]
    assert newest.year - 1 <= int(json.loads(issued)["opened_at"][:4]) <= newest.year
    assert demo.path.name == DATABASE
    assert report(open_case(demo, "LW-003")).number == "LW-003"
    with demo.write() as connection, pytest.raises(sqlite3.IntegrityError, match="append-only"):
        connection.execute("DELETE FROM reading")
