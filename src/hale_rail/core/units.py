"""Dimensions that can be typed, and a reading as it was understood."""

from __future__ import annotations

import math
from enum import Enum

from msgspec import Struct


class Unit(Enum):
    """A dimension that can be typed: its symbol, its name, and the SI bounds of what can exist."""

    OHM = ("Ω", "a resistance", 0.0, 1e12)
    FARAD = ("F", "a capacitance", 0.0, 1.0)
    VOLT = ("V", "a voltage", -50e3, 50e3)
    AMPERE = ("A", "a current", -1e3, 1e3)
    SECOND = ("s", "a time", 0.0, 1e9)
    WATT = ("W", "a power", 0.0, 1e5)
    CELSIUS = ("°C", "a temperature", -60.0, 400.0)
    HERTZ = ("Hz", "a frequency", 0.0, 1e12)

    def __init__(self, symbol: str, noun: str, low: float, high: float) -> None:
        self.symbol = symbol
        self.noun = noun
        self.low = low
        self.high = high

    @property
    def plain_symbol(self) -> str:
        """What a plain number is read as: capacitance is typed in µF, as drawings have it."""
        return "µF" if self is Unit.FARAD else self.symbol


class Measured(Struct, frozen=True):
    """A reading as understood.

    `value` is SI (`inf` when the meter showed over-range), `high` the upper end of a jumping one
    (else equal to `value`), `resolution` the weight of the last digit typed (SI, 0 for words), and
    `hint` what was assumed, in words, or ""; `is_short`: the meter beeped, no figure was typed.
    """

    typed: str
    value: float
    high: float
    unit: Unit
    resolution: float = 0.0
    hint: str = ""
    is_short: bool = False

    @property
    def is_over(self) -> bool:
        """True for OL, more than the meter's range."""
        return math.isinf(self.value)

    @property
    def is_span(self) -> bool:
        """True for a figure that jumps between two ends."""
        return self.high != self.value
