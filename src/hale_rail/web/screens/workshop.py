"""The workshop: settings, and its lists as tables that can be edited, imported and exported."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, Response, redirect, render_template, request
from flask.typing import ResponseReturnValue
from wtforms.fields.choices import SelectChoice

from hale_rail.actions import workshop as actions
from hale_rail.case import workshop as known
from hale_rail.errors import InputError
from hale_rail.formats import meters_csv, stock_csv
from hale_rail.formats.fields import table_text
from hale_rail.store.database import Store
from hale_rail.web import addresses
from hale_rail.web.forms.base import Typed
from hale_rail.web.forms.workshop import ListRow, SettingsForm, number, sent_rows
from hale_rail.web.frame import relays, store

blueprint = Blueprint("workshop", __name__, url_prefix="/workshop")
_MOST_BYTES = 256 * 1024
_SPARE_ROWS = 2


@dataclass(frozen=True)
class ListKind:
    """A list of the workshop: its columns with headings, and how it is read, written and kept."""

    key: str
    title: str
    hint: str
    columns: tuple[str, ...]
    headings: tuple[str, ...]
    read: Callable[[str], Sequence[Any]]
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
        ("Ω", "W", "kind", "most V"),
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
        ("name", "C at Hz", "ESR at Hz", "C %", "ESR %", "ESR + Ω", "leads Ω", "least C"),
        meters_csv.read_meters,
        meters_csv.cells,
        _kept_meters,
        actions.save_meters,
    ),
)


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
    kind = _list((request.endpoint or "").rpartition(".")[2].removeprefix("import_"))
    rows = [ListRow(row) for row in sent_rows(kind.columns)] or None
    return _page(_kept_form(), {kind.key: rows}, {kind.key: typed.problem(typed.form)}), code


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


@blueprint.post("/resistors", endpoint="resistors")
@relays(relay_list)
def save_resistors() -> ResponseReturnValue:
    """Save the table of resistors."""
    return _save_rows(_list("resistors"))


@blueprint.post("/meters", endpoint="meters")
@relays(relay_list)
def save_meters() -> ResponseReturnValue:
    """Save the table of meters."""
    return _save_rows(_list("meters"))


def _save_rows(kind: ListKind) -> ResponseReturnValue:
    rows = sent_rows(kind.columns)
    kind.save(store(), kind.read(table_text(kind.columns, rows)) if rows else [])
    return _saved(kind.key)


@blueprint.post("/resistors/import", endpoint="import_resistors")
@relays(relay_list)
def import_resistors() -> ResponseReturnValue:
    """Take the resistors of a file in place of the list."""
    return _import(_list("resistors"))


@blueprint.post("/meters/import", endpoint="import_meters")
@relays(relay_list)
def import_meters() -> ResponseReturnValue:
    """Take the meters of a file in place of the list."""
    return _import(_list("meters"))


def _import(kind: ListKind) -> ResponseReturnValue:
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
    kind.save(store(), kind.read(text))
    return _saved(kind.key)


@blueprint.get("/resistors.csv", endpoint="resistors_csv")
def export_resistors() -> ResponseReturnValue:
    """The resistors as a file."""
    return _export(_list("resistors"))


@blueprint.get("/meters.csv", endpoint="meters_csv")
def export_meters() -> ResponseReturnValue:
    """The meters as a file."""
    return _export(_list("meters"))


def _export(kind: ListKind) -> ResponseReturnValue:
    text = table_text(kind.columns, [kind.cells(row) for row in kind.kept(store())])
    return Response(
        text,
        mimetype="text/csv",
        headers={"Content-Disposition": f'attachment; filename="{kind.key}.csv"'},
    )


def _saved(what: str = "settings") -> ResponseReturnValue:
    return redirect(f"{addresses.workshop()}?saved={what}#{what}", 303)


def _page(
    form: SettingsForm,
    typed_rows: dict[str, list[ListRow] | None] | None = None,
    problems: dict[str, str] | None = None,
) -> str:
    meters = known.meters(store())
    listed = [SelectChoice(str(i), meter.name) for i, meter in meters.items()]
    form.meter.choices = [SelectChoice("", "a usual one"), *listed]
    rows = {}
    for kind in LISTS:
        typed = (typed_rows or {}).get(kind.key)
        kept = [ListRow(tuple(kind.cells(row))) for row in kind.kept(store())]
        rows[kind.key] = (typed or kept) + [ListRow(("",) * len(kind.columns))] * _SPARE_ROWS
    return render_template(
        "workshop/page.html",
        form=form,
        lists=LISTS,
        rows=rows,
        problems=problems or {},
        saved=request.args.get("saved", ""),
    )
