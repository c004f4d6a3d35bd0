"""Make safe: power logged, the guard passed by a reason."""

from __future__ import annotations

from wtforms import BooleanField

from hale_rail.actions.safety import power
from hale_rail.stages.safety import safe
from hale_rail.web.form_base import CaseForm, PlacedField, TextField, at_most
from hale_rail.web.frame.case_page import (
    posted_stage,
    store,
)
from hale_rail.web.frame.stage_routes import Onward, stage_blueprint

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


@blueprint.form("power", PowerForm)
def log_power(number: str, form: PowerForm) -> Onward:
    """Log power as applied or removed."""
    if form.event.data == "removed":
        power.remove_power(store(), number)
    else:
        source, despite = form.source.data, bool(form.despite.data)
        power.apply_power(store(), number, source, despite_failed=despite)
    return Onward(stage=posted_stage())


@blueprint.form("guard", GuardForm)
def guard(number: str, form: GuardForm) -> Onward:
    """Pass the guard with a written reason."""
    power.pass_guard(store(), number, form.reason.data)
    return Onward(form.at.data, stage=posted_stage())
