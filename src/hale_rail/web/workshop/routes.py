"""The workshop: settings, and its lists as tables that can be edited, imported and exported."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from flask import Blueprint, redirect, render_template, request
from flask.typing import ResponseReturnValue
from wtforms.fields.choices import SelectChoice

from hale_rail.actions.workshop import workshop as actions
from hale_rail.case.workshop import workshop as known
from hale_rail.formats.workshop import meters_csv, ready_loads_csv, stock_csv
from hale_rail.store import sheets
from hale_rail.store.database import Store
from hale_rail.web import addresses
from hale_rail.web.form_base import FormState
from hale_rail.web.frame.case_page import rerender_on_error, store
from hale_rail.web.workshop.forms import SettingsForm, number
from hale_rail.web.workshop.lists import (
    NOTHING_OPEN,
    ListKind,
    OpenRow,
    add_lists,
    shown_lists,
)

blueprint = Blueprint("workshop", __name__, url_prefix="/workshop")
NONE: Mapping[str, Any] = {}


def _kept_meters(of: Store) -> Sequence[Any]:
    return list(known.meters(of).values())


LISTS = (
    ListKind(
        "resistors",
        "workshop",
        "Power resistors at hand, for bleeding and as loads",
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
        "loads",
        "workshop",
        "Ready-made loads, for first power",
        "kind is drive, lamp or electronic. A drive or a lamp draws its amperes at its own volts; "
        "an electronic load up to its volts and amperes. A load on two rails is two rows.",
        ready_loads_csv.COLUMNS,
        ready_loads_csv.HEADINGS,
        ready_loads_csv.read_loads,
        ready_loads_csv.cells,
        known.ready_loads,
        actions.save_ready_loads,
    ),
    ListKind(
        "meters",
        "workshop",
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


def rerender_settings(typed: FormState, code: int) -> ResponseReturnValue:
    """The page with the settings as typed."""
    form = SettingsForm()
    for name, text in typed.problems.items():
        if name in form:
            form[name].errors = [text]
    return _page(form), code


def rerender_pattern(typed: FormState, code: int) -> ResponseReturnValue:
    """The page with what is wrong with a pattern's file."""
    return _page(_kept_form(), problems={"patterns": typed.problem(typed.form)}), code


@blueprint.post("", endpoint="save")
@rerender_on_error(rerender_settings)
def save() -> ResponseReturnValue:
    """Save the settings."""
    form = SettingsForm.parsed()
    meter = form.meter.data
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


def _saved(what: str = "settings") -> ResponseReturnValue:
    return redirect(f"{addresses.workshop()}?saved={what}#{what}", 303)


def _page(
    form: SettingsForm,
    opened: Mapping[str, OpenRow] = NOTHING_OPEN,
    problems: Mapping[str, str] = NONE,
) -> str:
    meters = known.meters(store())
    listed = [SelectChoice(str(i), meter.name) for i, meter in meters.items()]
    form.meter.choices = [SelectChoice("", "a usual one"), *listed]
    return render_template(
        "workshop/page.html",
        form=form,
        lists=shown_lists(LISTS, opened),
        patterns=sheets.patterns(store().read()),
        problems=problems,
        saved=request.args.get("saved", ""),
    )


def _lay_lists(opened: Mapping[str, OpenRow]) -> str:
    return _page(_kept_form(), opened)


add_lists(blueprint, LISTS, _lay_lists, "/workshop")
