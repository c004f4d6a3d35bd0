"""The screen of first power: the plan chosen, each step begun, done, stopped."""

from __future__ import annotations

from hale_rail.actions.power import first_power as actions
from hale_rail.core.power.machine_behaviour import Did
from hale_rail.stages.power import first_power
from hale_rail.web.frame.case_page import (
    store,
)
from hale_rail.web.frame.stage_routes import stage_blueprint
from hale_rail.web.power.forms import PowerPlanForm, PowerStepForm

blueprint = stage_blueprint(first_power.STAGE)
#: what its templates name
TOOLS = {"dids": tuple(Did)}


@blueprint.form("power-plan", PowerPlanForm)
def plan(number: str, form: PowerPlanForm) -> None:
    """Choose limiter and loads."""
    actions.choose(store(), number, form.chosen())


@blueprint.form("power-on", PowerStepForm)
def begin(number: str, form: PowerStepForm) -> None:
    """Power on for a step."""
    actions.begin(store(), number, form.step.data, reason=form.reason.data)


@blueprint.form("power-done", PowerStepForm)
def finish(number: str, form: PowerStepForm) -> None:
    """Plug out, the step done."""
    actions.finish(store(), number, form.step.data)


@blueprint.form("power-stop", PowerStepForm)
def stop(number: str, form: PowerStepForm) -> None:
    """Plug out, because a stop condition is met."""
    actions.stop(store(), number, form.step.data, form.stop.data)


@blueprint.form("power-blame", PowerStepForm)
def blame(number: str, form: PowerStepForm) -> None:
    """Say which part or board a stop came from."""
    actions.blame(store(), number, form.step.data, form.part.data)


@blueprint.form("power-clear", PowerStepForm)
def clear(number: str, form: PowerStepForm) -> None:
    """Say what a stop came from."""
    actions.clear(store(), number, form.step.data, form.found.data)
