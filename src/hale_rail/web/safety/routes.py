"""Make safe: power logged, the guard passed by a reason."""

from __future__ import annotations

from flask.typing import ResponseReturnValue
from wtforms import BooleanField

from hale_rail.actions.safety import power
from hale_rail.stages.safety import safe
from hale_rail.web.form_base import CaseForm, PlacedField, TextField, at_most
from hale_rail.web.frame.case_page import (
    posted_stage,
    redirect_to_stage,
    rerender_on_error,
    rerender_stage,
    store,
)
from hale_rail.web.frame.stage_routes import stage_blueprint

blueprint = stage_blueprint(safe.STAGE)


class PowerForm(CaseForm):
    """Power applied, from somewhere, or removed; `despite`: although a part counts as failed."""

    event = PlacedField()
    source = PlacedField()
    despite = BooleanField()


class GuardForm(CaseForm):
    """The reason that passes the guard."""

    drawn = ("guard",)

    reason = TextField(
        "The reason; the log keeps it and the report shows it. “It has not been plugged in for "
        "months” is a reason, not a reading.",
        validators=[at_most(300)],
    )


@blueprint.post("/do/power", endpoint="power")
@rerender_on_error(rerender_stage)
def log_power(number: str) -> ResponseReturnValue:
    """Log power as applied or removed."""
    form = PowerForm.parsed()
    if form.event.data == "removed":
        power.remove_power(store(), number)
    else:
        source, despite = form.source.data, bool(form.despite.data)
        power.apply_power(store(), number, source, despite_failed=despite)
    return redirect_to_stage(number, posted_stage())


@blueprint.post("/do/guard")
@rerender_on_error(rerender_stage)
def guard(number: str) -> ResponseReturnValue:
    """Pass the guard with a written reason."""
    form = GuardForm.parsed()
    power.pass_guard(store(), number, form.reason.data)
    return redirect_to_stage(number, posted_stage(), form.at.data)
