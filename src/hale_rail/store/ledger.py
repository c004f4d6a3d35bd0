"""What cases tell the ledger, and what it gives to the chances: derived, kept."""

from __future__ import annotations

import sqlite3

from hale_rail.store.cases import REAL


def put_line(connection: sqlite3.Connection, case_id: int, revision: int, body: str) -> None:
    """Keep what a case tells, as JSON."""
    connection.execute(
        "INSERT INTO ledger_line VALUES (?, ?, ?) ON CONFLICT (case_id) DO UPDATE SET"
        " revision = excluded.revision, body = excluded.body",
        (case_id, revision, body),
    )


def lines(connection: sqlite3.Connection) -> list[str]:
    """What every case that was handed back tells, as JSON, as far as it is fresh."""
    rows = connection.execute(
        "SELECT l.body FROM ledger_line AS l JOIN bench_case AS c ON c.id = l.case_id"
        f" WHERE c.closed_at IS NOT NULL AND l.revision = c.revision AND {REAL} ORDER BY c.id"
    )
    return [row["body"] for row in rows]


def stale(connection: sqlite3.Connection) -> list[str]:
    """Numbers of cases handed back whose line is missing or behind."""
    rows = connection.execute(
        "SELECT c.number FROM bench_case AS c LEFT JOIN ledger_line AS l ON l.case_id = c.id"
        " WHERE c.closed_at IS NOT NULL AND (l.revision IS NULL OR l.revision <> c.revision)"
        f" AND {REAL} ORDER BY c.id"
    )
    return [row["number"] for row in rows]


def put_priors(connection: sqlite3.Connection, body: str) -> None:
    """Keep what the ledger gives, as JSON."""
    connection.execute(
        "INSERT INTO ledger_priors VALUES (1, ?) ON CONFLICT (id) DO UPDATE SET"
        " body = excluded.body",
        (body,),
    )


def priors(connection: sqlite3.Connection) -> str:
    """What the ledger gives, as JSON; "" where it was never computed."""
    row = connection.execute("SELECT body FROM ledger_priors").fetchone()
    return str(row["body"]) if row else ""
