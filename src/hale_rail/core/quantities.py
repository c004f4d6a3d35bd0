"""Reads quantities the way people write them at a bench, and writes them the way the trade does.

The reader matches the whole text or refuses: `4k7`, `4n7`, `.22`, `2200 pF`, `0R15`, `1,5`, `OL`,
`short`. QuantiPhy renders; it does not read, since it takes `4k7` for 4 and `4,7u` for 47 µ.
"""

from __future__ import annotations

import math
import re
import unicodedata
from collections.abc import Iterable
from dataclasses import dataclass
from enum import Enum
from functools import lru_cache

from quantiphy import Quantity

from hale_rail.core.errors import QuantityError, RangeError


class Unit(Enum):
    """A dimension that can be typed: its symbol, its name, and the SI bounds of what can exist."""

    OHM = ("Ω", "a resistance", 0.0, 1e12)
    FARAD = ("F", "a capacitance", 0.0, 1.0)
    VOLT = ("V", "a voltage", -50e3, 50e3)
    AMPERE = ("A", "a current", -1e3, 1e3)
    SECOND = ("s", "a time", 0.0, 1e9)
    WATT = ("W", "a power", 0.0, 1e5)
    CELSIUS = ("°C", "a temperature", -60.0, 400.0)

    def __init__(self, symbol: str, noun: str, low: float, high: float) -> None:
        self.symbol = symbol
        self.noun = noun
        self.low = low
        self.high = high

    @property
    def plain_symbol(self) -> str:
        """What a plain number is read as: capacitance is typed in µF, as drawings have it."""
        return "µF" if self is Unit.FARAD else self.symbol


@dataclass(frozen=True)
class Measured:
    """A reading as understood.

    `value` is SI (`inf` when the meter showed over-range), `high` the upper end of a jumping one
    (else equal to `value`), `resolution` the weight of the last digit typed (SI, 0 for words), and
    `hint` what was assumed, in words, or "".
    """

    typed: str
    value: float
    high: float
    unit: Unit
    resolution: float = 0.0
    hint: str = ""

    @property
    def is_over(self) -> bool:
        """True for OL, more than the meter's range."""
        return math.isinf(self.value)

    @property
    def is_span(self) -> bool:
        """True for a figure that jumps between two ends."""
        return self.high != self.value


#: from here on nobody prints picofarads
_PICO_UP_TO_F = 0.9995e-6
#: powers of ten, so that a value is the float nearest to what was typed
_PREFIXES = {"p": -12, "n": -9, "u": -6, "m": -3, "": 0, "k": 3, "K": 3, "M": 6, "G": 9}
_UNIT_WORDS = {
    Unit.OHM: ("Ω", "ohms", "ohm", "Ohms", "Ohm", "OHM", "R", "r"),
    Unit.FARAD: ("farads", "farad", "FD", "fd", "F", "f"),
    Unit.VOLT: ("volts", "volt", "VDC", "VAC", "Vdc", "Vac", "V", "v"),
    Unit.AMPERE: ("amps", "amp", "A", "a"),
    Unit.SECOND: ("seconds", "sec", "s"),
    Unit.WATT: ("watts", "watt", "W", "w"),
    Unit.CELSIUS: ("degC", "°C", "C"),
}
_OLD_FARADS = {"mfd": -6, "mmfd": -12, "uuf": -12}
#: the letter that may stand for the decimal point with no prefix
_POINT_LETTERS = {Unit.OHM: "Rr", Unit.VOLT: "Vv", Unit.AMPERE: "A", Unit.FARAD: "F"}
_OVER_WORDS = {"ol", "o.l", "o.l.", "0l", "0.l", "open", "inf", "∞", "over", "overload"}
_SHORT_WORDS = {"short", "shorted", "s/c", "sc"}
_NUMBER = r"[+-]?(?:\d{1,3}(?: \d{3})+(?:\.\d+)?|\d+(?:[.,]\d*)?|[.,]\d+)"
_PLAIN = re.compile(rf"({_NUMBER})(?:[eE]([+-]?\d{{1,3}})(?!\d))?\s*(.*)", re.DOTALL)
_RKM = re.compile(r"([+-]?)(\d*)([A-Za-z])(\d+)\s*(.*)", re.DOTALL)
_SPAN = re.compile(r"(.+?)\s*(?:\.\.+|…| to )\s*(.+)")


def tidy(text: str) -> str:
    """Fold the many code points of micro, ohm, minus and space into one of each."""
    folded = unicodedata.normalize("NFKC", text)
    folded = folded.replace("−", "-").replace("–", "-").replace("μ", "u").replace("µ", "u")
    return re.sub(r"\s+", " ", folded).strip()


def read(text: str, unit: Unit, *, allow_words: bool = True) -> Measured:
    """Read one quantity.

    A plain number is in the base unit, except for capacitance, where it is µF as on drawings of the
    period (with an exponent it is farads). `OL` and `short` are read when `allow_words`.

    Raises QuantityError when the text is not wholly understood, RangeError when nothing of that
    size exists.
    """
    clean = tidy(text)
    if not clean:
        raise QuantityError(f"Nothing typed: {unit.noun} is wanted here.")
    word = clean.lower()
    if allow_words and word in _OVER_WORDS:
        return Measured(text, math.inf, math.inf, unit, hint="over the meter's range")
    if allow_words and unit is Unit.OHM and word in _SHORT_WORDS:
        return Measured(text, 0.0, 0.0, unit, hint="short")
    value, resolution, hint = _read_rkm(clean, unit) or _read_plain(clean, unit)
    _check_range(value, unit, clean)
    return Measured(text, value, value, unit, resolution, hint)


def read_span(text: str, unit: Unit) -> Measured:
    """Read one quantity or a jumping one, `4.8..5.2` or `4.8 to 5.2`; the lower end is `value`."""
    match = _SPAN.fullmatch(tidy(text))
    if not match:
        return read(text, unit)
    ends = [read(part, unit, allow_words=False) for part in match.groups()]
    low, high = sorted(end.value for end in ends)
    return Measured(text, low, high, unit, max(end.resolution for end in ends))


def _decimal(number: str) -> tuple[str, int]:
    """A number with point or comma as float() takes it, and its count of decimals."""
    if re.fullmatch(r"[+-]?[1-9]\d{0,2},\d{3}", number):
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


def _read_plain(clean: str, unit: Unit) -> tuple[float, float, str]:
    match = _PLAIN.fullmatch(clean)
    if not match:
        raise QuantityError(f"“{clean}” is not {unit.noun}. Write it like {_example(unit)}.")
    number, exponent, tail = match.groups()
    if not tail and unit is Unit.FARAD:
        if exponent:
            return *_scaled(number, int(exponent)), "read as farads"
        return *_scaled(number, -6), "a plain number is read as µF"
    return *_scaled(number, int(exponent or 0) + _tail_power(tail, unit, clean)), ""


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
    if tail in _PREFIXES and not (tail == "M" and unit is Unit.FARAD):
        return _PREFIXES[tail]
    if unit is Unit.FARAD:
        if tail.lower() in _OLD_FARADS:
            return _OLD_FARADS[tail.lower()]
        if tail in {"M", "MF"}:
            raise QuantityError(f"“{tail}” on old parts means µF: write {clean[: -len(tail)]}u.")
        if tail[:1] in {"P", "N", "U"}:
            tail = tail[0].lower() + tail[1:]
    power = _prefix_before(tail, ("", *_UNIT_WORDS[unit]))
    if power is not None:
        return power
    for other, words in _UNIT_WORDS.items():
        if _prefix_before(tail, words) is not None:
            raise QuantityError(
                f"“{clean}” is {other.noun}; {unit.noun} is wanted here, like {_example(unit)}."
            )
    raise QuantityError(f"“{tail}” is not a unit this program knows. Write {_example(unit)}.")


def _prefix_before(tail: str, words: Iterable[str]) -> int | None:
    """The power of ten that stands before one of a unit's words, or None."""
    for word in words:
        prefix = tail.removesuffix(word).strip()
        if tail.endswith(word) and prefix in _PREFIXES:
            return _PREFIXES[prefix]
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
    }[unit]


class _Shown(Quantity):
    """QuantiPhy set to the trade's signs: µ, and a space before the unit."""


_Shown.set_prefs(map_sf=Quantity.map_sf_to_greek, spacer="\u00a0")


@lru_cache(maxsize=4096)
def show(value: float, unit: Unit, digits: int = 3) -> str:
    """Write a value with `digits` significant figures: `0.56 Ω`, `2200 µF`, `−11.9 V`, `OL`."""
    if math.isinf(value):
        return "OL" if value > 0 else "−OL"
    if unit is Unit.FARAD and 0.9995e-6 <= abs(value) < 0.5:
        return f"{_figures(value * 1e6, digits)}\u00a0µF"
    if unit in (Unit.SECOND, Unit.CELSIUS) or (unit is Unit.OHM and 0.0995 <= abs(value) < 1):
        return f"{_figures(value, digits)}\u00a0{unit.symbol}"
    shown = _Shown(value, unit.symbol)
    return str(shown.render(prec=digits - 1, strip_zeros=True, form="si")).replace("-", "−")


def show_duration(seconds: float) -> str:
    """A wait as one says it: `at once`, `3.8 s`, `2 min 30 s`, `1 h 5 min`."""
    if seconds < 0.1:
        return "at once"
    if seconds < 100:
        return f"{_figures(seconds, 2)}\u00a0s"
    minutes, rest = divmod(round(seconds), 60)
    if minutes < 60:
        return f"{minutes}\u00a0min" + (f" {rest}\u00a0s" if rest else "")
    hours, minutes = divmod(minutes, 60)
    return f"{hours}\u00a0h" + (f" {minutes}\u00a0min" if minutes else "")


def show_exact(value: float, unit: Unit) -> str:
    """Write a marked value with every figure it has, up to six."""
    return show(value, unit, 6)


def _figures(value: float, digits: int) -> str:
    """`digits` significant figures, never an exponent, whole numbers kept whole."""
    if value == 0:
        return "0"
    decimals = digits - 1 - math.floor(math.log10(abs(value)))
    text = f"{round(value, decimals):.{max(decimals, 0)}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return text.replace("-", "−")


def farad_spellings(value: float) -> tuple[str, str, str]:
    """The same capacitance as pF, nF and µF, since vendors print any of the three.

    From 1 µF on nobody prints picofarads: the first is "" there.
    """

    def spell(scale: float, name: str) -> str:
        text = f"{value * scale:.6g}"
        if "e" in text:
            text = f"{float(text):.12f}".rstrip("0").rstrip(".")
        return f"{text}\u00a0{name}"

    pico = spell(1e12, "pF") if value < _PICO_UP_TO_F else ""
    return pico, spell(1e9, "nF"), spell(1e6, "µF")
