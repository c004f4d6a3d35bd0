"""Writes an order as CSV and XLSX, a vendor at a time, and reads one back that was filled in."""

from __future__ import annotations

import io
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import farad_spellings
from hale_rail.core.recap.offers import Drawer
from hale_rail.core.recap.orders import OrderLine
from hale_rail.core.recap.rated_parts import AnyBuild, RatedBuild
from hale_rail.formats.plans.plan_csv import PART_COLUMNS
from hale_rail.formats.tables.cells import safe_cell
from hale_rail.formats.tables.fields import Fields, read_table, table_text
from hale_rail.formats.tables.money import read_count
from hale_rail.formats.units.part_fields import read_build
from hale_rail.formats.units.rated_fields import RATINGS, rating_cells, ratings_cell

COLUMNS = ("vendor", "sku", "qty", "unit_price", "cost", "currency", "spares", "for", "pF", "nF",
           "uF", *PART_COLUMNS, "received")  # fmt: skip
_NANO = 1e-9
#: columns whose cells are numbers in a workbook
_NUMBERS = ("qty", "unit_price", "cost", "spares")


class ReadBack(Struct, frozen=True):
    """What came in by a filled-in order: drawers to add, and rows that could not be used."""

    drawers: tuple[Drawer, ...]
    wrong: tuple[tuple[int, str], ...]

    @property
    def pieces(self) -> int:
        """Pieces in all."""
        return sum(drawer.qty for drawer in self.drawers)


def order_rows(
    order: Iterable[OrderLine], names: Mapping[str, str], currency: str, vendor: str = ""
) -> list[tuple[str, ...]]:
    """Rows of an order, of one vendor or of all; `names` of positions by their id."""
    rows = []
    for line in order:
        if vendor and line.offer.vendor != vendor:
            continue
        build = line.offer.build
        spelt = [spelling.split("\u00a0")[0] for spelling in spellings(build)] or ["", "", ""]
        covers = " ".join(names.get(position, position) for position in line.covers)
        cells = (
            line.offer.vendor, line.offer.sku, str(line.qty), str(line.unit_price),
            str(line.cost), currency, str(line.spares), covers, *spelt, *build_cells(build), "",
        )  # fmt: skip
        rows.append(tuple(safe_cell(cell) for cell in cells))
    return rows


def spellings(build: AnyBuild) -> tuple[str, ...]:
    """A capacitor's value as pF, nF and µF; nothing for another part."""
    return () if isinstance(build, RatedBuild) else farad_spellings(build.farad)


def build_cells(build: AnyBuild) -> tuple[str, ...]:
    """A part's description as lists have it, so that `read_build` reads it back."""
    if isinstance(build, RatedBuild):
        cells = {"family": build.ware.code, RATINGS: ratings_cell(build.ratings)}
        own = rating_cells(build.ratings)
        known = {**{n: own.get(n, "") for n in ("value", "voltage")}, **cells}
        return tuple(known.get(name, "") for name in PART_COLUMNS)
    numbers = (build.pitch_mm, build.diameter_mm, build.height_mm, build.esr_ohm, build.ripple_a,
               build.life_h)  # fmt: skip
    return (
        build.family.value,
        f"{build.farad * 1e6:.12g}u" if build.farad >= _NANO else f"{build.farad * 1e12:.12g}p",
        _plain(build.volt),
        build.safety_class,
        _plain(build.temp_c),
        build.mount.code if build.mount else "",
        *(_plain(number) for number in numbers),
        "",
    )


def _plain(number: float | None) -> str:
    return "" if number is None else f"{number:.10g}"


def order_csv(rows: Sequence[Sequence[str]]) -> str:
    """An order as CSV; the last column is for what was received."""
    return table_text(COLUMNS, rows)


def order_xlsx(rows: Sequence[Sequence[str]]) -> bytes:
    """An order as a workbook, a sheet a vendor, counts and money as numbers."""
    from openpyxl import Workbook
    from openpyxl.styles import Font

    book = Workbook()
    book.remove(book.active)
    names: dict[str, Any] = {}
    for row in rows:
        if row[0] not in names:
            title = "".join(c for c in row[0] if c not in "[]:*?/\\")[:25] or "Vendor"
            sheet = names[row[0]] = book.create_sheet(title)
            sheet.append(COLUMNS)
            sheet.freeze_panes = "A2"
            for cell in sheet[1]:
                cell.font = Font(bold=True)
        names[row[0]].append(
            [_number(c) if n in _NUMBERS else c for n, c in zip(COLUMNS, row, strict=True)]
        )
    if not names:
        book.create_sheet("Order").append(COLUMNS)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _number(text: str) -> float | str:
    try:
        return float(text)
    except ValueError:
        return text


def read_back(text: str) -> ReadBack:
    """The pieces that a filled-in order says were received; raises InputError without a heading."""
    rows, wrong = read_table(text, ("sku", "received", "family", "value"), _received)
    return ReadBack(tuple(row for row in rows if row.qty), tuple(wrong))


def _received(_: int, fields: Fields) -> Drawer:
    if not fields["sku"]:
        raise InputError("sku is needed")
    count = read_count(fields["received"] or "0", "received")
    return Drawer(fields["sku"], read_build(fields), count, lot=fields.get("vendor", ""))
