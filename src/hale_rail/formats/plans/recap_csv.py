"""Writes a recap list as CSV, the value spelt as pF, nF and µF."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable

from hale_rail.core.recap.demand import RecapLine
from hale_rail.core.recap.other_parts import OtherLine
from hale_rail.formats.tables.cells import safe_cell

COLUMNS = ("qty", "pF", "nF", "uF", "volts", "family", "class", "refs", "why", "fitted",
           "rating")  # fmt: skip


def write_recap(lines: Iterable[RecapLine], others: Iterable[OtherLine] = ()) -> str:
    """One row a value of capacitors, then one a kind and rating of other parts, the kind in
    `family`; refs apart by spaces.
    """
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for line in lines:
        numbers = [spelling.split("\u00a0")[0] for spelling in line.spellings]
        fitted = sum(position.is_fitted for position in line.positions)
        cells = [
            line.quantity,
            *numbers,
            f"{line.volt:g}" if line.volt else "",
            line.family.value,
            line.safety_class,
            line.refs.replace(",", ""),
            "; ".join(line.whys),
            fitted,
            "",
        ]
        writer.writerow([safe_cell(str(cell)) for cell in cells])
    for other in others:
        volt = f"{other.volt:g}" if other.volt else ""
        refs, whys = other.refs.replace(",", ""), "; ".join(other.whys)
        fitted = other.quantity - other.left
        cells = [other.quantity, "", "", "", volt, other.kind.code, "", refs, whys, fitted,
                 other.rating]  # fmt: skip
        writer.writerow([safe_cell(str(cell)) for cell in cells])
    return out.getvalue()
