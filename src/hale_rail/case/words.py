"""Stored readings as one reads them."""

from __future__ import annotations

import math
from collections.abc import Sequence

from hale_rail.core.quantities import Unit, show
from hale_rail.store.readings import Reading

#: letters without which a text is no reason
_FEWEST_LETTERS = 3


def show_reading(reading: Reading) -> str:
    """A stored reading with its figures: `0.56 Ω`, `4.78 V to 4.93 V`, `0.4 Ω (0.31 V, 780 mA)`."""
    unit = reading.procedure.unit
    if reading.procedure.shown:
        return reading.procedure.shown(reading.typed, reading.figures)
    if "ampere" in reading.figures and "volt" in reading.figures:
        volt = show(reading.figures["volt"], Unit.VOLT)
        ampere = show(reading.figures["ampere"], Unit.AMPERE)
        return f"{show(reading.value, unit)} ({volt}, {ampere})"
    text = show(reading.value, unit, 4)
    if reading.high == reading.value:
        return text
    if math.isinf(reading.high):
        return f"above {text}"
    high = show(reading.high, unit, 4)
    return f"below {high}" if reading.value == 0 else f"{text} to {high}"


def is_reason(text: str, shortest: int) -> bool:
    """True for words of some length; a figure that was typed into the wrong field gives none."""
    return len(text) >= shortest and sum(letter.isalpha() for letter in text) >= _FEWEST_LETTERS


def named(refs: Sequence[str]) -> str:
    """Designators in a sentence: `BR1`, `BR1 and Q1`, `BR1, Q1, C2 and 4 more`."""
    if len(refs) <= 2:
        return " and ".join(refs)
    return f"{', '.join(refs[:3])}" + (f" and {len(refs) - 3} more" if len(refs) > 3 else "")


def counted(count: int, one: str, many: str = "") -> str:
    """`1 part`, `3 parts`; `many` where an s does not make the plural."""
    return f"{count} {one if count == 1 else many or one + 's'}"
