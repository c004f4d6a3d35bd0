"""The unit that a list's heading says, `Ripple [mA]`, `Capacitance (nF)`, `Price per 100`.

A cell without a unit of its own has that of its heading; a three-figure code is none there.
"""

from __future__ import annotations

import re
from decimal import Decimal

from hale_rail.core.quantities import tidy

_IN_BRACKETS = re.compile(r"[\[(/]\s*([^\])/]+?)\s*[\])]?\s*$")
_BARE = re.compile(r"[+-]?(?:[0-9]+(?:[.,][0-9]+)?|[.,][0-9]+)")
#: a unit of a heading as a cell would carry it, by field
_UNITS: dict[str, dict[str, str]] = {
    "value": {"pf": "pF", "nf": "nF", "uf": "uF", "µf": "uF", "mfd": "mfd", "mf": "mfd"},
    "voltage": {"v": "V", "vdc": "V", "vac": "V", "kv": "kV", "v~": "V"},
    "esr_ohm": {"mω": "mΩ", "mohm": "mΩ", "milliohm": "mΩ", "mohms": "mΩ", "ω": "Ω", "ohm": "Ω",
                "ohms": "Ω", "mr": "mΩ"},
    "ripple_a": {"ma": "mA", "a": "A", "ma rms": "mA", "marms": "mA", "a rms": "A",
                 "milliamps": "mA"},
}  # fmt: skip
_LENGTHS = {"mm": 1.0, "cm": 10.0, "in": 25.4, "inch": 25.4, "inches": 25.4, '"': 25.4,
            "mil": 0.0254, "mils": 0.0254}  # fmt: skip
_LENGTH_FIELDS = ("pitch_mm", "diameter_mm", "height_mm")
_PER = re.compile(r"(?:per|/)\s*(100|1000|1\s?000)\b|\bpro\s*(100|1000)\b", re.IGNORECASE)


def bare_heading(heading: str) -> str:
    """A heading without its unit, lower case, as words are looked up."""
    plain = _IN_BRACKETS.sub("", _PER.sub("", tidy(heading))).strip()
    return (plain or tidy(heading)).lower()


def with_unit(field: str, heading: str, cell: str) -> str:
    """A cell as it is meant under its heading: with its unit, in millimetres, a piece."""
    if not cell.strip():
        return cell
    if field.startswith("price_"):
        return _a_piece(heading, cell)
    match = _IN_BRACKETS.search(tidy(heading))
    text = match[1].lower() if match else tidy(heading).lower().split(" ")[-1]
    plain = tidy(cell)
    if field in _LENGTH_FIELDS:
        scale = _LENGTHS.get(text, 1.0)
        is_figure = _BARE.fullmatch(plain) is not None
        return f"{scale * float(plain.replace(',', '.')):.6g}" if is_figure and scale != 1 else cell
    unit = _UNITS.get(field, {}).get(text, "")
    return f"{plain}{unit}" if unit and _BARE.fullmatch(plain) else cell


def _a_piece(heading: str, cell: str) -> str:
    """A price a piece, where the heading or the cell says that it is of a hundred or a thousand."""
    per = _PER.search(cell) or _PER.search(tidy(heading))
    if per is None:
        return cell
    count = int((per[1] or per[2]).replace(" ", ""))
    figure = re.search(r"[0-9]+(?:[.,][0-9]+)?", _PER.sub("", cell))
    if figure is None:
        return cell
    price = Decimal(figure[0].replace(",", ".")) / count
    return _PER.sub("", cell).replace(figure[0], f"{price.normalize():f}").strip()
