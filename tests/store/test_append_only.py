"""Tables described by the record of their row: what follows from the description."""

from __future__ import annotations

import sqlite3
from typing import Any

import pytest

from hale_rail.case.rows import Rows
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.store import log
from hale_rail.store.append_only import AppendOnly
from hale_rail.store.case_tables import APPENDED
from hale_rail.store.database import Store
from hale_rail.store.decisions import PART_DECISIONS, PartDecision
from hale_rail.store.documents import DOCUMENTS, DRAWING_CHECKS, Checked, Document
from hale_rail.store.machine_notes import MACHINE_NOTES, MachineNote
from hale_rail.store.rework import REWORK_STEPS, REWORK_STRIKES, ReworkStep
from tests.conftest import Bench

AT = "2026-01-02T03:04:05.000000+00:00"
GIVEN = {"id", "uuid", "case_id", "log_id"}


def put(bench: Bench, table: AppendOnly[Any], *rows: Any) -> None:
    case_id = bench.file.case.id
    with bench.store.write() as connection:
        for row in rows:
            entry = log.append(connection, case_id, AT, "note", repr(table))
            table.insert(connection, case_id, entry, row)
        connection.execute("UPDATE bench_case SET revision = revision + 1")


@pytest.mark.parametrize("table", [*APPENDED, DOCUMENTS, DRAWING_CHECKS], ids=repr)
def test_a_description_has_the_columns_of_its_table(store: Store, table: AppendOnly[Any]) -> None:
    columns = {row["name"] for row in store.read().execute(f"PRAGMA table_info({table.name})")}
    fields = set(table.row.__struct_fields__) - {"at"}
    looked_up = {"codes", "rail", "row_id", "case_number"}
    named_by_id = {"rail_id", "target_id", "reading_id", "step_id", "row_id"}
    assert fields - looked_up <= columns
    assert columns - fields - GIVEN <= named_by_id
    assert table.of_case(store.read(), 0) == []


@pytest.mark.parametrize("table", [*APPENDED, DOCUMENTS, DRAWING_CHECKS], ids=repr)
def test_a_described_table_lets_nothing_be_changed(store: Store, table: AppendOnly[Any]) -> None:
    of_table = "SELECT count(*) FROM sqlite_master WHERE type = 'trigger' AND tbl_name = ?"
    guards = f"{of_table} AND sql LIKE '%is append-only%'"
    assert store.read().execute(guards, (table.name,)).fetchone()[0] == 2


def test_a_row_comes_back_with_its_code_its_entry_and_its_moment(bench: Bench) -> None:
    part = bench.id_of("C10")
    put(bench, PART_DECISIONS, PartDecision(part, DecisionKind.KEEP, "reads good"))
    (row,) = PART_DECISIONS.of_case(bench.store.read(), bench.file.case.id)
    assert (row.part_id, row.kind, row.reason, row.at) == (
        part,
        DecisionKind.KEEP,
        "reads good",
        AT,
    )
    assert row.decision.log_id == row.log_id > 0
    assert PART_DECISIONS.of_case(bench.store.read(), bench.file.case.id, row.id) == []


def test_the_newest_row_of_a_thing_stands_last_and_one_without_body_takes_it_back(
    bench: Bench,
) -> None:
    put(bench, MACHINE_NOTES, *(MachineNote("chip", key, {"is": key}) for key in "ab"))
    put(bench, MACHINE_NOTES, MachineNote("chip", "a", {"is": "again"}))
    rows = bench.file.rows
    assert [note.body for note in rows.newest(MACHINE_NOTES).values()] == [
        {"is": "b"}, {"is": "again"},
    ]  # fmt: skip
    put(bench, MACHINE_NOTES, MachineNote("chip", "b", None))
    rows = bench.file.rows
    assert list(rows.newest(MACHINE_NOTES)) == [("chip", "a")]
    assert len(rows.all(MACHINE_NOTES)) == 4


def test_many_rows_go_in_at_once_as_each_alone(bench: Bench) -> None:
    part, case_id = bench.id_of("C10"), bench.file.case.id
    put(bench, REWORK_STEPS, ReworkStep(part, "out", "x"))
    with bench.store.write() as connection:
        entries = [log.append(connection, case_id, AT, "note", "x") for _ in range(2)]
        rows = [
            (ReworkStep(part, step), {"case_id": case_id, "log_id": entry})
            for step, entry in zip(("cleared", "polarity"), entries, strict=True)
        ]
        REWORK_STEPS.insert_all(connection, rows)
        REWORK_STEPS.insert_all(connection, [])
    kept = REWORK_STEPS.of_case(bench.store.read(), case_id)
    assert [(row.part_id, row.step, row.note) for row in kept] == [
        (part, "out", "x"), (part, "cleared", ""), (part, "polarity", ""),
    ]  # fmt: skip
    assert [row.log_id for row in kept[1:]] == entries


def strike(bench: Bench, row_id: int) -> None:
    case_id = bench.file.case.id
    with bench.store.write() as connection:
        entry = log.append(connection, case_id, AT, "strike", "x")
        REWORK_STRIKES.strike(connection, case_id, entry, row_id, "not yet")
        connection.execute("UPDATE bench_case SET revision = revision + 1")


def test_a_struck_row_stands_no_longer_and_is_struck_once(bench: Bench) -> None:
    part = bench.id_of("C10")
    put(bench, REWORK_STEPS, ReworkStep(part, "out"), ReworkStep(part, "cleared"))
    before: Rows = bench.file.rows
    first, second = before.active(REWORK_STEPS)
    strike(bench, second.id)
    with pytest.raises(sqlite3.IntegrityError):
        strike(bench, second.id)
    now = bench.file.rows
    assert now.active(REWORK_STEPS) == (first,)
    assert now.last(REWORK_STEPS) == first
    assert now.all(REWORK_STEPS) == before.all(REWORK_STEPS) == (first, second)
    strikes = REWORK_STRIKES.of_case(bench.store.read(), bench.file.case.id)
    assert [strike.row_id for strike in strikes] == [second.id]


def test_a_drawing_of_the_type_is_read_by_each_unit_with_what_was_measured(bench: Bench) -> None:
    case = bench.file.case
    put(bench, DOCUMENTS, Document(case.id, "Board", "A", "image/jpeg", "0" * 64, None))
    (document,) = DOCUMENTS.read(bench.store.read(), "case_id = ?", case.id)
    check = Checked(
        document.id, case.id, case.number, "P1 1", "C3 +", is_drawn_joined=True, ohm=0.2
    )
    put(bench, DRAWING_CHECKS, check)
    (back,) = DRAWING_CHECKS.read(bench.store.read(), "document_id = ?", document.id)
    assert (back.case_number, back.check.is_drawn_joined, back.check.ohm) == (
        case.number,
        True,
        0.2,
    )
