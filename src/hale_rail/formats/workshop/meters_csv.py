"""Reads and writes the workshop's meters, a CSV with a heading.

`name,cap_hz,esr_hz,cap_percent,esr_percent,esr_ohm,lead_ohm,min_cap`: all but the name may be empty
and are then a usual LCR/ESR meter's. `esr_ohm` is the fixed part of the ESR accuracy, `lead_ohm`
what the leads add to every ESR reading, `min_cap` where its ESR range starts.
"""

from __future__ import annotations

from collections.abc import Callable

from hale_rail.core.errors import InputError
from hale_rail.core.parts.banks import Meter
from hale_rail.core.quantities import Unit, read
from hale_rail.formats.tables.fields import Fields, in_file, read_list

COLUMNS = (
    "name",
    "cap_hz",
    "esr_hz",
    "cap_percent",
    "esr_percent",
    "esr_ohm",
    "lead_ohm",
    "min_cap",
)
#: the columns in words
HEADINGS = (
    "name", "C at Hz", "ESR at Hz", "C %", "ESR %", "ESR + Ω", "leads Ω", "least C",
)  # fmt: skip
_USUAL = Meter()
_MOST = 40


def read_meters(text: str, named: Callable[[int], str] = in_file) -> list[Meter]:
    """Every meter of the list; raises InputError with the line that cannot be used."""
    seen: set[str] = set()

    def parse(_: int, fields: Fields) -> Meter:
        meter = _meter(fields)
        if meter.name in seen:
            raise InputError(f"{meter.name} is listed twice")
        seen.add(meter.name)
        return meter

    return read_list(text, "Meters", ("name",), parse, named)


def cells(meter: Meter) -> tuple[str, ...]:
    """A meter as a row of the list."""
    return (
        meter.name,
        f"{meter.cap_hz:.12g}",
        f"{meter.esr_hz:.12g}",
        f"{100 * meter.cap_share:.12g}",
        f"{100 * meter.esr_share:.12g}",
        f"{meter.esr_ohm:.12g}",
        f"{meter.lead_ohm:.12g}",
        f"{meter.esr_min_farad * 1e6:.12g}u",
    )


def _meter(fields: Fields) -> Meter:
    name = fields["name"]
    if not name or len(name) > _MOST:
        raise InputError(f"a meter needs a name of at most {_MOST} characters")
    ohm, farad = Unit.OHM, Unit.FARAD
    return Meter(
        cap_hz=_number(fields, "cap_hz", _USUAL.cap_hz, 1.0, 1e6),
        esr_hz=_number(fields, "esr_hz", _USUAL.esr_hz, 1.0, 1e7),
        cap_share=_number(fields, "cap_percent", 100 * _USUAL.cap_share, 0.0, 50.0) / 100,
        esr_share=_number(fields, "esr_percent", 100 * _USUAL.esr_share, 0.0, 50.0) / 100,
        esr_ohm=_quantity(fields, "esr_ohm", ohm, _USUAL.esr_ohm),
        name=name,
        lead_ohm=_quantity(fields, "lead_ohm", ohm, 0.0),
        esr_min_farad=_quantity(fields, "min_cap", farad, _USUAL.esr_min_farad),
    )


def _words(key: str) -> str:
    """A column as one says it, and as files have it."""
    return f"{HEADINGS[COLUMNS.index(key)]} ({key})"


def _number(fields: Fields, key: str, usual: float, low: float, high: float) -> float:
    text = fields.get(key, "")
    if not text:
        return usual
    try:
        value = float(text.replace(",", "."))
    except ValueError as error:
        raise InputError(f"{_words(key)}: “{text}” is not a number") from error
    if not low <= value <= high:
        raise InputError(f"{_words(key)} lies between {low:g} and {high:g}")
    return value


def _quantity(fields: Fields, key: str, unit: Unit, usual: float) -> float:
    text = fields.get(key, "")
    return read(text, unit, allow_words=False).value if text else usual
