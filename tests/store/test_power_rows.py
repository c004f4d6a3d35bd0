"""First power, power good and records: what goes in comes out; nothing is changed or deleted."""

from __future__ import annotations

import io
import os
import sqlite3

import numpy as np
import pytest

from hale_rail.case.file import forget
from hale_rail.core.safety.bleeding import PowerResistor
from hale_rail.core.targets import rail_target
from hale_rail.store import log, waves, workshop
from hale_rail.store.append_only import fields_of
from hale_rail.store.database import Store
from hale_rail.store.power_steps import (
    POWER_CHOICES,
    POWER_GOODS,
    POWER_STEPS,
    PowerChoice,
    PowerGoodRow,
    PowerStep,
)
from hale_rail.store.waves import WAVE_RECORDS, WAVE_SETTINGS, WaveSetting
from tests.conftest import Bench

AT = "2026-01-02T03:04:05.000000+00:00"


def test_steps_choices_and_power_good_come_back_in_order(store: Store) -> None:
    bench = Bench(store)
    case_id = bench.file.case.id
    with store.write() as connection:
        for step, what, note in (("limited", "begun", ""), ("limited", "stopped", "smoke:Smoke"),
                                 ("limited", "cleared", "C3 reversed")):  # fmt: skip
            entry = log.append(connection, case_id, AT, "power", what)
            POWER_STEPS.insert(connection, case_id, entry, PowerStep(step, what, note))
        for body in ({"limiter": "lamp"}, {"limiter": "bench", "draw_a": 0.6}):
            entry = log.append(connection, case_id, AT, "edited", "chosen")
            POWER_CHOICES.insert(connection, case_id, entry, PowerChoice(body))
        for after in (None, 0.24):
            entry = log.append(connection, case_id, AT, "note", "power good")
            POWER_GOODS.insert(connection, case_id, entry, PowerGoodRow(after))
    found = POWER_STEPS.of_case(store.read(), case_id)
    assert [(s.what, s.note, s.at) for s in found] == [
        ("begun", "", AT), ("stopped", "smoke:Smoke", AT), ("cleared", "C3 reversed", AT),
    ]  # fmt: skip
    assert POWER_STEPS.of_case(store.read(), case_id, found[1].id) == found[2:]
    assert [c.body for c in POWER_CHOICES.of_case(store.read(), case_id)][-1]["draw_a"] == 0.6
    assert [g.after_s for g in POWER_GOODS.of_case(store.read(), case_id)] == [None, 0.24]
    forget()
    rows = bench.file.rows
    assert fields_of(rows.last(POWER_CHOICES))["limiter"] == "bench"
    assert rows.last(POWER_GOODS) is not None
    assert rows.last(POWER_GOODS).after_s == 0.24


@pytest.mark.parametrize("table", ["power_step", "power_choice", "power_good", "wave_setting"])
@pytest.mark.parametrize("change", ["UPDATE {} SET uuid = uuid", "DELETE FROM {}"])
def test_what_was_done_stays_as_it_is(demo: Store, table: str, change: str) -> None:
    bench = Bench(demo, "template:flyback", number="T-8")
    case_id = bench.file.case.id
    with demo.write() as connection:
        entry = log.append(connection, case_id, AT, "note", "power good")
        POWER_GOODS.insert(connection, case_id, entry, PowerGoodRow(None))
    with pytest.raises(sqlite3.IntegrityError, match="append-only"), demo.write() as connection:
        connection.execute(change.format(table))


def test_a_file_is_kept_whole_under_its_hash_once(store: Store) -> None:
    one = waves.put_file(store.folder, io.BytesIO(b"x" * 3_000_000))
    other = waves.put_file(store.folder, io.BytesIO(b"x" * 3_000_000))
    assert one == other
    assert waves.path_of(store.folder, one).stat().st_size == 3_000_000
    kept = [path for path in (store.folder / "records").rglob("*") if path.is_file()]
    assert len(kept) == 1


def test_arrays_of_a_view_come_back_and_half_written_ones_count_as_none(store: Store) -> None:
    assert waves.arrays_of(store.folder, "k" * 64) is None
    waves.put_arrays(store.folder, "k" * 64, {"volt": np.arange(5.0), "facts": [1.0, 2.0]})
    found = waves.arrays_of(store.folder, "k" * 64)
    assert found is not None
    assert found["volt"].tolist() == [0, 1, 2, 3, 4]
    (store.folder / "records" / "views" / ("k" * 32) / "whole").unlink()
    assert waves.arrays_of(store.folder, "k" * 64) is None


def test_a_record_names_its_rail_and_its_entry(store: Store) -> None:
    bench = Bench(store)
    case = bench.file.case
    with store.write() as connection:
        entry = log.append(connection, case.id, AT, "reading", "record")
        rail = rail_target("+5 V")
        record = waves.insert(connection, case.id, case.sheet_id, entry, rail, "a.csv", "0" * 64)
        WAVE_SETTINGS.insert(connection, case.id, entry, WaveSetting(record, {"load": "dummy"}))
    (row,) = WAVE_RECORDS.of_case(store.read(), case.id)
    assert (row.rail, row.name, row.log_id, row.at) == ("+5 V", "a.csv", entry, AT)
    (said,) = WAVE_SETTINGS.of_case(store.read(), case.id)
    assert (said.record_id, said.body) == (record, {"load": "dummy"})
    assert WAVE_RECORDS.of_case(store.read(), case.id, row.id) == []


def test_resistors_keep_how_many_there_are(store: Store) -> None:
    stock = [
        PowerResistor(10.0, 25.0, "wirewound", 100.0, 3),
        PowerResistor(22.0, 5.0, "film", 50.0),
    ]
    with store.write() as connection:
        workshop.put_resistors(connection, stock)
    assert workshop.resistors(store.read()) == stock


def test_what_is_kept_beside_a_record_is_its_owners_alone(store: Store) -> None:
    """Under a usual umask, the folders above it too."""
    before = os.umask(0o022)
    try:
        waves.put_arrays(store.folder, "k" * 32, {"volt": np.zeros(4)})
    finally:
        os.umask(before)
    kept = [store.folder / "records", *(store.folder / "records").rglob("*")]
    assert len(kept) == 5
    assert all(path.stat().st_mode & 0o077 == 0 for path in kept), kept
    assert waves.arrays_of(store.folder, "k" * 32)
