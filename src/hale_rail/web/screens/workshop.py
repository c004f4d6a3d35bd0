"""The workshop: settings, and its lists as tables that can be edited, imported and exported."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, Response, redirect, render_template, request
from flask.typing import ResponseReturnValue
from wtforms.fields.choices import SelectChoice

from hale_rail.actions import workshop as actions
from hale_rail.case import workshop as known
from hale_rail.errors import InputError
from hale_rail.formats import meters_csv, stock_csv
from hale_rail.formats.fields import in_file, in_table, table_text
from hale_rail.store import sheets
from hale_rail.store.database import Store
from hale_rail.web import addresses
from hale_rail.web.forms.base import Typed
from hale_rail.web.forms.workshop import SettingsForm, number, sent_rows
from hale_rail.web.frame import relays, store

blueprint = Blueprint("workshop", __name__, url_prefix="/workshop")
_MOST_BYTES = 256 * 1024
_SPARE_ROWS = 2
NONE: Mapping[str, Any] = {}


@dataclass(frozen=True)
class ListKind:
    """A list of the workshop: its columns with headings, and how it is read, written and kept."""

    key: str
    title: str
    hint: str
    columns: tuple[str, ...]
    headings: tuple[str, ...]
    read: Callable[[str, Callable[[int], str]], Sequence[Any]]
    cells: Callable[[Any], Sequence[str]]
    kept: Callable[[Store], Sequence[Any]]
    save: Callable[[Store, Sequence[Any]], None]


def _kept_meters(of: Store) -> Sequence[Any]:
    return list(known.meters(of).values())


LISTS = (
    ListKind(
        "resistors",
        "Power resistors at hand, for bleeding",
        "wirewound takes five times its rating for up to five seconds; film never more than its "
        "rating.",
        stock_csv.COLUMNS,
        stock_csv.HEADINGS,
        stock_csv.read_stock,
        stock_csv.cells,
        known.resistors,
        actions.save_resistors,
    ),
    ListKind(
        "meters",
        "ESR and LCR meters",
        "An empty cell is a usual meter's figure. Leads are taken off every ESR reading before it "
        "is judged; below the least C an ESR reading is none. A reading keeps its meter as it was "
        "described that day.",
        meters_csv.COLUMNS,
        meters_csv.HEADINGS,
        meters_csv.read_meters,
        meters_csv.cells,
        _kept_meters,
        actions.save_meters,
    ),
)


_KEY = f"<any({', '.join(kind.key for kind in LISTS)}):key>"


def _list(key: str) -> ListKind:
    return next(kind for kind in LISTS if kind.key == key)


@blueprint.get("")
def page() -> ResponseReturnValue:
    """Settings and lists as they are kept."""
    return _page(_kept_form())


def _kept_form() -> SettingsForm:
    usual = known.workshop(store())
    return SettingsForm(
        formdata=None,
        touch_limit_v=f"{usual.touch_limit_v:g}",
        school=usual.school.code,
        tolerance=usual.tolerance.value,
        hours_a_day=f"{usual.use.hours_a_day:g}",
        core_c=f"{usual.use.core_c:g}",
        meter=str(usual.meter_id or ""),
    )


def relay_settings(typed: Typed, code: int) -> ResponseReturnValue:
    """The page with the settings as typed."""
    form = SettingsForm()
    for name, text in typed.problems.items():
        if name in form:
            form[name].errors = [text]
    return _page(form), code


def relay_list(typed: Typed, code: int) -> ResponseReturnValue:
    """The page with the list as typed, and what is wrong with it."""
    key = (request.view_args or {})["key"]
    typed_rows = {key: sent_rows(_list(key).columns)}
    return _page(_kept_form(), typed_rows, {key: typed.problem(typed.form)}), code


def relay_pattern(typed: Typed, code: int) -> ResponseReturnValue:
    """The page with what is wrong with a pattern's file."""
    return _page(_kept_form(), problems={"patterns": typed.problem(typed.form)}), code


@blueprint.post("", endpoint="save")
@relays(relay_settings)
def save() -> ResponseReturnValue:
    """Save the settings."""
    form = SettingsForm.parsed()
    meter = form.meter.data or ""
    actions.save_settings(
        store(),
        touch_limit_v=number(form, "touch_limit_v"),
        school=form.school.data,
        tolerance=form.tolerance.data,
        hours_a_day=number(form, "hours_a_day"),
        core_c=number(form, "core_c"),
        meter_id=int(meter) if meter.isdecimal() and len(meter) < 15 else None,
    )
    return _saved()


@blueprint.post(f"/{_KEY}")
@relays(relay_list)
def save_list(key: str) -> ResponseReturnValue:
    """Save a list as edited in its table."""
    kind = _list(key)
    rows = sent_rows(kind.columns)
    kind.save(store(), kind.read(table_text(kind.columns, rows), in_table) if rows else [])
    return _saved(key)


@blueprint.post(f"/{_KEY}/import")
@relays(relay_list)
def import_list(key: str) -> ResponseReturnValue:
    """Take the rows of a file in place of a list."""
    upload = request.files.get("file")
    data = upload.read(_MOST_BYTES + 1) if upload else b""
    if not data:
        raise InputError("Choose a CSV file.")
    if len(data) > _MOST_BYTES:
        raise InputError("That file is too large for a list.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InputError("That file is no text: save it as CSV in UTF-8.") from error
    kind = _list(key)
    kind.save(store(), kind.read(text, in_file))
    return _saved(key)


@blueprint.get(f"/{_KEY}.csv")
def export_list(key: str) -> ResponseReturnValue:
    """A list as a file."""
    kind = _list(key)
    text = table_text(kind.columns, [kind.cells(row) for row in kind.kept(store())])
    return Response(
        text,
        mimetype="text/csv",
        headers={"Content-Disposition": f'attachment; filename="{key}.csv"'},
    )


def _saved(what: str = "settings") -> ResponseReturnValue:
    return redirect(f"{addresses.workshop()}?saved={what}#{what}", 303)


def _page(
    form: SettingsForm,
    typed_rows: Mapping[str, Sequence[Sequence[str]]] = NONE,
    problems: Mapping[str, str] = NONE,
) -> str:
    meters = known.meters(store())
    listed = [SelectChoice(str(i), meter.name) for i, meter in meters.items()]
    form.meter.choices = [SelectChoice("", "a usual one"), *listed]
    rows = {}
    for kind in LISTS:
        shown = typed_rows.get(kind.key) or [kind.cells(row) for row in kind.kept(store())]
        rows[kind.key] = [*shown, *[[""] * len(kind.columns)] * _SPARE_ROWS]
    return render_template(
        "workshop/page.html",
        form=form,
        lists=LISTS,
        rows=rows,
        patterns=sheets.patterns(store().read()),
        problems=problems,
        saved=request.args.get("saved", ""),
    )
