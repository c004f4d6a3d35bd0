"""Forms of the short trace: what is drawn, and which rail it is about (`by`)."""

from __future__ import annotations

from wtforms.validators import Length

from hale_rail.web.forms.base import CaseForm, PlacedField, WholeField


class RailOnlyForm(CaseForm):
    """Something done to a rail."""


class MapForm(CaseForm):
    """A map as drawn, as JSON, and the version that was drawn on."""

    body = PlacedField(validators=[Length(max=4_000_000, message="The map is too large.")])
    version = WholeField()
