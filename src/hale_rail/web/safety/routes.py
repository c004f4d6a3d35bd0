"""Make safe: power logged, the guard passed by a reason."""

from __future__ import annotations

from flask.typing import ResponseReturnValue

from hale_rail.actions.safety import power
from hale_rail.stages.safety import safe
from hale_rail.web.frame.case_page import posted_stage, relay_stage, relays, store, then
from hale_rail.web.frame.stage_routes import stage_blueprint
from hale_rail.web.safety.forms import GuardForm, PowerForm

blueprint = stage_blueprint(safe.STAGE)


@blueprint.post("/do/power", endpoint="power")
@relays(relay_stage)
def log_power(number: str) -> ResponseReturnValue:
    """Log power as applied or removed."""
    form = PowerForm.parsed()
    if form.event.data == "removed":
        power.remove_power(store(), number)
    else:
        source, despite = form.source.data or "", bool(form.despite.data)
        power.apply_power(store(), number, source, despite_failed=despite)
    return then(number, posted_stage())


@blueprint.post("/do/guard")
@relays(relay_stage)
def guard(number: str) -> ResponseReturnValue:
    """Pass the guard with a written reason."""
    form = GuardForm.parsed()
    power.pass_guard(store(), number, form.reason.data)
    return then(number, posted_stage(), form.at.data)
