"""Facets that few pages ask for: the log, the photos, the reports as issued."""

from __future__ import annotations

from hale_rail.case.file import CaseFile, facet
from hale_rail.store import log
from hale_rail.store.log import LogEntry
from hale_rail.store.photos import PHOTOS, Photo
from hale_rail.store.reports import ISSUED_REPORTS, IssuedReport


@facet
def entries(case: CaseFile) -> list[LogEntry]:
    """The case's log, oldest first."""
    return log.of_case(case.store.read(), case.case.id)


@facet
def case_photos(case: CaseFile) -> tuple[Photo, ...]:
    """Photos of the unit and its parts, oldest first."""
    return case.rows.all(PHOTOS)


@facet
def issued_reports(case: CaseFile) -> list[IssuedReport]:
    """Reports as they were issued, newest first."""
    return ISSUED_REPORTS.of_case(case.store.read(), case.case.id)[::-1]
