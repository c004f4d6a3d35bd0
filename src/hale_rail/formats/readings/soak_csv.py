"""Reads and writes a soak's log: at, volts and where known ripple_mv, temp_c, rail."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Mapping
from datetime import UTC, datetime, tzinfo
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, has_odd_figure, plain_number, read, tidy
from hale_rail.core.soak.soak import EVENTS, Sample, Soak
from hale_rail.formats.readings.soak_headings import iso_moment, known_headings
from hale_rail.formats.tables.fields import Fields, read_list, table_text

COLUMNS = ("at", "volts", "ripple_mv", "temp_c", "rail", "event")
_MOST_ROWS = 1_000_000
#: a row is of this time, in seconds since 1970: what lies outside is not a moment of a soak
FIRST_S, LAST_S = 0.0, datetime(2200, 1, 1, tzinfo=UTC).timestamp()
_TIME_SPAN = "a moment from 1970 to 2200"


class LogRow(Struct, frozen=True):
    """One row of a log: its moment in seconds (of the clock where `is_clock`, else from any
    beginning), what was read, and the rail's key, "" where the log has one rail."""

    sample: Sample
    rail: str
    is_clock: bool


def read_log(text: str) -> list[LogRow]:
    """The rows of a log; raises InputError with the first line that cannot be, or none at all.

    Moments without a zone are the workshop's local time. All of a log have the offset of its first
    one, so that their differences are right where the clocks are changed meanwhile.
    """
    zone: list[tzinfo] = []
    known = known_headings(text)

    def row(_: int, fields: Fields) -> LogRow:
        return _row(_as_headed(fields, known.units), zone)

    rows = read_list(known.text, "The log", COLUMNS[:2], row)
    if not rows:
        raise InputError("The log has no row below its heading.")
    if len(rows) > _MOST_ROWS:
        raise InputError(f"At most {_MOST_ROWS} rows.")
    if len({row.is_clock for row in rows}) > 1:
        raise InputError("The column at has seconds and moments mixed: one or the other.")
    return rows


def _as_headed(fields: Fields, units: Mapping[str, str]) -> Fields:
    """A row with its date before its time, and the unit that a heading gives behind each figure."""
    at = " ".join(text for text in (fields.get("date", ""), fields["at"]) if text)
    headed = {**fields, "at": iso_moment(at)}
    for name in ("volts", "ripple_mv"):
        cell = headed.get(name, "")
        if cell and name in units and not cell[-1].isalpha():
            headed[name] = f"{cell}{units[name]}"
    return headed


def _row(fields: Fields, zone: list[tzinfo]) -> LogRow:
    at_s, is_clock = read_moment(fields["at"], zone)
    event = read_event(fields.get("event", ""))
    has_volts = bool(fields["volts"]) or not event
    volt = read(fields["volts"], Unit.VOLT, allow_words=False).value if has_volts else math.nan
    heat = fields.get("temp_c", "")
    celsius = read(heat, Unit.CELSIUS, allow_words=False).value if heat else None
    sample = Sample(at_s, volt, read_ripple_mv(fields.get("ripple_mv", "")), celsius, event)
    return LogRow(sample, fields.get("rail", ""), is_clock)


#: events as people write them
_EVENT_WORDS = {
    **dict.fromkeys(("hang", "hangs", "machine hung", "frozen"), "hung"),
    **dict.fromkeys(("resets", "restarted"), "reset"),
    **dict.fromkeys(("passed", "pass"), "test-passed"),
}


def read_event(text: str) -> str:
    """What the machine did, by its code; "" for nothing. Raises InputError."""
    word = " ".join(text.lower().split())
    word = re.sub(r"\s*(?:x|×)?\s*[0-9]+\s*(?:x|×|times)?$", "", word)
    event = _EVENT_WORDS.get(word, word.replace(" ", "-"))
    if event and event not in EVENTS:
        raise InputError(f"event “{text[:30]}” is not one of {', '.join(EVENTS)}")
    return event


def read_ripple_mv(text: str) -> float | None:
    """Ripple in mV, None for ""; with a unit it is taken as written. Raises InputError."""
    if not text.strip():
        return None
    try:
        value = plain_number(text)
    except InputError:
        value = read(text, Unit.VOLT, allow_words=False).value * 1e3
    if not 0 <= value <= 1e6:
        raise InputError(f"ripple_mv is 0 or more, not “{text}”")
    return value


def read_hours(text: str) -> float:
    """Hours as a plain number, or a time with its unit; raises InputError."""
    try:
        return plain_number(text)
    except InputError:
        return read(text, Unit.SECOND, allow_words=False).value / 3600


def read_local(text: str) -> float:
    """A moment of the bench's own clock in seconds since 1970, now for ""; raises InputError."""
    if not text.strip():
        return datetime.now(UTC).timestamp()
    try:
        return checked_moment(_seconds(datetime.fromisoformat(_tidied(text)), []))
    except ValueError as error:
        raise InputError("Write a moment such as 2026-05-01 10:30, or nothing for now.") from error


def read_moment(text: str, zone: list[tzinfo] | None = None) -> tuple[float, bool]:
    """Seconds of a moment, and whether it is one of the clock; raises InputError.

    ISO 8601 without a zone is local time. `zone` holds the offset of the first such moment, once
    there was one, and those that follow have it too.
    """
    try:
        seconds = plain_number(text)
    except InputError:
        return _clock(text, [] if zone is None else zone), True
    if not abs(seconds) <= LAST_S:
        raise InputError(f"at “{text[:30]}” is not a time in seconds")
    return seconds, False


def checked_moment(at_s: float) -> float:
    """A moment in seconds since 1970; raises InputError for one that no soak has."""
    if not FIRST_S <= at_s <= LAST_S:
        raise InputError(f"A row is of {_TIME_SPAN}.")
    return at_s


def _clock(text: str, zone: list[tzinfo]) -> float:
    try:
        moment = datetime.fromisoformat(_tidied(text))
    except ValueError as error:
        raise InputError(
            f"at “{text[:30]}” is neither seconds nor a moment such as 2026-05-01T10:00"
        ) from error
    at_s = _seconds(moment, zone)
    if not FIRST_S <= at_s <= LAST_S:
        raise InputError(f"at “{text[:30]}” is not {_TIME_SPAN}")
    return at_s


def _tidied(text: str) -> str:
    return "" if has_odd_figure(text) else tidy(text)


def _seconds(moment: datetime, zone: list[tzinfo]) -> float:
    """Seconds since 1970, infinite for a moment that no clock here can show."""
    if moment.tzinfo is None and zone:
        moment = moment.replace(tzinfo=zone[0])
    try:
        if moment.tzinfo is None:
            moment = moment.astimezone()
            zone.extend([moment.tzinfo] if moment.tzinfo else [])
        return moment.timestamp()
    except (OverflowError, ValueError, OSError):
        return math.inf


def moment_text(at_s: float) -> str:
    """A moment in seconds since 1970 as ISO 8601, UTC; the seconds where no calendar has it."""
    try:
        return datetime.fromtimestamp(at_s, UTC).isoformat(timespec="seconds")
    except (OverflowError, ValueError, OSError):
        return f"{at_s:.0f}"


def of_rail(rows: Iterable[LogRow], key: str) -> list[Sample]:
    """The rows of one rail; "" for the only one. Raises InputError naming the rails there are.

    What the machine did is of every rail: its volts count for their own rail alone.
    """
    log_rows = list(rows)
    keys = list(dict.fromkeys(row.rail for row in log_rows if row.rail or not row.sample.event))
    if not key and len(keys) > 1:
        raise InputError(f"The log has several rails; choose one of {', '.join(keys)}.")
    if key and keys != [""]:
        same = [k for k in keys if _folded(k) == _folded(key)]
        if not same:
            raise InputError(f"The log has no rail {key}, but {', '.join(keys)}.")
        return [s for row in log_rows if (s := _seen_from(row, is_own=row.rail in same))]
    return [row.sample for row in log_rows]


def _seen_from(row: LogRow, *, is_own: bool) -> Sample | None:
    """A row as a rail has it: its own whole, of another's what the machine did, or None."""
    if is_own:
        return row.sample
    return replace(row.sample, volt=math.nan) if row.sample.event else None


def _folded(key: str) -> str:
    return tidy(key).replace(" ", "").casefold()


def log_csv(rows: Iterable[tuple[str, str, Sample]]) -> str:
    """A log as CSV by (moment, rail's key, what was read)."""
    return table_text(COLUMNS, [
        (
            at,
            f"{s.volt:.10g}" if s.has_volts else "",
            _plain(s.ripple_mv),
            _plain(s.celsius),
            rail,
            s.event,
        )
        for at, rail, s in rows
    ])  # fmt: skip


def _plain(value: float | None) -> str:
    return "" if value is None else f"{value:.10g}"


def soak_json(soak: Soak) -> dict[str, Any]:
    """The judgement as the command prints it."""
    line = soak.trend
    return {
        "hours": soak.hours,
        "samples": soak.samples,
        "gaps": [{"from_h": begin, "to_h": end} for begin, end in soak.gaps],
        "mean_v": soak.mean_v,
        "min_v": soak.min_v,
        "max_v": soak.max_v,
        "trend": {"v_per_hour": line.v_per_hour, "low": line.low, "high": line.high}
        if line
        else None,
        "hours_to_limit": soak.hours_to_limit,
        "verdict": soak.verdict.value,
        "reasons": list(soak.reasons),
    }
