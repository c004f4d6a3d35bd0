"""Rework: what is done at each position, taken back by strike."""

from __future__ import annotations

from hale_rail.actions.recap import recap as notes
from hale_rail.actions.recap import rework as actions
from hale_rail.stages.recap import rework
from hale_rail.web.frame.case_page import (
    store,
)
from hale_rail.web.frame.stage_routes import Onward, stage_blueprint
from hale_rail.web.recap.forms import BoardForm, StepForm

blueprint = stage_blueprint(rework.STAGE)


@blueprint.form("step", StepForm)
def step(number: str, form: StepForm) -> Onward:
    """Note one thing done at a position; when that was the last, the next position follows."""
    actions.step(store(), number, form.part.data, form.act.data)
    is_last = form.act.data == "looked"
    return Onward(by="" if is_last else str(form.part.data))


@blueprint.form("take-another", StepForm)
def take_another(number: str, form: StepForm) -> Onward:
    """Lay a new part aside that reads bad."""
    actions.take_another(store(), number, form.part.data)
    return Onward(by=str(form.part.data or ""))


@blueprint.form("strike-step", StepForm)
def strike_step(number: str, form: StepForm) -> Onward:
    """Take a step back."""
    actions.strike(store(), number, form.step.data)
    return Onward(by=str(form.part.data or ""))


@blueprint.form("after", StepForm)
def after(number: str, form: StepForm) -> None:
    """Note what was done to the whole board."""
    actions.after(store(), number, form.act.data)


@blueprint.form("method", BoardForm)
def method(number: str, form: BoardForm) -> Onward:
    """Say how parts are taken out of a board."""
    fields = {"method": form.method.data, "plane": form.plane.data}
    notes.say_of_board(store(), number, form.board.data, fields)
    return Onward(by=form.by.data)
