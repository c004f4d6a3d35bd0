"""The rows of a soak: appended, put aside by a strike."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from hale_rail.core.soak.soak import Sample
from hale_rail.store import sheets
from hale_rail.store.append_only import AppendedRow, AppendOnly, Strikes


class SoakRow(AppendedRow, frozen=True):
    """A row: of which rail, and what was read (its moment in seconds since 1970)."""

    rail: str
    at_s: float
    volt: float
    ripple_mv: float | None
    celsius: float | None
    source: str

    @property
    def sample(self) -> Sample:
        """What was read."""
        return Sample(self.at_s, self.volt, self.ripple_mv, self.celsius)


SOAK_STRIKES = Strikes("soak_strike", "row_id")
SOAK_ROWS = AppendOnly(
    "soak_row",
    SoakRow,
    looked_up={"rail": "(SELECT key FROM rail WHERE rail.id = rail_id)"},
    strikes=SOAK_STRIKES,
)


def insert(
    connection: sqlite3.Connection,
    case_id: int,
    sheet_id: int,
    log_id: int,
    rows: Sequence[tuple[str, Sample]],
    source: str,
) -> None:
    """Append rows by rail's key; raises NotFoundError for a rail the sheet has not."""
    ids = {key: sheets.rail_id(connection, sheet_id, key) for key in {key for key, _ in rows}}
    given = {
        key: {"case_id": case_id, "log_id": log_id, "rail_id": rail} for key, rail in ids.items()
    }
    SOAK_ROWS.insert_all(
        connection,
        [
            (SoakRow(key, s.at_s, s.volt, s.ripple_mv, s.celsius, source), given[key])
            for key, s in rows
        ],
    )
