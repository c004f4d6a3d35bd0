"""Places as a table, in and out: `ref,board,side,x_mm,y_mm`."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.places.place import Place, checked_board_name, read_side
from hale_rail.core.quantities import plain_number
from hale_rail.formats.tables.fields import Fields, RowProblem, read_table, table_text

COLUMNS = ("ref", "board", "side", "x_mm", "y_mm")


class PlaceRow(Struct, frozen=True):
    """One row: its line (header = 1), the part's name, and its place."""

    line: int
    ref: str
    place: Place


def read_places(text: str) -> tuple[list[PlaceRow], list[RowProblem]]:
    """The rows that can be used, and those that cannot; `side` may be absent: the top then.

    Raises InputError for a heading that lacks a column.
    """
    rows, wrong = read_table(text, ("ref", "board", "x_mm", "y_mm"), _row)
    problems = [RowProblem(line, why) for line, why in wrong]
    seen: dict[str, int] = {}
    kept = []
    for row in rows:
        first = seen.setdefault(row.ref.upper(), row.line)
        if first == row.line:
            kept.append(row)
        else:
            problems.append(RowProblem(row.line, f"{row.ref} has a place in line {first} already"))
    return kept, sorted(problems, key=lambda problem: problem.line)


def _row(line: int, fields: Fields) -> PlaceRow:
    if not fields["ref"]:
        raise InputError("no ref")
    board = checked_board_name(fields["board"])
    side = read_side(fields.get("side", ""))
    x_mm, y_mm = (_millimetres(fields, name) for name in ("x_mm", "y_mm"))
    return PlaceRow(line, fields["ref"], Place(board, side, x_mm, y_mm))


def _millimetres(fields: Fields, name: str) -> float:
    text = fields[name].lower().removesuffix("mm").strip()
    if not text:
        raise InputError(f"no {name}")
    try:
        return plain_number(text)
    except InputError as error:
        raise InputError(f"{name}: {error}") from error


def write_places(rows: Iterable[tuple[str, Place]]) -> str:
    """Parts' names and places as CSV, to a hundredth of a millimetre."""
    return table_text(
        COLUMNS,
        (
            [name, place.board, place.side.code, _figure(place.x_mm), _figure(place.y_mm)]
            for name, place in rows
        ),
    )


def _figure(millimetres: float) -> str:
    rounded = round(millimetres, 2) + 0.0  # no −0
    return f"{rounded:.2f}".rstrip("0").rstrip(".")
