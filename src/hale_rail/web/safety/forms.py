"""Forms of power applied or removed, and of the guard."""

from __future__ import annotations

from wtforms import BooleanField

from hale_rail.web.form_base import CaseForm, PlacedField, TextField, at_most


class PowerForm(CaseForm):
    """Power applied, from somewhere, or removed; `despite`: although a part stands failed."""

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
