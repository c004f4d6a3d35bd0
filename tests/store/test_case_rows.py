"""A case's rows as plain data: every table travels, ids do not, and the way back is exact."""

from __future__ import annotations

import json
from typing import Any

import pytest

from hale_rail.case.file import open_case
from hale_rail.errors import InputError
from hale_rail.store import case_rows, unit_types
from hale_rail.store.database import Store
from hale_rail.store.soaks import SOAK_ROWS

#: tables that are the workshop's own, or follow from others
OF_THE_WORKSHOP = {
    "vocabulary", "unit_type", "bench_line", "asked", "instrument", "instrument_family", "analysis",
    "resistor", "setting", "vendor", "offer", "drawer", "buying", "received", "ledger_line",
    "ledger_priors", "sqlite_sequence", "migration", "sign_in", "case_demand", "search_due",
    "search_tag", "search_text", "search_text_config", "search_text_content", "search_text_data",
    "search_text_docsize", "search_text_idx", "ready_load",
}  # fmt: skip


def dumped(store: Store, number: str) -> case_rows.Tables:
    return case_rows.dump(store.read(), open_case(store, number).case.id)


def loaded(store: Store, tables: case_rows.Tables, number: str) -> int:
    with store.write() as connection:
        return case_rows.load(connection, tables, number)


def test_every_table_of_the_database_travels_or_is_the_workshops(store: Store) -> None:
    rows = store.read().execute("SELECT name FROM sqlite_master WHERE type = 'table'")
    names = {row["name"] for row in rows}
    assert names - OF_THE_WORKSHOP == set(case_rows.TABLES)


@pytest.mark.parametrize("number", ["LW-009", "LW-014", "LW-022", "LW-031", "LW-038", "AR-007"])
def test_what_was_dumped_is_loaded_and_dumped_the_same(
    demo: Store, store: Store, number: str
) -> None:
    before = dumped(demo, number)
    kept: case_rows.Tables = json.loads(json.dumps(before, allow_nan=False))
    case_id = loaded(store, kept, number)
    assert case_rows.dump(store.read(), case_id) == before
    assert store.read().execute("PRAGMA foreign_key_check").fetchall() == []


def test_ids_do_not_travel_and_over_range_is_a_word(demo: Store) -> None:
    tables = dumped(demo, "LW-014")
    for table, rows in tables.items():
        for row in rows:
            assert not {"id", "case_id", "sheet_id"} & row.keys(), table
    assert any(row["value"] == "over" for row in tables["reading"])
    assert tables["bench_case"][0].keys().isdisjoint({"number", "revision"})


def test_two_cases_of_a_type_share_its_papers_and_maps(demo: Store, store: Store) -> None:
    for number in ("LW-022", "LW-003"):
        loaded(store, dumped(demo, number), number)
    count = store.read().execute("SELECT count(*), count(DISTINCT uuid) FROM board_map").fetchone()
    assert count[0] == count[1] == 1
    assert len(unit_types.listed(store.read())) == 1
    for number in ("LW-022", "LW-003"):
        maps = open_case(store, number).rows.maps
        assert maps.keys() == open_case(demo, number).rows.maps.keys()


@pytest.mark.parametrize(
    ("table", "values", "words"),
    [
        ("reading", {"value": "many"}, "reading, row 1"),
        ("reading", {"value": None}, "reading, row 1"),
        ("reading", {"target_id": -1}, "names a row that is not there"),
        ("reading", {"target_id": 1.5}, "names a row that is not there"),
        ("reading", {"supersedes": 1}, "names a row that is not there"),
        ("log", {"case_id": 1}, "not known here"),
        ("bench_case", {"number": "LW-1"}, "not known here"),
        ("look", {"uuid": "short"}, "look, row 1"),
    ],
)
def test_rows_that_cannot_be_are_refused_and_nothing_stays(
    demo: Store, store: Store, table: str, values: dict[str, Any], words: str
) -> None:
    tables = dumped(demo, "LW-014")
    tables[table][0].update(values)
    with pytest.raises(InputError, match=words):
        loaded(store, tables, "LW-014")
    assert case_rows.numbers(store.read()) == []


def test_an_older_bundle_without_a_later_table_is_taken(demo: Store, store: Store) -> None:
    tables = dumped(demo, "LW-009")
    for table in ("machine_note", "soak_row", "soak_strike"):
        tables.pop(table)
    loaded(store, tables, "LW-009")
    assert open_case(store, "LW-009").rows.active(SOAK_ROWS) == ()
