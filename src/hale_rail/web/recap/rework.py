"""Rework: what is done at each position, taken back by strike."""

from __future__ import annotations

from flask.typing import ResponseReturnValue

from hale_rail.actions.recap import recap as notes
from hale_rail.actions.recap import rework as actions
from hale_rail.stages.recap import rework
from hale_rail.web.frame.case_page import (
    redirect_to_stage,
    rerender_on_error,
    rerender_stage,
    store,
)
from hale_rail.web.frame.stage_routes import stage_blueprint
from hale_rail.web.recap.forms import BoardForm, StepForm

blueprint = stage_blueprint(rework.STAGE)


@blueprint.post("/do/step")
@rerender_on_error(rerender_stage)
def step(number: str) -> ResponseReturnValue:
    """Note one thing done at a position; when that was the last, the next position follows."""
    form = StepForm.parsed()
    actions.step(store(), number, form.part.data, form.act.data)
    is_last = form.act.data == "looked"
    return redirect_to_stage(number, rework.STAGE, by="" if is_last else str(form.part.data))


@blueprint.post("/do/take-another", endpoint="take-another")
@rerender_on_error(rerender_stage)
def take_another(number: str) -> ResponseReturnValue:
    """Lay a new part aside that reads bad."""
    form = StepForm.parsed()
    actions.take_another(store(), number, form.part.data)
    return redirect_to_stage(number, rework.STAGE, by=str(form.part.data or ""))


@blueprint.post("/do/strike-step", endpoint="strike-step")
@rerender_on_error(rerender_stage)
def strike_step(number: str) -> ResponseReturnValue:
    """Take a step back."""
    form = StepForm.parsed()
    actions.strike(store(), number, form.step.data)
    return redirect_to_stage(number, rework.STAGE, by=str(form.part.data or ""))


@blueprint.post("/do/after")
@rerender_on_error(rerender_stage)
def after(number: str) -> ResponseReturnValue:
    """Note what was done to the whole board."""
    actions.after(store(), number, StepForm.parsed().act.data)
    return redirect_to_stage(number, rework.STAGE)


@blueprint.post("/do/method")
@rerender_on_error(rerender_stage)
def method(number: str) -> ResponseReturnValue:
    """Say how parts are taken out of a board."""
    form = BoardForm.parsed()
    fields = {"method": form.method.data, "plane": form.plane.data}
    notes.say_of_board(store(), number, form.board.data, fields)
    return redirect_to_stage(number, rework.STAGE, by=form.by.data)
