"""The workshop's settings: touch limit, defaults, and the stock of power resistors."""

from __future__ import annotations

from flask import Blueprint, current_app, redirect, render_template, request
from flask.typing import ResponseReturnValue

from hale_rail.actions import casebook
from hale_rail.core.rails.judge import Tolerance
from hale_rail.core.recap.demand import School
from hale_rail.errors import InputError
from hale_rail.formats.meters_csv import choose, read_meters
from hale_rail.formats.stock_csv import read_stock
from hale_rail.web import addresses

blueprint = Blueprint("workshop", __name__, url_prefix="/workshop")

TOUCH_LIMITS = ("60", "30")
_NUMBERS = {
    "hours_a_day": (0.0, 24.0, "Hours a day, 0 to 24."),
    "core_c": (0.0, 125.0, "Degrees, 0 to 125."),
}


@blueprint.get("")
def page() -> ResponseReturnValue:
    return _form(casebook.workshop(current_app.config["STORE"]), {})


@blueprint.post("")
def save() -> ResponseReturnValue:
    names = ("touch_limit_v", "school", "tolerance", "hours_a_day", "core_c", "resistors",
             "meters", "meter")  # fmt: skip
    typed = {name: request.form.get(name, "").strip() for name in names}
    wrong = {}
    if typed["touch_limit_v"] not in TOUCH_LIMITS:
        wrong["touch_limit_v"] = "60 V, or 30 V where the workshop wants it lower."
    if typed["school"] not in [s.value for s in School]:
        wrong["school"] = "Choose a school."
    if typed["tolerance"] not in [t.value for t in Tolerance]:
        wrong["tolerance"] = "Choose strict or lenient."
    for name, (low, high, text) in _NUMBERS.items():
        try:
            if not low <= float(typed[name].replace(",", ".")) <= high:
                wrong[name] = text
            typed[name] = typed[name].replace(",", ".")
        except ValueError:
            wrong[name] = text
    try:
        if typed["meters"]:
            read_meters(typed["meters"])
        choose(typed["meters"], typed["meter"])
    except InputError as error:
        wrong["meters"] = str(error)
    if typed["resistors"]:
        try:
            read_stock(typed["resistors"])
        except InputError as error:
            wrong["resistors"] = str(error)
    if wrong:
        return _form(typed, wrong), 422
    casebook.save_workshop(current_app.config["STORE"], typed)
    return redirect(addresses.workshop() + "?saved=1", 303)


def _form(typed: dict[str, str], wrong: dict[str, str]) -> str:
    return render_template(
        "workshop/page.html",
        typed=typed,
        wrong=wrong,
        saved="saved" in request.args,
        limits=TOUCH_LIMITS,
        schools=list(School),
        tolerances=list(Tolerance),
    )
