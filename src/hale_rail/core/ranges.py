"""Reads a figure that jumps between two ends: `4.8..5.2`, `4.82 – 4.92 V`, `-12.1 -11.9`."""

from __future__ import annotations

import re

from hale_rail.core.errors import QuantityError
from hale_rail.core.quantities import NUMBER, plain_signs, read, tidy
from hale_rail.core.units import Measured, Unit

_SPAN = re.compile(r"(.+?)\s*(?:\.\.+|…| to )\s*(.+)")
#: two figures with a dash or a space between, the unit behind the second or behind both
_TWO = re.compile(
    r"([+-]?[0-9]*[.,]?[0-9]+\s*[A-Za-zΩ]*?)(?: - |- |-| )([+-]?[0-9]*[.,]?[0-9]+\s*[A-Za-zΩ]*)"
)
_APART = re.compile(r"([+-]?[0-9]*[.,]?[0-9]+[A-Za-zΩ]*) ([+-]?[0-9]*[.,]?[0-9]+ ?[A-Za-zΩ]*)")


def read_span(text: str, unit: Unit) -> Measured:
    """Read one quantity or a jumping one, whose lower end is `value`.

    A jumping one is written `4.8..5.2`, `4.8 to 5.2`, `4.8-5.2` or `4.8 5.2`; a unit behind the
    second figure is that of both. Raises QuantityError as `read`, and for a dash that may be a
    sign.
    """
    clean = tidy(text)
    match = _SPAN.fullmatch(clean) or _two(clean)
    if not match:
        return read(text, unit)
    plain_signs(text, unit)
    first, second = match.groups()
    tail = re.sub(r"^[+-]?[0-9.,]+\s*", "", second)
    if re.fullmatch(r"[+-]?[0-9.,]+", first):
        first += tail
    ends = [read(part, unit, allow_words=False) for part in (first, second)]
    low, high = sorted(end.value for end in ends)
    return Measured(text, low, high, unit, max(end.resolution for end in ends))


def _two(clean: str) -> re.Match[str] | None:
    """Two figures with a dash or a space between; None for one, thousands by spaces included."""
    if re.fullmatch(NUMBER + r"(?:[eE][+-]?[0-9]+)?\s*[A-Za-zΩ]*", clean):
        return None
    if re.fullmatch(r"[^-]+ -[0-9.,]+\s*[A-Za-zΩ]*", clean):
        clean = clean.replace(" -", " - ")
    match = _APART.fullmatch(clean) or _TWO.fullmatch(clean)
    if match and re.fullmatch(r"-[0-9.,]+-[0-9.,]+.*", clean):
        first, second = match.groups()
        first, second = first.strip(), second.lstrip("+-")
        raise QuantityError(f"“{clean}”: {first} to −{second}? Write {first}..-{second}.")
    return match
