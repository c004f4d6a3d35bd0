"""A case that waits for parts, and that they came."""

from __future__ import annotations

from hale_rail.actions.intake import waiting
from hale_rail.stages.recap import recap
from hale_rail.web.form_base import CaseForm, TextField, at_most
from hale_rail.web.frame.case_page import posted_stage, store
from hale_rail.web.frame.stage_routes import Onward, StageBlueprint

blueprint = StageBlueprint("waiting")


class WaitForm(CaseForm):
    """The day up to which a case waits, and for what."""

    drawn = ("wait",)

    until = TextField("Waits for parts until", validators=[at_most(10)])
    what = TextField("For what", validators=[at_most(80)])


@blueprint.form("wait", WaitForm)
def wait(number: str, form: WaitForm) -> Onward:
    """Have the case wait for parts."""
    waiting.wait(store(), [number], form.until.data, form.what.data)
    return Onward(form.at.data, stage=posted_stage())


@blueprint.form("arrived", CaseForm)
def arrived(number: str, _: CaseForm) -> Onward:
    """End the wait; what comes then is the recap."""
    waiting.arrived(store(), number)
    return Onward(stage=recap.STAGE)
