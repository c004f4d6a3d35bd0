"""Reads a wire's length as people write it."""

from __future__ import annotations

import re

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import has_odd_figure, tidy

_LENGTH = re.compile(r"(\d+(?:[.,]\d+)?|[.,]\d+)\s*(m|cm|mm)?")
_SCALE = {"m": 1.0, "cm": 1e-2, "mm": 1e-3}


def read_length(text: str) -> float:
    """`0.4`, `40 cm` or `400mm` in metres; raises InputError."""
    match = _LENGTH.fullmatch(tidy(text).lower())
    if match is None or has_odd_figure(text):
        raise InputError(f"“{text[:20]}” is not a length: write 0.4, or 40 cm.", field="length")
    return float(match[1].replace(",", ".")) * _SCALE[match[2] or "m"]
