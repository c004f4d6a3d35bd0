"""Opens a list as it was saved, CSV or XLSX, as rows of cells with the line that each stands in."""

from __future__ import annotations

import csv
import io
import zipfile
from collections.abc import Iterable, Iterator, Sequence
from datetime import date

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.errors import InputError
from hale_rail.formats.tables.texts import decoded
from hale_rail.formats.tables.workbooks import check_workbook

MOST_ROWS, MOST_COLUMNS = 250_000, 80
_SEARCHED, _MOST_SHEETS = 30, 20
_ZIP = b"PK\x03\x04"

Cells = tuple[str, ...]


class ListTable(Struct, frozen=True):
    """A list: what its columns are called, its rows with their lines, `skipped` lines before them.

    A heading over several columns (merged cells) stands before the ones below it. `sheets`: where
    several of a workbook have rows, their names; `sheet`: which of them this is.
    """

    headings: Cells
    rows: tuple[tuple[int, Cells], ...]
    skipped: int = 0
    sheets: tuple[str, ...] = ()
    sheet: str = ""


def open_table(data: bytes, name: str, known: Sequence[str], sheet: str = "") -> ListTable:
    """The table of a file; the row with most `known` words is its heading.

    `sheet`: which one of a workbook, the first with rows where none is named. Raises InputError for
    a file that is not one, has no such sheet or no heading, or is far too large.
    """
    if not data.startswith(_ZIP):
        return _table(list(_numbered(_csv(data, name))), name, known)
    sheets = _xlsx(data, name)
    if sheet and sheet not in sheets:
        raise InputError(f"{name} has no sheet “{sheet[:40]}”.")
    chosen = sheet or next((title for title, lines in sheets.items() if lines), "")
    table = _table(sheets.get(chosen, []), name, known)
    filled = tuple(title for title, lines in sheets.items() if lines)
    return replace(table, sheets=filled if len(filled) > 1 else (), sheet=chosen)


def _table(lines: Sequence[tuple[int, Cells]], name: str, known: Sequence[str]) -> ListTable:
    if not lines:
        raise InputError(f"{name} has no row.")
    words = {word.lower() for word in known}
    scores = [
        sum(cell.strip().lower().rstrip(":") in words for cell in cells)
        for _, cells in lines[:_SEARCHED]
    ]
    at = scores.index(max(scores))
    if not scores[at]:
        at = next((i for i, (_, c) in enumerate(lines[:_SEARCHED]) if sum(map(bool, c)) > 1), 0)
    above = lines[at - 1][1] if at and lines[at - 1][0] == lines[at][0] - 1 else ()
    return ListTable(_headings(lines[at][1], above), tuple(lines[at + 1 :]), lines[at][0] - 1)


def _numbered(rows: Iterable[Sequence[str]]) -> Iterator[tuple[int, Cells]]:
    """Rows that are not blank, with their lines."""
    for number, row in enumerate(rows, 1):
        if number > MOST_ROWS:
            raise InputError(f"The list is longer than {MOST_ROWS} rows: split it.")
        cells = [cell.strip() for cell in row[:MOST_COLUMNS]]
        while cells and not cells[-1]:
            cells.pop()
        if cells:
            yield number, tuple(cells)


def _headings(cells: Cells, above: Cells) -> Cells:
    """A name for each column: none twice, figures behind what is over them."""
    headings: list[str] = []
    over = ""
    for n, cell in enumerate(cells):
        over = above[n] if n < len(above) and above[n] else over
        name = f"{over} {cell}".strip() if not cell or cell[0].isdigit() else cell
        name = name or f"column {n + 1}"
        headings.append(f"{name} ({n + 1})" if name in headings else name)
    return tuple(headings)


def _csv(data: bytes, name: str) -> Iterator[Sequence[str]]:
    text = decoded(data, name)
    if "\x00" in text:
        raise InputError(f"{name} is not a list: it holds bytes that no text has.")
    head = text[:20_000]
    delimiter = max(";\t,", key=head.count)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    try:
        yield from reader
    except csv.Error as error:
        raise InputError(f"{name}, line {reader.line_num}: {error}.") from error


def _xlsx(data: bytes, name: str) -> dict[str, list[tuple[int, Cells]]]:
    """The rows of each sheet, cells as texts; a formula stays one, to be refused, not guessed."""
    check_workbook(data, name, MOST_ROWS)
    from openpyxl import load_workbook

    try:
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=False)
        xlsx = {}
        for sheet in book.worksheets[:_MOST_SHEETS]:
            sheet.reset_dimensions()  # the size that it states need not be true
            rows = sheet.iter_rows(max_col=MOST_COLUMNS, values_only=True)
            xlsx[sheet.title] = list(_numbered([_cell(value) for value in row] for row in rows))
    except InputError:
        raise
    except (KeyError, ValueError, TypeError, IndexError, AttributeError, OSError, SyntaxError,
            zipfile.BadZipFile) as error:  # fmt: skip
        raise InputError(f"{name} is not a workbook that can be read: {error}.") from error
    return xlsx


def _cell(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, float):
        return f"{value:.12g}"
    if isinstance(value, date):
        return value.isoformat()[:10]
    return str(value)
