"""Reads what several lists share: a table with a heading, and single fields."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import TypeVar

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import tidy
from hale_rail.formats.tables.cells import bare_cell, safe_cell

_BOTH = re.compile(r"(?:±|\+/-|\+-)?\s*(\d+(?:[.,]\d+)?)\s*%?")
_SKEWED = re.compile(r"-\s*(\d+(?:[.,]\d+)?)\s*%?\s*/?\s*\+\s*(\d+(?:[.,]\d+)?)\s*%?")

Row = TypeVar("Row")
Fields = dict[str, str]


class RowProblem(Struct, frozen=True):
    """A row that could not be used, and why."""

    line: int
    text: str


def read_table(
    text: str, needed: Sequence[str], parse: Callable[[int, Fields], Row]
) -> tuple[list[Row], list[tuple[int, str]]]:
    """Read a table with a heading: rows as `parse(line, fields)` gives them, and (line, problem).

    Columns stand in any order, apart by commas, semicolons or tabs; empty rows are passed over.
    Raises InputError when the heading lacks a needed column.
    """
    reader = csv.DictReader(io.StringIO(text.lstrip("\ufeff")), dialect=dialect_of(text))
    try:
        names = [(name or "").strip().lower() for name in reader.fieldnames or []]
    except csv.Error as error:
        raise InputError(f"The header cannot be read: {error}.") from error
    missing = [name for name in needed if name not in names]
    if missing:
        raise InputError(f"The header lacks {', '.join(missing)}.")
    reader.fieldnames = names
    rows: list[Row] = []
    wrong: list[tuple[int, str]] = []
    while True:
        try:
            raw = next(reader)
            fields = {
                name: bare_cell((cell or "").strip())
                for name, cell in raw.items()
                if isinstance(name, str)
            }
            if None in raw:
                raise InputError("more fields than the header has")
            if any(fields.values()):
                rows.append(parse(reader.line_num, fields))
        except StopIteration:
            return rows, wrong
        except (InputError, csv.Error) as error:
            wrong.append((reader.reader.line_num, str(error)))


def yes_no(fields: Mapping[str, str], name: str) -> bool:
    """A field that says yes or no, no where it is empty; raises InputError for anything else."""
    text = fields.get(name, "")
    if text.lower() in ("yes", "y", "true", "1"):
        return True
    if text.lower() in ("no", "n", "false", "0", ""):
        return False
    raise InputError(f"{name} is yes or no, not “{text}”")


def in_file(line: int) -> str:
    """Where a line of a file stands, its heading counted."""
    return f"line {line}"


def in_table(line: int) -> str:
    """Where the same line stands in a table on the screen, whose heading is not one of its rows."""
    return f"row {line - 1}"


def read_list(
    text: str,
    what: str,
    needed: Sequence[str],
    parse: Callable[[int, Fields], Row],
    named: Callable[[int], str] = in_file,
) -> list[Row]:
    """Read a table in which every row must be right; raises InputError with the first bad line.

    `named` says where a line is.
    """
    try:
        rows, wrong = read_table(text, needed, parse)
    except InputError as error:
        raise InputError(f"{what}: {error}") from error
    if wrong:
        line, why = wrong[0]
        raise InputError(f"{what}, {named(line)}: {why}")
    return rows


def table_cells(
    text: str, what: str, needed: Sequence[str], columns: Sequence[str]
) -> tuple[list[str], list[list[str]]]:
    """A table's columns and its cells as typed: the columns wanted first, then any others it has.

    Raises InputError for a heading without a needed column and for a row longer than the heading.
    """
    rows = read_list(text, what, needed, lambda _, fields: fields, in_table)
    others = [name for name in (rows[0] if rows else ()) if name and name not in columns]
    names = [*columns, *others]
    return names, [[row.get(name, "") for name in names] for row in rows]


def in_words(problem: str, columns: Sequence[str], headings: Sequence[str]) -> str:
    """What is wrong with a row, with the words that the table on the screen has for its columns."""
    for column, heading in zip(columns, headings, strict=True):
        problem = re.sub(rf"\b{re.escape(column)}\b", f"“{heading}”", problem)
    return problem


def table_text(columns: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """A table with its heading as CSV, as `read_table` reads it; no cell is run as a formula."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(columns)
    writer.writerows([safe_cell(cell) for cell in row] for row in rows)
    return out.getvalue()


def dialect_of(text: str) -> type[csv.Dialect]:
    """Commas, unless the first line that is not empty has more semicolons or tabs."""
    header = next((line for line in text.splitlines() if line.strip()), "")

    class Dialect(csv.excel):
        delimiter = max(",;\t", key=header.count)

    return Dialect


def tolerance(text: str) -> tuple[float, float]:
    """`20%` or `-10/+50%` as shares below and above nominal; raises InputError."""
    clean = tidy(text).replace("±", "").replace("+/-", "").replace(" ", "")
    skewed, both = _SKEWED.fullmatch(clean), _BOTH.fullmatch(clean)
    if skewed:
        low, high = (float(part.replace(",", ".")) / 100 for part in skewed.groups())
    elif both:
        low = high = float(both[1].replace(",", ".")) / 100
    else:
        raise InputError(f"“{text}” is not a tolerance: write 20% or -10/+50%.")
    if low >= 1 or high > 3:
        raise InputError(f"A tolerance cannot be {text}.")
    return low, high
