"""What is to be bought for each case: derived, kept so that an order opens what changed."""

from __future__ import annotations

import sqlite3

from hale_rail.store.cases import ON_BENCH

#: a case of which nothing is bought
NOTHING = "{}"
_FRESH = "d.revision IS c.revision AND d.judged_by IS :by"


def stale(connection: sqlite3.Connection, judged_by: str) -> list[str]:
    """Numbers of the cases on the bench whose kept demand is behind, in order."""
    rows = connection.execute(
        "SELECT c.number FROM bench_case AS c LEFT JOIN case_demand AS d ON d.case_id = c.id"
        f" WHERE {ON_BENCH} AND NOT ({_FRESH}) ORDER BY c.number", {"by": judged_by},
    )  # fmt: skip
    return [row[0] for row in rows]


def kept(connection: sqlite3.Connection, judged_by: str) -> list[tuple[str, str]]:
    """Number and kept demand, JSON, of the cases on the bench of which something is bought."""
    rows = connection.execute(
        "SELECT c.number, d.body FROM case_demand AS d JOIN bench_case AS c ON c.id = d.case_id"
        f" WHERE d.body <> '{NOTHING}' AND {ON_BENCH} AND {_FRESH} ORDER BY c.number",
        {"by": judged_by},
    )
    return [(row[0], row[1]) for row in rows]


def put(
    connection: sqlite3.Connection, case_id: int, revision: int, judged_by: str, body: str
) -> None:
    """Keep a case's demand as it was at a revision."""
    connection.execute(
        "INSERT OR REPLACE INTO case_demand VALUES (?, ?, ?, ?)",
        (case_id, revision, judged_by, body),
    )
