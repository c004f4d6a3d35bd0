"""Forms that hand a case back, and take it to the bench again."""

from __future__ import annotations

from wtforms import (
    RadioField,
)

from hale_rail.web.form_base import CaseForm, TextField, WholeField
from hale_rail.web.intake.forms import _AT_MOST


class HandBackForm(CaseForm):
    """How a unit goes back."""

    drawn = ("hand-back",)

    version = WholeField()
    outcome = RadioField("It goes back", validate_choice=False)
    why = TextField("Why it goes back as repaired all the same", validators=[_AT_MOST])


class ReopenForm(CaseForm):
    """A case to be taken to the bench again."""

    version = WholeField()
