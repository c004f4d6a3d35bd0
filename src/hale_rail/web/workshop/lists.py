"""Lists of the workshop on whatever page: read as tables, one row opened to edit, rows pasted."""

from __future__ import annotations

import csv
import io
import json
import re
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from flask import Blueprint, redirect, request
from flask.typing import ResponseReturnValue
from msgspec import Struct

from hale_rail.errors import ConflictError, InputError
from hale_rail.formats.tables.fields import dialect_of, in_file, in_table, in_words, table_text
from hale_rail.store.database import Store
from hale_rail.web.form_base import FormState
from hale_rail.web.frame.case_page import rerender_on_error, store
from hale_rail.web.uploads import file_response, sent_bytes

_MOST_BYTES = 256 * 1024
#: the most rows of a list
_MOST_ROWS = 200
#: what the address calls the row that is added
NEW = "new"
Cells = Sequence[str]


class ListKind(Struct, frozen=True):
    """A list of the workshop: its columns with headings, and how it is read, written and kept.

    `home`: the blueprint that it is on.
    """

    key: str
    home: str
    title: str
    hint: str
    columns: tuple[str, ...]
    headings: tuple[str, ...]
    read: Callable[[str, Callable[[int], str]], Sequence[Any]]
    cells: Callable[[Any], Sequence[str]]
    kept: Callable[[Store], Sequence[Any]]
    save: Callable[[Store, Sequence[Any]], None]


class OpenRow(Struct, frozen=True):
    """What is open of a list: a row by its place, or `new`, with what was typed and its problem.

    `pasted`: rows that were pasted and could not be taken in.
    """

    place: str = ""
    cells: Cells = ()
    problem: str = ""
    pasted: str = ""


class ShownList(Struct, frozen=True):
    """A list as a page shows it: the columns that any row fills, the rows, and what is open."""

    kind: ListKind
    filled: tuple[int, ...]
    rows: tuple[Cells, ...]
    open: OpenRow

    @property
    def edited(self) -> Cells:
        """The cells of the open row: as typed, else as kept, else empty."""
        if self.open.cells:
            return self.open.cells
        place = self.open.place
        is_kept = place.isdecimal() and int(place) < len(self.rows)
        return self.rows[int(place)] if is_kept else [""] * len(self.kind.columns)

    @property
    def was(self) -> str:
        """The open row as it was kept, for a form to say which one it changes."""
        place = self.open.place
        is_kept = place.isdecimal() and int(place) < len(self.rows)
        return json.dumps(list(self.rows[int(place)])) if is_kept else ""


#: a page shown again, with what is open of a list by its key
Lay = Callable[[Mapping[str, OpenRow]], ResponseReturnValue]
NOTHING_OPEN: Mapping[str, OpenRow] = {}


def shown_lists(kinds: Sequence[ListKind], opened: Mapping[str, OpenRow]) -> list[ShownList]:
    """Each list with its rows; what the address opens, where nothing typed is open."""
    key, _, place = request.args.get("edit", "").partition(":")
    asked = {key: OpenRow(place)} if place == NEW or place.isdecimal() else {}
    return [_shown(kind, {**asked, **opened}.get(kind.key, OpenRow())) for kind in kinds]


def _shown(kind: ListKind, opened: OpenRow) -> ShownList:
    rows = tuple(tuple(kind.cells(row)) for row in kind.kept(store()))
    filled = tuple(n for n in range(len(kind.columns)) if any(row[n] for row in rows))
    return ShownList(kind, filled, rows, opened)


def add_lists(blueprint: Blueprint, kinds: Sequence[ListKind], lay: Lay, at: str) -> None:
    """Give a page its lists: a row saved, rows pasted, imported and exported under its address."""
    path = f"/<any({', '.join(kind.key for kind in kinds)}):key>"

    def kind_of(key: str) -> ListKind:
        return next(kind for kind in kinds if kind.key == key)

    def rerender(typed: FormState, code: int) -> ResponseReturnValue:
        kind = kind_of((request.view_args or {})["key"])
        return lay({kind.key: _refused(kind, typed)}), code  # type: ignore[return-value]

    def saved(key: str) -> ResponseReturnValue:
        return redirect(f"{at}?saved={key}#{key}", 303)

    def keep(kind: ListKind, rows: Sequence[Cells]) -> ResponseReturnValue:
        _keep(kind, rows)
        return saved(kind.key)

    @blueprint.post(f"{path}/row")
    @rerender_on_error(rerender)
    def save_row(key: str) -> ResponseReturnValue:
        return keep(kind_of(key), _with_sent_row(kind_of(key)))

    @blueprint.post(f"{path}/paste")
    @rerender_on_error(rerender)
    def paste(key: str) -> ResponseReturnValue:
        kind = kind_of(key)
        return keep(kind, [*_kept_rows(kind), *_pasted(kind, request.form.get("rows", ""))])

    @blueprint.post(f"{path}/import")
    @rerender_on_error(rerender)
    def import_list(key: str) -> ResponseReturnValue:
        kind = kind_of(key)
        kind.save(store(), kind.read(_headed(kind, _sent_text()), in_file))
        return saved(key)

    @blueprint.get(f"{path}.csv")
    def export_list(key: str) -> ResponseReturnValue:
        kind = kind_of(key)
        text = table_text(kind.columns, [kind.cells(row) for row in kind.kept(store())])
        return file_response(text, "text/csv", f"{key}.csv")


def _refused(kind: ListKind, typed: FormState) -> OpenRow:
    """What is open of a list once its form was refused: the row, or what was pasted."""
    problem = in_words(typed.problem(typed.form), kind.columns, kind.headings)
    cells = [str(typed.values.get(column, "")) for column in kind.columns]
    place = str(typed.values.get("row", ""))
    return OpenRow(place, cells if place else (), problem, str(typed.values.get("rows", "")))


def _kept_rows(kind: ListKind) -> list[list[str]]:
    return [list(kind.cells(row)) for row in kind.kept(store())]


def _keep(kind: ListKind, rows: Sequence[Cells]) -> None:
    if len(rows) > _MOST_ROWS:
        raise InputError(f"At most {_MOST_ROWS} rows.")
    kind.save(store(), kind.read(table_text(kind.columns, rows), in_table) if rows else [])


def _with_sent_row(kind: ListKind) -> list[list[str]]:
    """The list with the row that was sent: added, in the place of the one it was, or without it.

    Raises ConflictError where that row is another by now.
    """
    rows, place = _kept_rows(kind), request.form.get("row", "")
    cells = [request.form.get(column, "").strip() for column in kind.columns]
    if place == NEW:
        return [*rows, cells]
    number = int(place) if place.isdecimal() else len(rows)
    if number >= len(rows) or json.dumps(rows[number]) != request.form.get("was", ""):
        raise ConflictError("The list was changed meanwhile. Look at the row again.")
    rows[number : number + 1] = [] if request.form.get("do") == "remove" else [cells]
    return rows


def _sent_text() -> str:
    """The text of the file that was sent; raises InputError for none, and for what is no text."""
    _, data = sent_bytes("file", "CSV file", _MOST_BYTES)
    if not data:
        raise InputError("Choose a CSV file.")
    if len(data) > _MOST_BYTES:
        raise InputError("That file is too large for a list.")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InputError("That file is not text: save it as CSV in UTF-8.") from error


def _pasted(kind: ListKind, text: str) -> list[list[str]]:
    """Pasted rows as cells in the list's order; with a heading, or in the order of the table.

    Raises InputError for nothing, and for a row that has more cells than the table.
    """
    lines = [row for row in csv.reader(io.StringIO(text), dialect=dialect_of(text)) if any(row)]
    if not lines:
        raise InputError("Paste a row or more: cells apart by tabs, semicolons or commas.")
    names = [_column(kind, cell) for cell in lines[0]]
    columns = list(kind.columns)
    if any(names) and not any(re.fullmatch(r"[\d.,]+", cell.strip()) for cell in lines[0]):
        columns, lines = [name or "" for name in names], lines[1:]
    if any(len(row) > len(columns) for row in lines):
        raise InputError(f"A row has more than {len(columns)} cells.")
    rows = [dict(zip(columns, row, strict=False)) for row in lines]
    return [[row.get(column, "").strip() for column in kind.columns] for row in rows]


def _headed(kind: ListKind, text: str) -> str:
    """A file whose heading has the words of the table, with the columns' own names."""
    first, newline, rest = text.lstrip("\ufeff").partition("\n")
    cells = next(csv.reader([first], dialect=dialect_of(text)), [])
    out = io.StringIO()
    names = [_column(kind, cell) or cell for cell in cells]
    csv.writer(out, dialect=dialect_of(text), lineterminator="").writerow(names)
    return f"{out.getvalue()}{newline}{rest}"


def _column(kind: ListKind, heading: str) -> str:
    """The column that a heading means, by its own name or the table's word for it; "" for none."""
    word = heading.strip().lower()
    named = dict(zip((h.lower() for h in kind.headings), kind.columns, strict=True))
    return word if word in kind.columns else named.get(word, "")
