"""Whether a case waits for parts."""

from __future__ import annotations

from hale_rail.case.file import CaseFile, facet
from hale_rail.store.waits import CASE_WAITS, CaseWait


@facet
def waits_for(case: CaseFile) -> CaseWait | None:
    """What a case waits for and until when; None for one that can be worked on."""
    last = case.rows.last(CASE_WAITS)
    return last if last and last.until else None
