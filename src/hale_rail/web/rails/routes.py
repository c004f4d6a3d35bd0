"""The screen of the rails; readings are taken by the tray, or beside the trimmer."""

from __future__ import annotations

from flask import render_template, request
from flask.typing import ResponseReturnValue

from hale_rail.actions.rails import rails as actions
from hale_rail.actions.readings import understood
from hale_rail.case.rails.rails import rail_reading_of
from hale_rail.core.procedures import parse_point
from hale_rail.errors import InputError, NotFoundError
from hale_rail.stages.rails import rails
from hale_rail.web.frame.case_page import (
    case_of,
    store,
)
from hale_rail.web.frame.stage_routes import stage_blueprint
from hale_rail.web.rails.forms import PowerGoodForm

blueprint = stage_blueprint(rails.STAGE)


@blueprint.get("/trim")
def trim(number: str) -> ResponseReturnValue:
    """The trimming aid's figure for what is typed; nothing is saved."""
    case, text = case_of(number), request.args.get("text", "")
    try:
        point = parse_point(request.args.get("at", ""))
        meant = understood(case, point, text)
    except (InputError, NotFoundError) as error:
        problem = str(error) if text.strip() else ""
        return render_template("rails/_trim_figure.html", trim=None, problem=problem)
    rail = case.sheet.rail(point.target.rail)
    trim = None
    if rail:
        typed = rail_reading_of(case, rail, point, meant)
        trim = rails.trim_of(case, rail, point.condition, typed)
    return render_template("rails/_trim_figure.html", trim=trim, problem="")


@blueprint.form("power-good", PowerGoodForm)
def power_good(number: str, form: PowerGoodForm) -> None:
    """Say what the power-good line did."""
    actions.say_power_good(
        store(), number, form.after.data, is_low=form.low.data == "yes",
        volts=form.volts.data,
    )  # fmt: skip
