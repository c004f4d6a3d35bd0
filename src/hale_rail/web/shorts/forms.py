"""Forms of the short trace: what is drawn, and which rail it is about (`by`)."""

from __future__ import annotations

from wtforms.validators import DataRequired, Length

from hale_rail.web.form_base import CaseForm, PlacedField, TextField, WholeField


class RailOnlyForm(CaseForm):
    """Something done to a rail."""


class CloseTraceForm(CaseForm):
    """The rail whose short was found, and the line of a part that the sheet lacks."""

    drawn = ("close-trace",)

    line = TextField("Its line, as one would write it", validators=[Length(max=120)])


class ProbeForm(CaseForm):
    """Pads for the probes and, for a drop, for the clamps."""

    plus = TextField(validators=[DataRequired("Name the plus probe's pad."), Length(max=24)])
    minus = TextField(validators=[DataRequired("Name the minus probe's pad."), Length(max=24)])
    inject = TextField(validators=[Length(max=24)])
    drain = TextField(validators=[Length(max=24)])


class MapForm(CaseForm):
    """A map as drawn, as JSON, and the version that was drawn on."""

    body = PlacedField(validators=[Length(max=4_000_000, message="The map is too large.")])
    version = WholeField()
