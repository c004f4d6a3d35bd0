"""Cells of a CSV that no spreadsheet runs as a formula, and back."""

from __future__ import annotations

import re

_FORMULA = ("=", "+", "-", "@", "\t", "\r")
#: a number with its unit, a rail or a pair of pins is never a formula
_HARMLESS = re.compile(
    r"[+-]?\s?\d[\d.,]*(?:[eE][+-]?\d+)?\s?[A-Za-zµΩ°%]{0,3}|[+~A-Z0-9-]{1,3}>[+~A-Z0-9-]{1,3}"
)


def safe_cell(text: str) -> str:
    """A cell as it goes out: an apostrophe stands before what would be run as a formula."""
    if not text.startswith(_FORMULA) or _HARMLESS.fullmatch(text):
        return text
    return f"'{text}"


def bare_cell(text: str) -> str:
    """A cell as it was before it went out."""
    return text[1:] if text.startswith("'") and text[1:].startswith(_FORMULA) else text
