"""The screen of first power: the plan chosen, each step begun, done, stopped."""

from __future__ import annotations

from flask.typing import ResponseReturnValue

from hale_rail.actions.power import first_power as actions
from hale_rail.stages.power import first_power
from hale_rail.web.frame.case_page import relay_stage, relays, store, then
from hale_rail.web.frame.stage_routes import stage_blueprint
from hale_rail.web.power.forms import PowerPlanForm, PowerStepForm

blueprint = stage_blueprint(first_power.STAGE)


@blueprint.post("/do/power-plan", endpoint="power-plan")
@relays(relay_stage)
def plan(number: str) -> ResponseReturnValue:
    """Choose limiter and loads."""
    actions.choose(store(), number, PowerPlanForm.parsed().chosen())
    return then(number, first_power.STAGE)


@blueprint.post("/do/power-on", endpoint="power-on")
@relays(relay_stage)
def begin(number: str) -> ResponseReturnValue:
    """Power on for a step."""
    form = PowerStepForm.parsed()
    actions.begin(store(), number, form.step.data or "", reason=form.reason.data or "")
    return then(number, first_power.STAGE)


@blueprint.post("/do/power-done", endpoint="power-done")
@relays(relay_stage)
def finish(number: str) -> ResponseReturnValue:
    """Plug out, the step done."""
    actions.finish(store(), number, PowerStepForm.parsed().step.data or "")
    return then(number, first_power.STAGE)


@blueprint.post("/do/power-stop", endpoint="power-stop")
@relays(relay_stage)
def stop(number: str) -> ResponseReturnValue:
    """Plug out, because a stop condition is met."""
    form = PowerStepForm.parsed()
    actions.stop(store(), number, form.step.data or "", form.stop.data or "")
    return then(number, first_power.STAGE)


@blueprint.post("/do/power-blame", endpoint="power-blame")
@relays(relay_stage)
def blame(number: str) -> ResponseReturnValue:
    """Say which part or board a stop came from."""
    form = PowerStepForm.parsed()
    actions.blame(store(), number, form.step.data or "", form.part.data or 0)
    return then(number, first_power.STAGE)


@blueprint.post("/do/power-clear", endpoint="power-clear")
@relays(relay_stage)
def clear(number: str) -> ResponseReturnValue:
    """Say what a stop came from."""
    form = PowerStepForm.parsed()
    actions.clear(store(), number, form.step.data or "", form.found.data or "")
    return then(number, first_power.STAGE)
