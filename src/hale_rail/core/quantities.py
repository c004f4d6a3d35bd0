"""Reads quantities the way people write them at a bench, and writes them the way the trade does.

The reader matches the whole text or refuses: `4k7`, `4n7`, `.22`, `2200 pF`, `0R15`, `1,5`, `OL`,
`short`. What practitioners write in two meanings is asked back, never guessed. QuantiPhy renders;
it does not read, since it takes `4k7` for 4 and `4,7u` for 47 µ.
"""

from __future__ import annotations

import math
import re
import unicodedata
from collections.abc import Iterable

from msgspec.structs import replace

from hale_rail.core.errors import QuantityError, RangeError
from hale_rail.core.quantity_text import (
    farad_spellings,
    joules,
    show,
    show_duration,
    show_exact,
    times,
)
from hale_rail.core.units import Measured, Unit

__all__ = [
    "Measured",
    "Unit",
    "farad_spellings",
    "has_odd_figure",
    "joules",
    "rated_volts",
    "read",
    "read_code",
    "show",
    "show_duration",
    "show_exact",
    "tidy",
    "times",
]

#: powers of ten, so that a value is the float nearest to what was typed
_PREFIXES = {"p": -12, "n": -9, "u": -6, "m": -3, "": 0, "k": 3, "K": 3, "M": 6, "G": 9}
_UNIT_WORDS = {
    Unit.OHM: ("Ω", "ohms", "ohm", "Ohms", "Ohm", "OHM", "OHMS", "R", "r"),
    Unit.FARAD: ("farads", "farad", "Farads", "Farad", "FD", "fd", "F", "f"),
    Unit.VOLT: ("volts", "volt", "Volts", "Volt", "VOLTS", "VOLT", "VDC", "VAC", "Vdc", "Vac",
                "vdc", "V", "v"),
    Unit.AMPERE: ("amperes", "ampere", "amps", "amp", "Amps", "Amp", "ADC", "A", "a"),
    Unit.SECOND: ("seconds", "sec", "s"),
    Unit.WATT: ("watts", "watt", "Watts", "Watt", "W", "w"),
    Unit.CELSIUS: ("degC", "°C", "C"),
    Unit.HERTZ: ("hertz", "Hertz", "Hz", "hz", "HZ"),
}  # fmt: skip
#: prefixes written out, which stand before a unit that is written out too
_PREFIX_WORDS = {"pico": -12, "nano": -9, "micro": -6, "milli": -3, "kilo": 3, "kil": 3,
                 "mega": 6, "meg": 6}  # fmt: skip
_OLD_FARADS = {"mfd": -6, "mmfd": -12, "uuf": -12}
#: old parts mean micro by these, SI means milli by some of them
_MILLI_OR_MICRO = ("m", "mf", "M", "Mf", "MF", "mF")
#: units of time beside the second, in seconds
_TIMES = {"m": 60.0, "min": 60.0, "mins": 60.0, "minute": 60.0, "minutes": 60.0, "h": 3600.0,
          "hour": 3600.0, "hours": 3600.0}  # fmt: skip
#: the letter that may stand for the decimal point with no prefix
_POINT_LETTERS = {Unit.OHM: "Rr", Unit.VOLT: "Vv", Unit.AMPERE: "A", Unit.FARAD: "F"}
_OVER_WORDS = {
    "ol", "o.l", "o.l.", "0l", "0.l", "open", "inf", "∞", "over", "overload", "ovld", "ovl",
    "over range", "overrange", "over-range",
}  # fmt: skip
#: the hint of a reading that says it in a word
_SHORT_WORDS = {"short", "shorted", "s/c", "sc"}
_SHORT_UNITS = (Unit.OHM, Unit.FARAD, Unit.VOLT, Unit.AMPERE)
NUMBER = r"[+-]?(?:[0-9]{1,3}(?: [0-9]{3})+(?:\.[0-9]+)?|[0-9]+(?:[.,][0-9]*)?|[.,][0-9]+)"
_PLAIN = re.compile(rf"({NUMBER})(?:[eE]([+-]?[0-9]{{1,3}})(?![0-9]))?\s*(.*)", re.DOTALL)
_RKM = re.compile(r"([+-]?)([0-9]*)([A-Za-z])([0-9]+)\s*(.*)", re.DOTALL)
_MINUS = re.compile(r"(?:minus\s*|-\s+)(?=[0-9.,])", re.IGNORECASE)
_ABOUT = re.compile(r"(?:~|≈|about|approx\.?|ca\.?|circa)\s*(.+)", re.IGNORECASE)
#: half of the share that a figure said to be about so much may be off
_ABOUT_SHARE = 0.05
#: ohms below which a meter beeps, about
_BEEP_OHM = 50.0
_BEEPS = {"beep": (0.0, _BEEP_OHM), "beeps": (0.0, _BEEP_OHM), "no beep": (_BEEP_OHM, math.inf),
          "no-beep": (_BEEP_OHM, math.inf)}  # fmt: skip
#: ohms from which a reading above a figure is a meter's over-range, not a bound
_OVER_RANGE_OHM = 1e6
_E_FOR_POINT = re.compile(r"([+-]?)([0-9]+)[eE]([0-9]+)\s*(?:Ω|[oO]hms?|R)?")
_CLOCK = re.compile(r"(?:([0-9]{1,4}):)?([0-9]{1,4}):([0-9]{2}(?:\.[0-9]+)?)")
_RATED = re.compile(r"(.+?)\s*/\s*([0-9.,]+\s*[Vv](?:\s*[DdAa][Cc])?)")
_DASHES = dict.fromkeys(map(ord, "−–—‐‑﹣－"), "-")
_LONGEST = 60


def tidy(text: str) -> str:
    """Fold the many code points of micro, ohm, minus and space into one of each."""
    folded = unicodedata.normalize("NFKC", text).translate(_DASHES)
    folded = folded.replace("μ", "u").replace("µ", "u")
    plain = re.sub(r"\s+", " ", folded).strip()
    return _MINUS.sub("-", plain) if _MINUS.match(plain) else plain


def read(text: str, unit: Unit, *, allow_words: bool = True) -> Measured:
    """Read one quantity.

    A plain number is in the base unit, except for capacitance, where it is µF as on drawings of the
    period (with an exponent it is farads). `OL` and `short` are read when `allow_words`; a short
    is 0 Ω or 0 V, and over-range where farads or amperes are read.

    Raises QuantityError when the text is not wholly understood or can be understood in two ways,
    RangeError when nothing of that size exists.
    """
    clean = plain_signs(text, unit)
    if allow_words:
        measured = _read_word(text, clean, unit)
        if measured:
            return measured
    if unit is Unit.FARAD and "/" in clean:
        return _read_rated(text, clean)
    about = _ABOUT.fullmatch(clean)
    if about:
        return _read_about(text, about[1], unit)
    value, resolution, hint = (
        _read_time(clean, unit) or _read_rkm(clean, unit) or _read_plain(clean, unit)
    )
    _check_range(value, unit, clean)
    return Measured(text, value, value, unit, resolution, hint)


def plain_signs(text: str, unit: Unit) -> str:
    """The text tidied; raises QuantityError for none, too much, and signs that are not folded."""
    if has_odd_figure(text):
        raise QuantityError(
            f"“{text[:_LONGEST]}” has a figure that is raised, circled or of another script: write "
            f"plain figures, like {_example(unit)}."
        )
    clean = tidy(text)
    if not clean:
        raise QuantityError(f"Nothing typed: {unit.noun} is wanted here.")
    if len(clean) > _LONGEST:
        raise RangeError(f"“{clean[:20]}…” is far too long for {unit.noun}.")
    return clean


def _read_about(typed: str, figure: str, unit: Unit) -> Measured:
    """A figure said to be about so much: its value, with a wider rounding."""
    measured = read(figure, unit, allow_words=False)
    wide = max(measured.resolution, 2 * _ABOUT_SHARE * abs(measured.value))
    return replace(measured, typed=typed, resolution=wide, hint="about")


def has_odd_figure(text: str) -> bool:
    """True for a text with raised, circled or foreign figures, which are refused, not folded."""
    return any(_is_odd_figure(sign) for sign in text)


def _is_odd_figure(sign: str) -> bool:
    """True for `²`, `①`, `½` and figures of other scripts, which no meter shows."""
    category = unicodedata.category(sign)
    return category == "No" or (
        category == "Nd" and not unicodedata.normalize("NFKC", sign).isascii()
    )


def _read_word(typed: str, clean: str, unit: Unit) -> Measured | None:
    """`OL`, `OL MΩ`, `>20M` and `short`, or None."""
    word = clean.lower()
    if clean[0] in "<>":
        return _read_bound(typed, clean, unit)
    if unit is Unit.OHM and word in _BEEPS:
        low, high = _BEEPS[word]
        return Measured(typed, low, high, unit, hint="beeps" if not low else "does not beep")
    words = [w for w in sorted(_OVER_WORDS, key=len, reverse=True) if word.startswith(w)]
    tail = clean[len(words[0]) :].strip() if words else ""
    if words and (not tail or _prefix_before(tail, _UNIT_WORDS[unit]) is not None):
        return Measured(typed, math.inf, math.inf, unit, hint="over the meter's range")
    if word in _SHORT_WORDS and unit in _SHORT_UNITS:
        value = 0.0 if unit in (Unit.OHM, Unit.VOLT) else math.inf
        return Measured(typed, value, value, unit, hint="short", is_short=True)
    return None


def _read_bound(typed: str, clean: str, unit: Unit) -> Measured:
    """`<100`, `>20k`, `>20M`: a bound, or a meter's over-range."""
    bound = read(clean[1:].removeprefix("="), unit, allow_words=False)
    if clean[0] == "<":
        low, high = sorted((0.0, bound.value))
        return Measured(typed, low, high, unit)
    if unit is Unit.OHM and bound.value < _OVER_RANGE_OHM:
        return Measured(typed, bound.value, math.inf, unit)
    hint = f"over the meter's range of {show(bound.value, unit)}"
    return Measured(typed, math.inf, math.inf, unit, hint=hint)


def _read_rated(typed: str, clean: str) -> Measured:
    """`2200uF/25V`, as cans are printed: the voltage is the rating, no part of the value."""
    match = _RATED.fullmatch(clean)
    if not match:
        raise QuantityError(
            f"“{clean}” is not a capacitance. Write it like {_example(Unit.FARAD)}."
        )
    volt = read(match[2], Unit.VOLT, allow_words=False)
    measured = read(match[1], Unit.FARAD, allow_words=False)
    hint = f"rated {show(volt.value, Unit.VOLT)}"
    return replace(
        measured, typed=typed, hint=f"{measured.hint}; {hint}" if measured.hint else hint
    )


def rated_volts(text: str) -> float | None:
    """The rated volts behind a capacitor's value, `2200uF/25V`, or None where none stand there."""
    match = _RATED.fullmatch(tidy(text))
    return read(match[2], Unit.VOLT, allow_words=False).value if match else None


def read_code(text: str) -> float | None:
    """A three-figure code of capacitance in farads, `104` for 100 nF; None for what is none.

    Source: the usual marking: two figures and a power of ten, in picofarads.
    """
    clean = tidy(text)
    if not re.fullmatch(r"[1-9][0-9][0-7]", clean):
        return None
    return float(f"{clean[:2]}e{int(clean[2]) - 12}")


def plain_number(text: str) -> float:
    """A number without a unit, with point or comma; raises QuantityError for what is none."""
    clean = tidy(text)
    if has_odd_figure(text) or not re.fullmatch(
        r"[+-]?[0-9]*[.,]?[0-9]+(?:e[+-]?[0-9]{1,2})?", clean
    ):
        raise QuantityError(f"“{text[:20]}” is not a number.")
    return float(_decimal(clean)[0])


def _decimal(number: str) -> tuple[str, int]:
    """A number with point or comma as float() takes it, and its count of decimals."""
    if re.fullmatch(r"[+-]?[1-9][0-9]{0,2},[0-9]{3}", number):
        raise QuantityError(
            f"“{number}” can mean {number.replace(',', '.')} or {number.replace(',', '')}: "
            "write it without the comma."
        )
    plain = number.replace(" ", "").replace(",", ".")
    return plain, len(plain.partition(".")[2])


def _scaled(number: str, power: int) -> tuple[float, float]:
    """Value and weight of the last digit of `number` times ten to the `power`."""
    plain, decimals = _decimal(number)
    value = float(f"{plain}e{power}")
    if math.isinf(value):
        raise RangeError(f"“{number}e{power}” is outside anything a meter shows.")
    return value, float(f"1e{power - decimals}")


def _read_time(clean: str, unit: Unit) -> tuple[float, float, str] | None:
    """`1:30`, `2m`, `2 min`, `1.5 h`, or None; a bare `m` in a time is minutes."""
    if unit is not Unit.SECOND:
        return None
    clock = _CLOCK.fullmatch(clean)
    if clock:
        hours, minutes, seconds = (float(part or 0) for part in clock.groups())
        if seconds >= 60 or (clock[1] and minutes >= 60):
            raise QuantityError(f"“{clean}” is not a time: minutes and seconds go to 59.")
        return 3600 * hours + 60 * minutes + seconds, 1.0, "minutes:seconds"
    match = _PLAIN.fullmatch(clean)
    scale = _TIMES.get(match[3].lower()) if match and not match[2] else None
    if match is None or scale is None:
        return None
    value, digit = _scaled(match[1], 0)
    return value * scale, digit * scale, "minutes" if scale < 3600 else "hours"


def _read_plain(clean: str, unit: Unit) -> tuple[float, float, str]:
    match = _PLAIN.fullmatch(clean)
    if not match:
        raise QuantityError(f"“{clean}” is not {unit.noun}. Write it like {_example(unit)}.")
    if unit is Unit.OHM:
        _ask_of_e(clean)
    number, exponent, tail = match.groups()
    if not tail and unit is Unit.FARAD:
        if exponent:
            return *_scaled(number, int(exponent)), "read as farads"
        return *_scaled(number, -6), "a plain number is read as µF"
    return *_scaled(number, int(exponent or 0) + _tail_power(tail, unit, clean)), ""


def _ask_of_e(clean: str) -> None:
    """Ask back an E between whole numbers: some print it for the decimal point of ohms."""
    match = _E_FOR_POINT.fullmatch(clean)
    if match:
        sign, whole, digits = match.groups()
        raise QuantityError(
            f"“{clean}”: {sign}{whole}.{digits} Ω? Write {sign}{whole}R{digits}. "
            f"Or a power of ten? Write {sign}{whole}e+{digits}."
        )


def _read_rkm(clean: str, unit: Unit) -> tuple[float, float, str] | None:
    """Read a letter in place of the decimal point (`4k7`, `0R15`, `R47`), or None."""
    match = _RKM.fullmatch(clean)
    if not match or match[3] in "eE":
        return None
    sign, whole, letter, fraction, tail = match.groups()
    power = 0 if letter in _POINT_LETTERS.get(unit, "") else _tail_power(letter, unit, clean)
    if tail and tail not in _UNIT_WORDS[unit]:
        raise QuantityError(f"“{tail}” after “{clean[: -len(tail)].strip()}” is not understood.")
    return *_scaled(f"{sign}{whole or 0}.{fraction}", power), ""


def _tail_power(tail: str, unit: Unit, clean: str) -> int:
    """The power of ten of what follows the number: a prefix, a unit, both or nothing."""
    if unit is Unit.FARAD:
        if tail in _MILLI_OR_MICRO:
            _ask_milli_or_micro(clean)
        if tail.lower() in _OLD_FARADS:
            return _OLD_FARADS[tail.lower()]
        if tail[:1] in {"P", "N", "U"}:
            tail = tail[0].lower() + tail[1:]
    if tail in _PREFIXES:
        return _PREFIXES[tail]
    if unit is Unit.HERTZ and tail[:1] == "m":
        tail = "M" + tail[1:]  # nobody means millihertz
    if unit in (Unit.VOLT, Unit.AMPERE):
        tail = re.sub(r"\s*(?:DC|AC|dc|ac|~)$", "", tail) or tail
    power = _prefix_before("M" if tail.lower() == "meg" else tail, ("", *_UNIT_WORDS[unit]))
    if power is None:
        _refuse_tail(tail, unit, clean)
    return power or 0


def _refuse_tail(tail: str, unit: Unit, clean: str) -> None:
    """Raise QuantityError for what is not a unit, or another's."""
    for other, words in _UNIT_WORDS.items():
        if _prefix_before(tail, words) is not None:
            raise QuantityError(
                f"“{clean}” is {other.noun}; {unit.noun} is wanted here, like {_example(unit)}."
            )
    raise QuantityError(f"“{tail}” is not a unit this program knows. Write {_example(unit)}.")


def _ask_milli_or_micro(clean: str) -> None:
    """Old parts mean microfarads by mF and MF, SI millifarads; raises QuantityError."""
    plain = re.sub(r"\s*[mM][fF]?", "", clean, count=1)
    match = re.fullmatch(r"([0-9]*)[mM]([0-9]+).*", clean)
    number = f"{match[1] or 0}.{match[2]}" if match else plain
    milli, _ = _decimal(number)
    raise QuantityError(
        f"“{clean}”: {number} µF or {number} mF? Old parts mean µF by it. Write {number}u, or "
        f"{float(milli) * 1000:g}u."
    )


def _prefix_before(tail: str, words: Iterable[str]) -> int | None:
    """The power of ten that is before one of a unit's words, or None."""
    words = tuple(words)
    for word in words:
        prefix = tail.removesuffix(word).strip()
        if tail.endswith(word) and prefix in _PREFIXES:
            return _PREFIXES[prefix]
    for word in words:
        whole = tail.lower()
        prefix = whole.removesuffix(word.lower())
        if len(word) > 1 and whole.endswith(word.lower()) and prefix in _PREFIX_WORDS:
            return _PREFIX_WORDS[prefix]
    return None


def _check_range(value: float, unit: Unit, clean: str) -> None:
    if not unit.low <= value <= unit.high:
        raise RangeError(
            f"“{clean}” would be {show(value, unit)}; {unit.noun} here lies between "
            f"{show(unit.low, unit)} and {show(unit.high, unit)}."
        )


def _example(unit: Unit) -> str:
    return {
        Unit.OHM: "0R15, 4k7 or OL",
        Unit.FARAD: "2200u, 4n7 or 100 nF",
        Unit.VOLT: "4.98 or −11,9 V",
        Unit.AMPERE: "90m or 1.3 A",
        Unit.SECOND: "30 s",
        Unit.WATT: "10 W",
        Unit.CELSIUS: "45",
        Unit.HERTZ: "4 MHz or 14.318M",
    }[unit]
