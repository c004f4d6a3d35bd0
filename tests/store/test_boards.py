"""Maps, trees and drawings in the store: whose they are, and what may not be changed."""

from __future__ import annotations

import sqlite3

import pytest

from hale_rail.errors import ConflictError
from hale_rail.store import boards, cases, check_restore, documents
from hale_rail.store.boards import StoredDrawing
from hale_rail.store.database import Store

AT = "2026-01-02T03:04:05.000000+00:00"
RAIL = "+12 V"


def ids(store: Store, number: str) -> tuple[int, int | None]:
    case = cases.by_number(store.read(), number)
    return case.id, case.unit_type_id


def drawn(store: Store, number: str) -> StoredDrawing:
    return boards.maps_of(store.read(), *ids(store, number))[RAIL]


def put(
    store: Store, number: str, known: StoredDrawing | None, body: str, *, of_type: bool = True
) -> None:
    case_id, unit_type = ids(store, number)
    with store.write() as connection:
        of = unit_type if of_type else None
        boards.put_map(connection, case_id, of, known, RAIL, body, AT)


def test_a_cases_own_map_comes_before_that_of_its_type(demo: Store) -> None:
    of_type = drawn(demo, "LW-022")
    assert of_type.case_id == ids(demo, "LW-003")[0]
    put(demo, "LW-022", None, '{"own": 1}', of_type=False)
    assert drawn(demo, "LW-022").body == '{"own": 1}'
    assert drawn(demo, "LW-003") == of_type
    assert RAIL not in boards.maps_of(demo.read(), *ids(demo, "LW-014"))


def test_a_map_is_changed_only_from_the_state_that_was_seen(demo: Store) -> None:
    seen = drawn(demo, "LW-022")
    put(demo, "LW-003", seen, '{"next": 1}')
    now = drawn(demo, "LW-022")
    assert (now.version, now.body) == (seen.version + 1, '{"next": 1}')
    with pytest.raises(ConflictError):
        put(demo, "LW-022", seen, '{"late": 1}')
    assert drawn(demo, "LW-003") == now
    with pytest.raises(sqlite3.IntegrityError):
        put(demo, "LW-003", now, "no json")


def test_a_tree_is_one_a_rail_and_counts_its_changes(demo: Store) -> None:
    case_id, _ = ids(demo, "LW-014")
    for body in ('{"a": 1}', '{"a": 2}'):
        with demo.write() as connection:
            boards.put_tree(connection, case_id, RAIL, body, AT)
    kept = boards.trees_of(demo.read(), case_id)[RAIL]
    assert (kept.body, kept.version) == ('{"a": 2}', 2)


def test_what_was_measured_against_a_drawing_stays(demo: Store) -> None:
    case_id, unit_type = ids(demo, "LW-022")
    assert [d.case_id for d in documents.of_case(demo.read(), case_id, unit_type)] == [
        ids(demo, "LW-003")[0]
    ]
    assert len(documents.checks_of(demo.read(), case_id, unit_type)) == 4
    for change in ("UPDATE drawing_check SET ohm = 9", "DELETE FROM drawing_check"):
        with pytest.raises(sqlite3.IntegrityError, match="append-only"), demo.write() as connection:
            connection.execute(change)


def test_files_of_maps_and_drawings_are_missed_too(demo: Store) -> None:
    assert check_restore.problems(demo.folder) == []
    taken = {row[0] for row in demo.read().execute("SELECT sha256 FROM photo")}
    under = next(p for p in demo.folder.glob("photos/*/*.thumb.jpg")
                 if p.name.partition(".")[0] not in taken)  # fmt: skip
    sheet = next(demo.folder.glob("documents/*/*.pdf"))
    for path in (under, sheet):
        path.unlink()
    assert check_restore.problems(demo.folder) == [
        f"The photo {under.relative_to(demo.folder)} is missing.",
        f"The drawing {sheet.relative_to(demo.folder)} is missing.",
    ]
