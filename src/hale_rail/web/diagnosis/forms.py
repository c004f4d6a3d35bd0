"""The form of what is said in the diagnosis."""

from __future__ import annotations

from hale_rail.web.form_base import CaseForm, PlacedField


class FindForm(CaseForm):
    """A symptom, a test's result or a belief."""

    kind = PlacedField()
    key = PlacedField()
    value = PlacedField()
