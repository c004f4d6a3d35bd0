"""The screen of first power: the plan chosen, each step begun, done, stopped."""

from __future__ import annotations

from flask.typing import ResponseReturnValue

from hale_rail.actions.power import first_power as actions
from hale_rail.core.power.machine_behaviour import Did
from hale_rail.stages.power import first_power
from hale_rail.web.frame.case_page import (
    redirect_to_stage,
    rerender_on_error,
    rerender_stage,
    store,
)
from hale_rail.web.frame.stage_routes import stage_blueprint
from hale_rail.web.power.forms import PowerPlanForm, PowerStepForm

blueprint = stage_blueprint(first_power.STAGE)
#: what its templates name
TOOLS = {"dids": tuple(Did)}


@blueprint.post("/do/power-plan", endpoint="power-plan")
@rerender_on_error(rerender_stage)
def plan(number: str) -> ResponseReturnValue:
    """Choose limiter and loads."""
    actions.choose(store(), number, PowerPlanForm.parsed().chosen())
    return redirect_to_stage(number, first_power.STAGE)


@blueprint.post("/do/power-on", endpoint="power-on")
@rerender_on_error(rerender_stage)
def begin(number: str) -> ResponseReturnValue:
    """Power on for a step."""
    form = PowerStepForm.parsed()
    actions.begin(store(), number, form.step.data, reason=form.reason.data)
    return redirect_to_stage(number, first_power.STAGE)


@blueprint.post("/do/power-done", endpoint="power-done")
@rerender_on_error(rerender_stage)
def finish(number: str) -> ResponseReturnValue:
    """Plug out, the step done."""
    actions.finish(store(), number, PowerStepForm.parsed().step.data)
    return redirect_to_stage(number, first_power.STAGE)


@blueprint.post("/do/power-stop", endpoint="power-stop")
@rerender_on_error(rerender_stage)
def stop(number: str) -> ResponseReturnValue:
    """Plug out, because a stop condition is met."""
    form = PowerStepForm.parsed()
    actions.stop(store(), number, form.step.data, form.stop.data)
    return redirect_to_stage(number, first_power.STAGE)


@blueprint.post("/do/power-blame", endpoint="power-blame")
@rerender_on_error(rerender_stage)
def blame(number: str) -> ResponseReturnValue:
    """Say which part or board a stop came from."""
    form = PowerStepForm.parsed()
    actions.blame(store(), number, form.step.data, form.part.data)
    return redirect_to_stage(number, first_power.STAGE)


@blueprint.post("/do/power-clear", endpoint="power-clear")
@rerender_on_error(rerender_stage)
def clear(number: str) -> ResponseReturnValue:
    """Say what a stop came from."""
    form = PowerStepForm.parsed()
    actions.clear(store(), number, form.step.data, form.found.data)
    return redirect_to_stage(number, first_power.STAGE)
