"""The soak: how long, its rows typed, pasted or from a file, and rows put aside."""

from __future__ import annotations

from collections.abc import Sequence

from hale_rail.actions.change import Change, changing
from hale_rail.core.errors import at_field
from hale_rail.core.soak.soak import EVENTS, MOST_HOURS, Sample
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.readings.soak_csv import LogRow, checked_moment, moment_text
from hale_rail.store import soaks
from hale_rail.store.database import Store
from hale_rail.store.machine_notes import MACHINE_NOTES, MachineNote
from hale_rail.store.soaks import SOAK_ROWS, SOAK_STRIKES

_MOST_ROWS = 200_000
_MOST_V = 1000.0
_MOST_EVENTS = 200
_WHY = "mistyped or misread"


def plan_soak(
    store: Store,
    number: str,
    hours: float,
    warm_up_s: float,
    *,
    anew: bool = False,
    at: str | None = None,
) -> None:
    """Say how long it is to run; `anew`: rows so far belong to an earlier soak."""
    if not 0 < hours <= MOST_HOURS:
        raise InputError(f"Hours: above 0, at most {MOST_HOURS:g}.", field="hours")
    if not 0 <= warm_up_s < hours * 3600:
        raise InputError("The warm-up is shorter than the soak.", field="warm_up")
    with changing(store, number, at) as change:
        rows = change.file.rows
        note = rows.newest(MACHINE_NOTES).get(("soak", ""))
        since = (note.body or {}).get("since", 0) if note else 0
        if anew:
            since = max((row.id for row in rows.all(SOAK_ROWS)), default=0)
        words = f"Soak of {hours:g} h, warm-up {warm_up_s / 60:g} min"
        log_id = change.log("edited", f"{words}{', started over' if anew else ''}")
        body = {"hours": hours, "warm_up_s": warm_up_s, "since": since}
        change.append(MACHINE_NOTES, log_id, MachineNote("soak", "", body))


def add_rows(
    store: Store,
    number: str,
    rows: Sequence[tuple[str, Sample]],
    source: str = "typed",
    at: str | None = None,
    events: Sequence[tuple[float, str]] = (),
) -> int:
    """Append rows by rail's key, each with its moment in seconds since 1970; returns how many.

    `events`: moments, and what the machine did there. What stands already, the same rail, moment
    and volts, is not added again. Raises InputError for none, NotFoundError for a rail that the
    unit has not.
    """
    if not rows and not events:
        raise InputError("Nothing was read: type the volts of a rail.", field="rows")
    if len(events) > _MOST_EVENTS:
        raise InputError(f"At most {_MOST_EVENTS} events at a time.", field="rows")
    if any(abs(sample.volt) > _MOST_V for _, sample in rows):
        raise InputError("More than 1000 V on a rail? Check the range.", field="rows")
    for at_s in (*(sample.at_s for _, sample in rows), *(moment for moment, _ in events)):
        _checked_moment(at_s)
    with changing(store, number, at) as change:
        known = {(r.rail, r.sample.at_s, r.sample.volt) for r in change.file.rows.active(SOAK_ROWS)}
        new = [(k, s) for k, s in rows if (k, s.at_s, s.volt) not in known]
        missing = [key for key, _ in new if change.file.sheet.rail(key) is None]
        if missing:
            raise NotFoundError(f"There is no rail {missing[0]} on this unit.")
        if len(change.file.rows.all(SOAK_ROWS)) + len(new) > _MOST_ROWS:
            raise InputError(f"At most {_MOST_ROWS} rows a case.", field="rows")
        if new:
            text = f"Soak: {_words(new)}"
            log_id = change.log("reading", text)
            sheet_id = change.file.case.sheet_id
            soaks.insert(change.connection, change.case_id, sheet_id, log_id, new, source)
        for at_s, event in events:
            _say_event(change, at_s, event)
    return len(new)


def _say_event(change: Change, at_s: float, event: str) -> None:
    key, body = f"{at_s:.0f} {event}", {"at_s": at_s, "event": event}
    known = change.file.rows.newest(MACHINE_NOTES).get(("soak", key))
    if known is None or known.body is None:
        words = f"Soak, {moment_text(at_s)}: {EVENTS[event]}"
        log_id = change.log("edited", words)
        change.append(MACHINE_NOTES, log_id, MachineNote("soak", key, body))


def strike_event(store: Store, number: str, key: str, at: str | None = None) -> None:
    """Take back what the machine did; raises NotFoundError for what does not stand."""
    with changing(store, number, at) as change:
        known = change.file.rows.newest(MACHINE_NOTES).get(("soak", key)) if key else None
        if known is None or known.body is None:
            raise NotFoundError("That event is no longer there.")
        log_id = change.log("edited", f"Soak: {known.body['event']} taken back")
        change.append(MACHINE_NOTES, log_id, MachineNote("soak", key, None))


def _checked_moment(at_s: float) -> None:
    """Raise InputError, at the field, for a row of a moment that no soak has."""
    with at_field("rows"):
        checked_moment(at_s)


def _words(rows: Sequence[tuple[str, Sample]]) -> str:
    if len(rows) <= 6:
        return ", ".join(f"{key} {sample.volt:g} V" for key, sample in rows)
    return f"{len(rows)} rows of {', '.join(dict.fromkeys(key for key, _ in rows))}"


def add_log(
    store: Store,
    number: str,
    rows: Sequence[LogRow],
    rail: str,
    begins_s: float,
    source: str = "imported",
    at: str | None = None,
) -> int:
    """Append the rows of a log; `rail` is that of a log without the column, `begins_s` the moment
    from which a log in seconds counts."""
    read = [row for row in rows if row.sample.has_volts]
    keys = {row.rail for row in read}
    if "" in keys and not rail:
        raise InputError("The log has no column rail: choose the rail.", field="rail")
    shift = 0.0 if rows[0].is_clock else begins_s - min(row.sample.at_s for row in rows)
    told = [
        (row.rail or rail,
         Sample(row.sample.at_s + shift, row.sample.volt, row.sample.ripple_mv, row.sample.celsius))
        for row in read
    ]  # fmt: skip
    events = [(row.sample.at_s + shift, row.sample.event) for row in rows if row.sample.event]
    return add_rows(store, number, told, source, at, events)


def strike_row(
    store: Store, number: str, row_id: int, reason: str = "", at: str | None = None
) -> None:
    """Put a row aside; it stays in the table and the log."""
    why = reason.strip()[:200] or _WHY
    with changing(store, number, at) as change:
        row = next((r for r in change.file.rows.all(SOAK_ROWS) if r.id == row_id), None)
        if row is None:
            raise NotFoundError("There is no such row in this case.")
        log_id = change.log("strike", f"Soak, {row.rail} {row.sample.volt:g} V: {why}")
        change.strike(SOAK_STRIKES, log_id, row_id, why)
