"""Wave records whose cells are not bare numbers: `"0,001";"5,02"`, `1.2ms,3mV`, written plainly.

Few files are so; they are rewritten line by line into a copy that the usual reader takes.
"""

from __future__ import annotations

import csv
import os
import re
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from hale_rail.formats.records.wave_layout import split, under_any

_CELL = re.compile(
    r"([+-]?(?:\d+[.,]?\d*|[.,]\d+)(?:[eE][+-]?\d+)?)\s*([munµμk]?)(s|sec|V|volts?)", re.IGNORECASE
)
_SCALES = {"": "e0", "m": "e-3", "u": "e-6", "µ": "e-6", "μ": "e-6", "n": "e-9", "k": "e3"}
_DELIMITERS = (",", ";", "\t")
#: rows with units, or in quotes, that say how the record is written
_TOLD = 3


def needs_rewriting(lines: Sequence[str]) -> str:
    """The delimiter of a record whose cells are quoted or carry units; "" where none do."""
    for delimiter in _DELIMITERS:
        rows = [cells for line in lines if len(cells := _cells(line, delimiter)) > 1]
        with_units = sum(_has_units(row) for row in rows)
        quoted = sum(
            line.lstrip().startswith('"') and all(under_any(cell) for cell in cells)
            for line in lines
            if len(cells := _cells(line, delimiter)) > 1
        )
        if max(with_units, quoted) >= _TOLD:
            return delimiter
    return ""


def _has_units(row: Sequence[str]) -> bool:
    """True for a row of numbers of which some carry a unit."""
    carry = [bool(_CELL.fullmatch(cell)) for cell in row]
    return any(carry) and all(c or under_any(cell) for c, cell in zip(carry, row, strict=True))


def _cells(line: str, delimiter: str) -> list[str]:
    if '"' in line:
        return [cell.strip() for cell in next(csv.reader([line], delimiter=delimiter), [])]
    return split(line, delimiter)


@contextmanager
def rewritten(path: Path, encoding: str, delimiter: str) -> Iterator[Path]:
    """A copy that lives as long, of one line for each: semicolons, decimal points, SI numbers."""
    handle, name = tempfile.mkstemp(prefix="wave-cells-")
    copy = Path(name)
    try:
        with (
            os.fdopen(handle, "w", encoding="utf-8") as out,
            path.open(encoding=encoding, errors="replace", newline=None) as file,
        ):
            for line in file:
                out.write(";".join(_plain(cell) for cell in _cells(line.rstrip("\n"), delimiter)))
                out.write("\n")
        yield copy
    finally:
        copy.unlink()


def _plain(cell: str) -> str:
    match = _CELL.fullmatch(cell)
    if match:
        scale = _SCALES[match[2] if match[2] in _SCALES else match[2].lower()]
        figure = match[1].replace(",", ".")
        return f"{float(figure) * float(f'1{scale}')!r}"
    return cell.replace(",", ".") if under_any(cell) else cell
