"""Lists of the workshop as tables that can be edited, imported and exported, on whatever page."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from flask import Blueprint, redirect, request
from flask.typing import ResponseReturnValue
from msgspec import Struct

from hale_rail.errors import InputError
from hale_rail.formats.tables.fields import in_file, in_table, table_text
from hale_rail.store.database import Store
from hale_rail.web.form_base import FormState
from hale_rail.web.frame.case_page import rerender_on_error, store
from hale_rail.web.uploads import file_response, sent_bytes
from hale_rail.web.workshop.forms import sent_rows

_MOST_BYTES = 256 * 1024
_SPARE_ROWS = 2
Rows = Sequence[Sequence[str]]
#: a page shown again: a list's rows as typed and what is wrong with them, by the list's key
Lay = Callable[[Mapping[str, Rows], Mapping[str, str]], ResponseReturnValue]


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


def shown_rows(kinds: Sequence[ListKind], typed: Mapping[str, Rows]) -> dict[str, Rows]:
    """Each list's rows, as typed where they were, and spare ones below."""
    return {
        kind.key: [
            *(typed.get(kind.key) or [kind.cells(row) for row in kind.kept(store())]),
            *[[""] * len(kind.columns)] * _SPARE_ROWS,
        ]
        for kind in kinds
    }


def add_lists(blueprint: Blueprint, kinds: Sequence[ListKind], lay: Lay, at: str) -> None:
    """Give a page its lists: saved, imported and exported at addresses of their own under it."""
    path = f"/<any({', '.join(kind.key for kind in kinds)}):key>"

    def kind_of(key: str) -> ListKind:
        return next(kind for kind in kinds if kind.key == key)

    def rerender(typed: FormState, code: int) -> ResponseReturnValue:
        key = (request.view_args or {})["key"]
        rows = {key: sent_rows(kind_of(key).columns)}
        return lay(rows, {key: typed.problem(typed.form)}), code  # type: ignore[return-value]

    def saved(key: str) -> ResponseReturnValue:
        return redirect(f"{at}?saved={key}#{key}", 303)

    @blueprint.post(path)
    @rerender_on_error(rerender)
    def save_list(key: str) -> ResponseReturnValue:
        kind = kind_of(key)
        rows = sent_rows(kind.columns)
        kind.save(store(), kind.read(table_text(kind.columns, rows), in_table) if rows else [])
        return saved(key)

    @blueprint.post(f"{path}/import")
    @rerender_on_error(rerender)
    def import_list(key: str) -> ResponseReturnValue:
        kind = kind_of(key)
        _, data = sent_bytes("file", "CSV file", _MOST_BYTES)
        if not data:
            raise InputError("Choose a CSV file.")
        if len(data) > _MOST_BYTES:
            raise InputError("That file is too large for a list.")
        try:
            text = data.decode("utf-8-sig")
        except UnicodeDecodeError as error:
            raise InputError("That file is not text: save it as CSV in UTF-8.") from error
        kind.save(store(), kind.read(text, in_file))
        return saved(key)

    @blueprint.get(f"{path}.csv")
    def export_list(key: str) -> ResponseReturnValue:
        kind = kind_of(key)
        text = table_text(kind.columns, [kind.cells(row) for row in kind.kept(store())])
        return file_response(text, "text/csv", f"{key}.csv")
