"""Reads and writes the ratings of parts that are not capacitors: fuses, diodes, switches, kits."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any

from hale_rail.core.errors import InputError
from hale_rail.core.parts.kinds import fuse
from hale_rail.core.parts.markings import FUSE_SPEEDS
from hale_rail.core.parts.ratings import FIELDS, RECOVERY, Comparison, Ratings
from hale_rail.core.quantities import Unit, read, tidy
from hale_rail.core.recap.rated_parts import WARES, Ware
from hale_rail.formats.tables.fields import tolerance

#: columns of lists besides `value` and `voltage`, and the one that has several of them
RATED_COLUMNS = tuple(f.column for f in FIELDS.values() if f.column not in ("value", "voltage"))
RATINGS = "ratings"
#: kinds as lists also call them
_WARES = {
    **{ware.name.lower(): code for code, ware in WARES.items()},
    **dict.fromkeys(("ntc", "inrush limiter"), "thermistor"),
    **dict.fromkeys(("rectifier", "rectifier diode"), "diode"),
    **dict.fromkeys(("bridge rectifier", "rectifier bridge"), "bridge"),
    **dict.fromkeys(("mov", "vdr"), "varistor"),
    **dict.fromkeys(("transistor", "bjt"), "transistor"),
    **dict.fromkeys(("fet",), "mosfet"),
    **dict.fromkeys(("voltage regulator", "linear regulator"), "regulator"),
    **dict.fromkeys(("mains filter", "emi filter", "suppressor filter"), "filter"),
    **dict.fromkeys(("thyristor",), "scr"),
    **dict.fromkeys(("cell", "accumulator"), "battery"),
    **dict.fromkeys(("cord", "mains lead", "cable"), "lead"),
    **dict.fromkeys(("capacitor kit", "set"), "kit"),
}
_FUSE_SPEEDS = {
    **dict.fromkeys(("slow", "slow-blow", "slow blow", "time-lag", "time lag", "anti-surge"), "T"),
    **dict.fromkeys(("fast", "quick", "quick-acting", "fast-acting"), "F"),
    **dict.fromkeys(("medium",), "M"),
    **dict.fromkeys(("very fast", "super fast"), "FF"),
    **dict.fromkeys(("very slow",), "TT"),
}
_RECOVERY = {
    **{word: word for word in RECOVERY},
    **dict.fromkeys(("fast recovery", "fast-recovery"), "fast"),
    **dict.fromkeys(("ultra-fast", "ultra fast", "superfast"), "ultrafast"),
    **dict.fromkeys(("general", "general purpose", "slow", "normal"), "standard"),
}
_LONGEST = 40
#: a value written in volts, where a kind has none of its own
_IN_VOLTS = re.compile(r"[+-]?[0-9]+(?:[.,][0-9]+)? ?V", re.IGNORECASE)
_BREAKING = re.compile(r"([0-9]+(?:[.,][0-9]+)?) ?(k)?A?", re.IGNORECASE)


def ware_of(text: str) -> Ware | None:
    """The kind of part that a list's family column names; None for a capacitor's, or none."""
    word = tidy(text).lower()
    return WARES.get(word) or WARES.get(_WARES.get(word, ""))


def read_ratings(fields: Mapping[str, str], ware: Ware) -> Ratings:
    """A part's ratings by their columns; raises InputError naming the column.

    A `value` of a kind that has none is its volts where it is written in volts, else its type.
    """
    fields = _with_value(_spread(fields), ware)
    known: dict[str, Any] = {}
    for name, field in FIELDS.items():
        text = tidy(fields.get(field.column, ""))
        if not text:
            continue
        try:
            known[name] = _READ[name](text, ware)
        except InputError as error:
            raise InputError(f"{field.column}: {error}") from error
    return Ratings(**known)


def _spread(fields: Mapping[str, str]) -> Mapping[str, str]:
    """The fields with what is together in `ratings`: `amps 3 A; case TO-220`."""
    text = fields.get(RATINGS, "")
    if not text.strip():
        return fields
    spread = dict(fields)
    for entry in text.split(";"):
        name, _, value = entry.strip().partition(" ")
        if name and name not in RATED_COLUMNS:
            words = ", ".join(RATED_COLUMNS)
            raise InputError(f"ratings: “{entry.strip()[:30]}” begins with none of {words}")
        if value.strip():
            spread[name] = value.strip()
    return spread


def _with_value(fields: Mapping[str, str], ware: Ware) -> Mapping[str, str]:
    text = fields.get("value", "")
    if ware.code == fuse.KIND.code:
        return _of_fuse(fields)
    if ware.unit or not text.strip():
        return fields
    result = {**fields, "value": ""}
    column = "voltage" if _IN_VOLTS.fullmatch(tidy(text)) else "type"
    return result if result.get(column) else {**result, column: text}


def _of_fuse(fields: Mapping[str, str]) -> Mapping[str, str]:
    """A fuse's current from `amps`, and what else is printed with it: `T 1.6 A 250 V`."""
    text = fields.get("value", "") or fields.get("amps", "")
    printed = fuse.read_rating(text)
    if printed is None:
        return {**fields, "value": text, "amps": ""}
    volts = f"{printed.volt:g}" if printed.volt else ""
    return {
        **fields,
        "value": f"{printed.ampere:g}A",
        "amps": "",
        "speed": fields.get("speed", "") or printed.speed,
        "voltage": fields.get("voltage", "") or volts,
    }


def _number(unit: Unit | None, text: str) -> float:
    if unit is None:
        raise InputError("it has no value")
    measured = read(text, unit, allow_words=False)
    if measured.value == 0 or measured.is_span:
        raise InputError(f"“{text[:30]}” is not a rating")
    return measured.value


def _above(unit: Unit | None, text: str) -> float:
    above = _number(unit, text)
    if above < 0:
        raise InputError(f"“{text[:30]}” is below 0")
    return above


def _volts(text: str, ware: Ware) -> float:
    """Volts, with a sign where a kind's new part has the same ones."""
    is_signed = any(rule.name == "volt" and rule.how is Comparison.SAME for rule in ware.rules)
    return _number(Unit.VOLT, text) if is_signed else _above(Unit.VOLT, text)


def _breaking(text: str) -> float:
    """Amperes that a fuse may break: more than any current that is read."""
    match = _BREAKING.fullmatch(text)
    if match is None or not float(match[1].replace(",", ".")):
        raise InputError(f"“{text[:30]}” is not a breaking capacity: 35 A, or 1.5 kA")
    return float(match[1].replace(",", ".")) * (1000 if match[2] else 1)


def _speed(text: str, ware: Ware) -> str:
    word = text.lower()
    if ware.code == fuse.KIND.code:
        speed = _FUSE_SPEEDS.get(word, text.upper())
        if speed not in FUSE_SPEEDS:
            raise InputError(f"{', '.join(FUSE_SPEEDS)}, not “{text[:20]}”")
        return speed
    return _RECOVERY.get(word, word)


def _word(text: str, _: Ware) -> str:
    if len(text) > _LONGEST:
        raise InputError(f"at most {_LONGEST} characters")
    return text


_READ: Mapping[str, Callable[[str, Ware], Any]] = {
    "value": lambda text, ware: _above(ware.unit, text),
    "volt": _volts,
    "ampere": lambda text, _: _above(Unit.AMPERE, text),
    "watt": lambda text, _: _above(Unit.WATT, text),
    "tolerance": lambda text, _: max(tolerance(text)),
    "breaking_a": lambda text, _: _breaking(text),
    "ampere_hour": lambda text, _: _above(Unit.AMPERE, text.removesuffix("h")),
    "speed": _speed,
    "style": _word,
    "case": _word,
    "type_mark": _word,
}


def rating_cells(ratings: Ratings) -> dict[str, str]:
    """Ratings as columns have them, so that `read_ratings` reads them back."""
    rating_cells = {}
    for name, field in FIELDS.items():
        value = getattr(ratings, name)
        if value in (None, ""):
            continue
        if name == "tolerance":
            rating_cells[field.column] = f"{100 * value:.10g}%"
        else:
            rating_cells[field.column] = (
                value if isinstance(value, str) else f"{value:.10g}{field.suffix}"
            )
    return rating_cells


def ratings_cell(ratings: Ratings) -> str:
    """All but value and volts in one cell, as `ratings` has them."""
    cells = rating_cells(ratings)
    return "; ".join(f"{name} {cells[name]}" for name in RATED_COLUMNS if name in cells)
