"""Recap: the list by school with its plan, positions with their candidates, the list as a file."""

from __future__ import annotations

from flask import request
from flask.typing import ResponseReturnValue

from hale_rail.actions.recap import recap as actions
from hale_rail.case.recap import plans
from hale_rail.case.recap.demands import ASKED, OLD_CAN
from hale_rail.case.recap.recap import others, recap_lines
from hale_rail.core.recap.demand import SCHOOLS
from hale_rail.core.recap.needs import Mount, Role
from hale_rail.formats.plans.recap_csv import write_recap
from hale_rail.formats.units.rated_fields import RATED_COLUMNS
from hale_rail.stages.recap import position, recap
from hale_rail.stages.recap.recap import build_words
from hale_rail.web.form_base import CaseForm
from hale_rail.web.frame.case_page import (
    case_of,
    store,
)
from hale_rail.web.frame.stage_routes import Onward, stage_blueprint
from hale_rail.web.recap.forms import BoardForm, ChooseForm, DemandForm, NamedForm, RatingsForm
from hale_rail.web.uploads import file_response

blueprint = stage_blueprint(recap.STAGE)
position_blueprint = stage_blueprint(position.STAGE)
#: what its templates call and name
TOOLS = {
    "roles": tuple(Role),
    "mounts": tuple(Mount),
    "asked_fields": (*ASKED, *OLD_CAN),
    "build_words": build_words,
}


@blueprint.get("/recap.csv")
def as_csv(number: str) -> ResponseReturnValue:
    """The list of the school asked for, else of the case's own."""
    case = case_of(number)
    school = SCHOOLS.get(request.args.get("by", ""), case.school)
    text = write_recap(recap_lines(case, school), others(case))
    return file_response(text, "text/csv", f"{case.number}-recap.csv")


@blueprint.form("stop-plan", CaseForm)
def stop_plan(number: str, form: CaseForm) -> Onward:
    """End the plan that is computed."""
    plans.stop(store(), plans.case_plan(case_of(number)))
    return Onward(by=form.by.data)


@blueprint.form("plan-again", CaseForm)
def plan_again(number: str, form: CaseForm) -> Onward:
    """Compute a stopped plan again."""
    plans.again(store(), plans.case_plan(case_of(number)))
    return Onward(by=form.by.data)


@blueprint.form("tantalum", BoardForm)
def tantalum(number: str, form: BoardForm) -> Onward:
    """Say whether tantalums are replaced by tantalum or by aluminium."""
    actions.say_of_board(store(), number, "", {"tantalum": form.tantalum.data})
    return Onward(by=form.by.data)


@blueprint.form("named", NamedForm)
def named(number: str, form: NamedForm) -> Onward:
    """Name what is bought for a part that no list matches."""
    actions.name_part(store(), number, form.part.data, form.named.data)
    return Onward(by=form.by.data)


@position_blueprint.form("demand", DemandForm)
def demand(number: str, form: DemandForm) -> Onward:
    """Say what a position asks."""
    typed = {name: form[name].data for name, _ in (*ASKED, *OLD_CAN)}
    part = form.part.data
    actions.save_demand(store(), number, part, {**typed, "role": form.role.data})
    return Onward(str(part))


@position_blueprint.form("ratings", RatingsForm)
def ratings(number: str, form: RatingsForm) -> Onward:
    """Say what a part that is not a capacitor is rated for."""
    typed = {name: form[name].data for name in ("value", "voltage", *RATED_COLUMNS)}
    part = form.part.data
    actions.save_ratings(store(), number, part, typed)
    return Onward(str(part))


@position_blueprint.form("choose", ChooseForm)
def choose(number: str, form: ChooseForm) -> Onward:
    """Choose a part number for a position, or leave it to the order."""
    actions.choose_part(store(), number, form.part.data, form.sku.data)
    return Onward(str(form.part.data or ""))
