"""Writes quantities in the trade's signs: QuantiPhy renders, our own rules choose the figures."""

from __future__ import annotations

import math
from functools import lru_cache

from quantiphy import Quantity

from hale_rail.core.units import Unit

#: above this nobody prints picofarads
_PICO_UP_TO_F = 0.9995e-6
#: an energy below this is told as less than it
_LEAST_J = 0.0005
#: shorter times are written in milliseconds and below
_SHORT_S = 0.0995


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
    is_long = unit is Unit.SECOND and abs(value) >= _SHORT_S
    if unit is Unit.CELSIUS or is_long or (unit is Unit.OHM and 0.0995 <= abs(value) < 1):
        return f"{_figures(value, digits)}\u00a0{unit.symbol}"
    shown = _Shown(value, unit.symbol)
    return str(shown.render(prec=digits - 1, strip_zeros=True, form="si")).replace("-", "−")


#: a shorter wait counts as no wait
AT_ONCE_S = 0.1


def show_duration(seconds: float) -> str:
    """A wait as one says it: `at once`, `3.8 s`, `2 min 30 s`, `1 h 5 min`."""
    if seconds < AT_ONCE_S:
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


def times(ratio: float) -> str:
    """A multiple of what is expected as one says it: two figures, from a thousand on a word."""
    return "over 1000" if ratio >= 1000 else _figures(ratio, 2)


def joules(energy_j: float) -> str:
    """An energy as one says it, never with an exponent."""
    if energy_j < _LEAST_J:
        return "less than 0.001\u00a0J"
    return f"{_figures(energy_j, 3)}\u00a0J"


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
