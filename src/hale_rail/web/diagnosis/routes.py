"""Where to look next: symptoms, results and beliefs said."""

from __future__ import annotations

from hale_rail.actions.diagnosis import diagnosis as actions
from hale_rail.stages.diagnosis import diagnosis
from hale_rail.web.form_base import CaseForm, PlacedField
from hale_rail.web.frame.case_page import (
    store,
)
from hale_rail.web.frame.stage_routes import stage_blueprint

blueprint = stage_blueprint(diagnosis.STAGE)


class FindForm(CaseForm):
    """A symptom, a test's result or a belief."""

    kind = PlacedField()
    key = PlacedField()
    value = PlacedField()


@blueprint.form("find", FindForm)
def find(number: str, form: FindForm) -> None:
    """Say a symptom, a test's result or a belief, or take it back."""
    actions.say(store(), number, form.kind.data, form.key.data, form.value.data)
