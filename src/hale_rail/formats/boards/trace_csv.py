"""Reads and writes the readings of a short trace (the open formats' contract).

Columns (header required, any order): `kind,plus,minus,inject,return,amps,value,unit,resolution` and
optionally `wires,nulled`; kinds drop, ohms, warm, lifted.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, read, tidy
from hale_rail.core.shorts.board import Trouble
from hale_rail.core.shorts.board_model import Kind, TraceReading
from hale_rail.formats.tables.fields import Fields, read_table, table_text, yes_no

_NEEDED = ("kind", "plus", "value")
COLUMNS = (
    "kind", "plus", "minus", "inject", "return", "amps", "value", "unit", "resolution", "wires",
    "nulled",
)  # fmt: skip
_KINDS = {kind.value: kind for kind in Kind}
#: how a unit is written, what it measures, and how many of SI's it is
_SCALES = {
    "v": (Kind.DROP, 1.0), "mv": (Kind.DROP, 1e-3), "µv": (Kind.DROP, 1e-6),
    "uv": (Kind.DROP, 1e-6), "ohm": (Kind.OHMS, 1.0), "ohms": (Kind.OHMS, 1.0),
    "ω": (Kind.OHMS, 1.0), "mohm": (Kind.OHMS, 1e-3), "mω": (Kind.OHMS, 1e-3),
    "milliohm": (Kind.OHMS, 1e-3), "°c": (Kind.WARM, 1.0), "c": (Kind.WARM, 1.0),
    "k": (Kind.WARM, 1.0), "rank": (Kind.WARM, 1.0),
}  # fmt: skip
_UNITS = {Kind.DROP: Unit.VOLT, Kind.OHMS: Unit.OHM, Kind.WARM: Unit.CELSIUS}
_WORDS = {Kind.DROP: "V", Kind.OHMS: "ohm", Kind.WARM: "°C or rank"}
#: resolution of a usual meter where the file does not say, on two wires and on four
USUAL_RESOLUTION = {Kind.DROP: 1e-4, Kind.OHMS: 0.1, Kind.WARM: 1.0}
_FOUR_WIRES = 1e-3


def read_trace(text: str) -> tuple[list[TraceReading], list[Trouble]]:
    """The readings in the order of the file, and the rows that cannot be used.

    Raises InputError when the heading cannot be used.
    """
    rows, wrong = read_table(text, _NEEDED, _reading)
    return rows, [Trouble(why, line=line) for line, why in wrong]


def _reading(line: int, fields: Fields) -> TraceReading:
    kind = _KINDS.get(fields["kind"].lower())
    if kind is None:
        raise InputError(f"kind “{fields['kind']}” is not one of {', '.join(_KINDS)}")
    plus = fields["plus"]
    if not plus:
        raise InputError("plus is needed: a pad, or the part's id")
    if kind is Kind.LIFTED:
        return TraceReading(kind, plus, value=_gone(fields["value"]), line=line)
    scale, is_rank = _scale(kind, fields.get("unit", ""))
    wires = _wires(fields.get("wires", ""))
    usual = _FOUR_WIRES if kind is Kind.OHMS and wires == 4 else USUAL_RESOLUTION[kind]
    resolution = _figure(fields, "resolution", kind, scale, usual)
    if resolution < 0:
        raise InputError("resolution is 0 and up")
    return TraceReading(
        kind,
        plus,
        fields.get("minus", ""),
        fields.get("inject", ""),
        fields.get("return", ""),
        _amps(fields.get("amps", ""), kind),
        _figure(fields, "value", kind, scale, None),
        resolution,
        wires,
        yes_no(fields, "nulled"),
        is_rank,
        line,
    )


def _gone(text: str) -> float:
    words = {"gone": 1.0, "remains": 0.0}
    if text.lower() not in words:
        raise InputError(f"of a lifted part the value is remains or gone, not “{text}”")
    return words[text.lower()]


def _scale(kind: Kind, unit: str) -> tuple[float, bool]:
    """How many of SI's the unit is, and whether it is a rank."""
    if not unit:
        return 1.0, False
    of, scale = _SCALES.get(tidy(unit).lower(), (None, 1.0))
    if of is not kind:
        raise InputError(f"{kind.value} is read in {_WORDS[kind]}, not “{unit}”")
    return scale, tidy(unit).lower() == "rank"


def _wires(text: str) -> int:
    if text not in ("", "2", "4"):
        raise InputError(f"wires is 2 or 4, not “{text}”")
    return int(text or 2)


def _amps(text: str, kind: Kind) -> float:
    if not text:
        if kind is Kind.DROP:
            raise InputError("amps is needed: a drop says nothing without its current")
        return 1.0
    amps = _number(text, Unit.AMPERE, "amps")
    if amps <= 0:
        raise InputError("amps must be above 0; turn inject and return for the other way")
    return amps


def _figure(fields: Fields, name: str, kind: Kind, scale: float, usual: float | None) -> float:
    text = fields.get(name, "")
    if not text and usual is not None:
        return usual
    if not text:
        raise InputError(f"{name} is missing")
    return scale * _number(text, _UNITS[kind], name)


def _number(text: str, unit: Unit, name: str) -> float:
    """A number as computers write it, or as people do; raises InputError."""
    try:
        number = float(text) if text.isascii() and "_" not in text else math.nan
    except ValueError:
        number = math.nan
    if math.isfinite(number):
        return number
    try:
        return read(text, unit, allow_words=False).value
    except InputError as error:
        raise InputError(f"{name}: {error}") from error


def trace_text(readings: Iterable[TraceReading]) -> str:
    """Readings as CSV, as `read_trace` reads them."""
    return table_text(COLUMNS, [_row(reading) for reading in readings])


def _row(r: TraceReading) -> tuple[str, ...]:
    if r.kind is Kind.LIFTED:
        row = "gone" if r.value > 0 else "remains"
        return (r.kind.value, r.plus, "", "", "", "", row, "", "", "", "")
    is_ohms = r.kind is Kind.OHMS
    unit = "rank" if r.is_rank else {Kind.DROP: "V", Kind.OHMS: "ohm"}.get(r.kind, "°C")
    return (
        r.kind.value, r.plus, r.minus, r.inject, r.drain,
        f"{r.amps:g}" if r.kind is Kind.DROP else "", repr(r.value), unit, f"{r.resolution:g}",
        str(r.wires) if is_ohms else "", "yes" if r.is_nulled else "",
    )  # fmt: skip
