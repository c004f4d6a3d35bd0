"""The headings that meters and loggers write over a log, as the columns of a soak."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Mapping, Sequence
from datetime import datetime

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import tidy
from hale_rail.formats.tables.fields import dialect_of
from hale_rail.formats.tables.heading_units import bare_heading

_NAMES = {
    **dict.fromkeys(
        ("at", "time", "date time", "date/time", "datetime", "timestamp", "date & time", "moment",
         "date and time", "seconds", "elapsed", "elapsed time", "t", "clock", "time stamp"), "at"
    ),
    **dict.fromkeys(
        ("volts", "volt", "voltage", "v", "vdc", "value", "reading", "v dc", "dc volts", "dcv",
         "measurement", "ch1", "channel 1", "output"), "volts"
    ),
    **dict.fromkeys(("ripple", "ripple_mv", "ripple mv", "ripple p-p", "noise"), "ripple_mv"),
    **dict.fromkeys(("temp", "temp_c", "temperature", "temp c", "°c", "celsius"), "temp_c"),
    **dict.fromkeys(("rail", "supply", "line"), "rail"),
    **dict.fromkeys(("event", "events", "what happened"), "event"),
    "date": "date",
}  # fmt: skip
#: days as people write them where they are not ISO 8601; with slashes only where one order is left
_DOTTED = ("%d.%m.%Y", "%d.%m.%y")
_SLASHED = ("%d/%m/%Y", "%m/%d/%Y", "%d/%m/%y", "%m/%d/%y")
_IN_HEADING = re.compile(r"[(\[_ ](m?v)[)\]]?$", re.IGNORECASE)
_TIMES = ("", " %H:%M", " %H:%M:%S", " %H:%M:%S.%f", " %I:%M:%S %p", " %I:%M %p")


class Headings(Struct, frozen=True):
    """A log with its columns called as here, and the unit that a heading gives to its cells."""

    text: str
    units: Mapping[str, str]


def known_headings(text: str) -> Headings:
    """A log with its first line's headings as the columns are called here.

    A heading that is not known stays as it is; two columns, a date and a time, are both kept.
    """
    plain = text.lstrip("\ufeff\r\n ")
    first, newline, rest = plain.partition("\n")
    cells = next(csv.reader([first], dialect=dialect_of(plain)), [])
    names = [_NAMES.get(bare_heading(cell), cell) for cell in cells]
    if "date" in names and "at" not in names:
        names[names.index("date")] = "at"
    units = {name: _unit(cell) for name, cell in zip(names, cells, strict=True) if _unit(cell)}
    out = io.StringIO()
    csv.writer(out, dialect=dialect_of(plain), lineterminator="").writerow(names)
    return Headings(f"{out.getvalue()}{newline}{rest}", units)


def _unit(cell: str) -> str:
    """Millivolts or volts where a heading says so."""
    match = _IN_HEADING.search(tidy(cell))
    return {"mv": "mV", "v": "V"}[match[1].lower()] if match else ""


def iso_moment(text: str) -> str:
    """A moment that is written another way, as ISO 8601; any other text as it is.

    Raises InputError for a day whose month and day can be taken for one another.
    """
    clean = tidy(text).replace(",", " ").replace("  ", " ")
    ways = _DOTTED if "." in clean.split(" ")[0] else _SLASHED if "/" in clean else ()
    found = {moment for way in ways for moment in _read(clean, way)}
    if len(found) > 1:
        raise InputError(f"“{text[:30]}”: which is the month? Write 2026-05-01 10:00.")
    return found.pop().isoformat(sep=" ") if found else text


def _read(text: str, way: str) -> Sequence[datetime]:
    for time in _TIMES:
        try:
            return [datetime.strptime(text, way + time)]  # noqa: DTZ007 - local time, as the log's
        except ValueError:
            continue
    return []
