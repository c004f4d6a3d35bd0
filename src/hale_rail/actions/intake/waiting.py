"""A case that waits for parts, until a day; and that they came."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from hale_rail.actions.change import changing
from hale_rail.case.waits import waits_for
from hale_rail.errors import InputError
from hale_rail.store.database import Store
from hale_rail.store.waits import CASE_WAITS, CaseWait

_LONGEST = 80


def wait(
    store: Store, numbers: Sequence[str], until: str, what: str = "", at: str | None = None
) -> None:
    """Have cases wait until a day, ISO 8601; raises InputError naming the field."""
    day = _day(until)
    words = " ".join(what.split())
    if len(words) > _LONGEST:
        raise InputError(f"At most {_LONGEST} characters.", field="what")
    for number in numbers:
        with changing(store, number, at) as change:
            log_id = change.log("edited", f"Waits for {words or 'parts'} until {day}")
            change.append(CASE_WAITS, log_id, CaseWait(day, words))


def _day(text: str) -> str:
    try:
        return date.fromisoformat(text.strip()).isoformat()
    except ValueError as error:
        raise InputError(
            "The day on which the parts are due, like 2027-01-15.", field="until"
        ) from error


def arrived(store: Store, number: str) -> None:
    """End a case's wait; raises InputError where it does not wait."""
    with changing(store, number) as change:
        waiting = waits_for(change.file)
        if waiting is None:
            raise InputError("This case does not wait for parts.")
        log_id = change.log("edited", f"Arrived: {waiting.what or 'parts'}")
        change.append(CASE_WAITS, log_id, CaseWait(""))
