"""Facets that few pages ask for: the log, the photos, the reports as issued."""

from __future__ import annotations

from functools import partial

from hale_rail.case.file import CaseFile, facet
from hale_rail.store import log, photos, reports
from hale_rail.store.log import LogEntry
from hale_rail.store.photos import Photo
from hale_rail.store.reports import IssuedReport


@facet
def entries(case: CaseFile) -> list[LogEntry]:
    """The case's log, oldest first."""
    return log.of_case(case.store.read(), case.case.id)


@facet
def case_photos(case: CaseFile) -> list[Photo]:
    """Photos of the unit and its parts, oldest first."""
    rows, store = case.rows, case.store
    read = partial(photos.of_case, store.read(), rows.case.id)
    return case.keep("photos", rows.newest.but_readings, read)


@facet
def issued_reports(case: CaseFile) -> list[IssuedReport]:
    """Reports as they were issued, newest first."""
    return reports.of_case(case.store.read(), case.case.id)
