"""Reads single fields that several lists share."""

from __future__ import annotations

import re

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import tidy

_BOTH = re.compile(r"(?:±|\+/-|\+-)?\s*(\d+(?:[.,]\d+)?)\s*%?")
_SKEWED = re.compile(r"-\s*(\d+(?:[.,]\d+)?)\s*%?\s*/?\s*\+\s*(\d+(?:[.,]\d+)?)\s*%?")


def tolerance(text: str) -> tuple[float, float]:
    """`20%` or `-10/+50%` as shares below and above nominal; raises InputError."""
    clean = tidy(text)
    skewed, both = _SKEWED.fullmatch(clean), _BOTH.fullmatch(clean)
    if skewed:
        low, high = (float(part.replace(",", ".")) / 100 for part in skewed.groups())
    elif both:
        low = high = float(both[1].replace(",", ".")) / 100
    else:
        raise InputError(f"“{text}” is not a tolerance: write 20% or -10/+50%.")
    if low >= 1 or high > 3:
        raise InputError(f"A tolerance of {text} cannot be.")
    return low, high
