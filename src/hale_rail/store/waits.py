"""Cases that wait for parts: until which day, and for what."""

from __future__ import annotations

from hale_rail.store.append_only import AppendedRow, AppendOnly


class CaseWait(AppendedRow, frozen=True):
    """`until` a day, ISO 8601; "" where what was waited for arrived."""

    until: str
    what: str = ""


CASE_WAITS = AppendOnly("case_wait", CaseWait)
