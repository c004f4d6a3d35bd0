"""Reports as they were issued."""

from __future__ import annotations

from hale_rail.store.append_only import AppendedRow, AppendOnly


class IssuedReport(AppendedRow, frozen=True):
    """A report's content as JSON; it was issued `at`."""

    body: str


ISSUED_REPORTS = AppendOnly("issued_report", IssuedReport)
