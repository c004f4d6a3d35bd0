"""Where to look next: symptoms, results and beliefs said."""

from __future__ import annotations

from flask.typing import ResponseReturnValue

from hale_rail.actions.diagnosis import diagnosis as actions
from hale_rail.stages.diagnosis import diagnosis
from hale_rail.web.form_base import CaseForm, PlacedField
from hale_rail.web.frame.case_page import (
    redirect_to_stage,
    rerender_on_error,
    rerender_stage,
    store,
)
from hale_rail.web.frame.stage_routes import stage_blueprint

blueprint = stage_blueprint(diagnosis.STAGE)


class FindForm(CaseForm):
    """A symptom, a test's result or a belief."""

    kind = PlacedField()
    key = PlacedField()
    value = PlacedField()


@blueprint.post("/do/find")
@rerender_on_error(rerender_stage)
def find(number: str) -> ResponseReturnValue:
    """Say a symptom, a test's result or a belief, or take it back."""
    form = FindForm.parsed()
    actions.say(store(), number, form.kind.data, form.key.data, form.value.data)
    return redirect_to_stage(number, diagnosis.STAGE)
