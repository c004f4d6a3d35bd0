"""Reads the fields by which lists describe a capacitor: family, value, class, volts, size."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import TypeVar

from hale_rail.core.errors import InputError
from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.quantities import Unit, plain_number, rated_volts, read, tidy
from hale_rail.core.recap.needs import CLASSES, MOUNTS, Build, Mount
from hale_rail.core.recap.rated_parts import WARES, AnyBuild, RatedBuild
from hale_rail.formats.units.marked_values import marked_farad
from hale_rail.formats.units.rated_fields import read_ratings, ware_of

#: a class of which only the letter is known is taken at its usual number
_BARE_CLASSES = {"X": "X2", "Y": "Y2"}
_GRADES = {
    **dict.fromkeys(("general", "standard"), Grade.GENERAL),
    **dict.fromkeys(("low", "low-impedance", "low impedance", "low-z", "low-esr"), Grade.LOW),
}
#: families as lists also call them
_FAMILIES = {
    **{family.value: family for family in Family},
    **dict.fromkeys(
        (
            "electrolytic",
            "aluminium electrolytic",
            "aluminum",
            "aluminum electrolytic",
            "elko",
            "elco",
            "alu",
            "al",
            "aluminium can",
            "elec",
        ),
        Family.ALUMINIUM,
    ),
    **dict.fromkeys(
        (
            "polyester",
            "mkt",
            "mks",
            "mkp",
            "fkp",
            "pet",
            "pp",
            "polypropylene",
            "polycarbonate",
            "mkc",
            "metallised film",
            "metallized film",
            "foil",
        ),
        Family.FILM,
    ),
    **dict.fromkeys(
        (
            "x7r",
            "x5r",
            "x8r",
            "z5u",
            "y5v",
            "c0g",
            "cog",
            "np0",
            "npo",
            "mlcc",
            "cer",
            "disc",
            "ceramic disc",
        ),
        Family.CERAMIC,
    ),
    **dict.fromkeys(("tant", "tantal", "ta"), Family.TANTALUM),
    **dict.fromkeys(("bipolar", "non-polar", "bipolar aluminium"), Family.ALUMINIUM_BIPOLAR),
    "solid tantalum": Family.TANTALUM,
    **dict.fromkeys(("film suppressor", "safety film"), Family.SUPPRESSION_FILM),
    **dict.fromkeys(
        ("paper suppressor", "safety paper", "paper", "metallised paper", "metallized paper", "mp"),
        Family.SUPPRESSION_PAPER,
    ),
}
_MOUNTS = {
    **MOUNTS,
    **dict.fromkeys(("snap in", "snapin"), Mount.SNAP_IN),
    **dict.fromkeys(("through hole", "through-hole", "tht", "th"), None),
    **dict.fromkeys(("smd", "smt", "surface mount", "surface-mount"), Mount.SURFACE),
}
_SPAN_C = re.compile(r"-\d+ ?°?C? ?(?:\.\.+|…|to|/|-) ?\+?(\d+)")
_MOST_V, _MOST_MM, _MOST_C = 30_000.0, 1000.0, 400.0
#: texts of a list that are remembered as they were read
_REMEMBERED = 4096


def read_family(text: str) -> Family:
    """A family as lists call it; raises InputError."""
    family = _FAMILIES.get(tidy(text).lower())
    if family is None:
        known = ", ".join((*(f.value for f in Family), *WARES))
        raise InputError(f"family “{text[:30]}” is not one of {known}")
    return family


def read_grade(text: str) -> Grade | None:
    """`general` or `low-impedance`, None where it is empty; raises InputError."""
    if not text.strip():
        return None
    grade = _GRADES.get(tidy(text).lower())
    if grade is None:
        raise InputError(f"grade is general or low-impedance, not “{text[:30]}”")
    return grade


def read_class(text: str, *, several: bool = False) -> str:
    """`X1` to `Y2` or "", with `several` also two apart by a slash; raises InputError."""
    words = [word.strip() for word in tidy(text).upper().replace(",", "/").split("/")]
    words = [_BARE_CLASSES.get(word, word) for word in words]
    if words == [""]:
        return ""
    if set(words) <= set(CLASSES) and (several or len(words) == 1):
        return "/".join(words)
    raise InputError(f"class is X1, X2, Y1 or Y2, not “{text[:30]}”")


def read_mount(text: str) -> Mount | None:
    """How a part mounts, None where it is empty; raises InputError."""
    if not text.strip():
        return None
    word = tidy(text).lower()
    mount = _MOUNTS.get(word)
    if mount is None and word not in _MOUNTS:
        raise InputError(f"mount is {', '.join(MOUNTS)}, not “{text[:30]}”")
    return mount


@lru_cache(_REMEMBERED)
def read_value(text: str, family: Family | None) -> float:
    """Farads as marked, above 0; raises InputError."""
    if not text:
        raise InputError("value is needed and above 0 F")
    try:
        farad, _ = marked_farad(text, family)
    except InputError as error:
        raise InputError(f"value: {error}") from error
    if not farad > 0:
        raise InputError("value is needed and above 0 F")
    return farad


@lru_cache(_REMEMBERED)
def read_rated(text: str, value: str) -> float | None:
    """Rated volts of their own field, else those printed behind the value; raises InputError."""
    volt = quantity({"voltage": text}, "voltage", Unit.VOLT)
    if volt is None:
        volt = rated_volts(value)
    if volt is not None and not 0 < volt <= _MOST_V:
        raise InputError(f"no capacitor is rated {volt:g} V")
    return volt


@lru_cache(_REMEMBERED)
def _quantity(text: str, unit: Unit) -> float:
    """A list has the same few texts again and again: each is read once."""
    return read(text, unit, allow_words=False).value


def quantity(fields: Mapping[str, str], name: str, unit: Unit) -> float | None:
    """A field as a quantity, None where it is empty; raises InputError naming it."""
    text = fields.get(name, "")
    if not text:
        return None
    try:
        return _quantity(text, unit)
    except InputError as error:
        raise InputError(f"{name}: {error}") from error


def positive(fields: Mapping[str, str], name: str, most: float, suffix: str = "") -> float | None:
    """A field as a plain number above 0, None where it is empty; raises InputError naming it."""
    typed = fields.get(name, "")
    return _positive(typed, name, most, suffix) if typed else None


@lru_cache(_REMEMBERED)
def _positive(typed: str, name: str, most: float, suffix: str) -> float | None:
    text = tidy(typed).removesuffix(suffix).strip()
    if not text:
        return None
    try:
        positive = plain_number(text)
    except InputError as error:
        raise InputError(f"{name}: {error}") from error
    if not 0 < positive <= most:
        raise InputError(f"{name}: {text[:20]} is not above 0 and at most {most:g}")
    return positive


def millimetres(fields: Mapping[str, str], name: str) -> float | None:
    """A field in millimetres, None where it is empty; raises InputError naming it."""
    return positive(fields, name, _MOST_MM, "mm")


def celsius(fields: Mapping[str, str]) -> float | None:
    """The rated temperature, None where it is empty; raises InputError."""
    text = tidy(fields.get("temp_c", "")).removesuffix("C").removesuffix("°").strip()
    span = _SPAN_C.fullmatch(text)
    text = span[1] if span else text
    return positive({"temp_c": text}, "temp_c", _MOST_C)


T = TypeVar("T")


def optional(read: Callable[[], T | None], told: list[str] | None) -> T | None:
    """What a field says that need not be known; one that cannot be read is told, and not known.

    Raises InputError where nobody listens: `told` is None.
    """
    try:
        return read()
    except InputError as error:
        if told is None:
            raise
        told.append(f"{str(error).rstrip('.')}: not known")
        return None


def read_build(fields: Mapping[str, str], told: list[str] | None = None) -> AnyBuild:
    """A part as a catalogue or a stock list describes it; raises InputError.

    A field that need not be known and cannot be read is `told`, where that is a list.
    """
    ware = ware_of(fields.get("family", ""))
    if ware is not None:
        return RatedBuild(ware, read_ratings(fields, ware))
    return _read_capacitor(fields, told)


def _read_capacitor(fields: Mapping[str, str], told: list[str] | None) -> Build:
    family = read_family(fields.get("family", ""))
    value = fields.get("value", "")
    return Build(
        family=family,
        farad=read_value(value, family),
        volt=read_rated(fields.get("voltage", ""), value),
        safety_class=read_class(fields.get("class", ""), several=True),
        temp_c=optional(lambda: celsius(fields), told),
        mount=optional(lambda: read_mount(fields.get("mount", "")), told),
        pitch_mm=optional(lambda: millimetres(fields, "pitch_mm"), told),
        diameter_mm=optional(lambda: millimetres(fields, "diameter_mm"), told),
        height_mm=optional(lambda: millimetres(fields, "height_mm"), told),
        esr_ohm=optional(lambda: quantity(fields, "esr_ohm", Unit.OHM), told),
        ripple_a=optional(lambda: quantity(fields, "ripple_a", Unit.AMPERE), told),
        life_h=optional(lambda: positive(fields, "life_h", 1e7, "h"), told),
    )
