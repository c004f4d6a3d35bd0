"""Saying what eye, nose and fingertip found at a part."""

from __future__ import annotations

from collections.abc import Sequence

from hale_rail.actions.change import changing
from hale_rail.core.parts.looks import BY_CODE, SOUND
from hale_rail.core.parts.part import Part
from hale_rail.errors import InputError, NotFoundError
from hale_rail.store import looks
from hale_rail.store.database import Store
from hale_rail.store.looks import LOOKS


def look(
    store: Store, number: str, part_id: int, codes: Sequence[str], at: str | None = None
) -> None:
    """Record the findings of a look at a part; none takes the last look back.

    Raises NotFoundError for no such part, InputError for a code that its kind cannot have.
    """
    with changing(store, number, at) as change:
        part = change.file.sheet.part(part_id)
        if part is None:
            raise NotFoundError("There is no such part on this unit.")
        wanted = _checked(part, codes)
        words = ", ".join(BY_CODE[code].words for code in wanted) or "look taken back"
        log_id = change.log("look", f"{part.ref}: {words}")
        looks.insert(change.connection, change.case_id, log_id, part_id, wanted)


def rest_sound(store: Store, number: str, at: str | None = None) -> int:
    """Say of every part that was not looked at that it looks sound; returns how many."""
    with changing(store, number, at) as change:
        seen = {i for i, look in change.file.rows.newest(LOOKS).items() if look.codes}
        rest = [part for part in change.file.sheet.in_power_order if part.id not in seen]
        if not rest:
            raise InputError("Every part was looked at already.")
        for part in rest:
            log_id = change.log("look", f"{part.ref}: {BY_CODE[SOUND].words}")
            looks.insert(change.connection, change.case_id, log_id, part.id, (SOUND,))
    return len(rest)


def _checked(part: Part, codes: Sequence[str]) -> tuple[str, ...]:
    wanted = tuple(dict.fromkeys(code.strip().lower() for code in codes if code.strip()))
    known = {finding.code: finding.words for finding in part.findings}
    if any(code not in known for code in wanted):
        raise InputError(f"Choose what you see at {part.ref}: {', '.join(known.values())}.")
    if SOUND in wanted and len(wanted) > 1:
        raise InputError(f"{part.ref} looks sound, or it does not: take one of them back.")
    return wanted
