"""The demo workshop: its truth, its states, and that it never touches real data."""

from __future__ import annotations

import shutil
import sqlite3
from pathlib import Path

import pytest

from hale_rail.case.file import open_case
from hale_rail.case.parts.parts import parts
from hale_rail.case.report.report import report
from hale_rail.core.parts.banks import shown
from hale_rail.core.parts.families import typical_esr
from hale_rail.core.procedures import ESR
from hale_rail.demo.workshop import ensure_demo
from hale_rail.errors import StoreError
from hale_rail.stages.frame.bench import bench as bench_page
from hale_rail.store.database import Store
from larkmoor.truth import TRUTH
from tests.conftest import Bench


def test_the_demo_reads_what_its_truth_says(demo: Store) -> None:
    """Every ESR reading of a lone part is its true ESR within the meter's error, independently."""
    checked = 0
    for number, truth in TRUTH.items():
        for facts in parts(open_case(demo, number)).values():
            part, reading = facts.part, facts.latest(ESR)
            if reading is None or part.bank or part.ref not in truth or facts.decision:
                continue
            assert part.family and part.value
            typical = typical_esr(part.family, part.value, part.volt, part.grade)
            assert typical
            true = (part.value * truth[part.ref][0], typical.ohm * truth[part.ref][1])
            assert reading.value == pytest.approx(shown([true], 100e3).esr_ohm, rel=0.06)
            checked += 1
    assert checked >= 8


def test_the_demo_shows_every_state(demo: Store) -> None:
    states = {
        facts.state.value
        for line in bench_page(demo, "")[0]
        for facts in parts(open_case(demo, line.number)).values()
    }
    assert states == {"unseen", "good", "worn", "failed", "unproven", "replaced"}


def test_the_report_says_what_was_found_and_what_is_left(demo: Store) -> None:
    found = report(open_case(demo, "LW-014"))
    rows = {section.title: {row[0] for row in section.rows} for section in found.sections}
    assert rows["Found failed"] >= {"F1", "Q1", "C2", "CX1"}
    assert any("Replace" in text for text in found.undone)
    done = report(open_case(demo, "LW-009"))
    assert [s.title for s in done.sections] == ["Replaced"]
    assert {row[0] for row in done.sections[0].rows} == {"C1", "C2", "C3", "C4", "C5", "M13"}


def test_the_demo_never_touches_real_data(bench: Bench) -> None:
    with pytest.raises(StoreError, match="not a demo"):
        ensure_demo(bench.store.folder, reset=True)
    assert open_case(bench.store, bench.number)


def test_a_demo_of_the_old_layout_is_made_anew(demo_master: Path, tmp_path: Path) -> None:
    folder = tmp_path / "demo"
    shutil.copytree(demo_master, folder)
    for path in folder.glob("hale-rail.db*"):
        path.unlink()
    old = sqlite3.connect(folder / "hale-rail.db")
    old.execute("CREATE TABLE migration (number INTEGER, name TEXT, checksum TEXT, run_at TEXT)")
    old.execute("INSERT INTO migration VALUES (1, '0001_first_case.sql', 'x', 'then')")
    old.commit()
    old.close()
    store = ensure_demo(folder)
    assert open_case(store, "LW-014")
    store.close()
