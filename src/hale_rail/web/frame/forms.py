"""Forms of the work at the bench: readings, looks, power, decisions, notes."""

from __future__ import annotations

from wtforms import BooleanField
from wtforms.validators import Length

from hale_rail.web.form_base import CaseForm, Form, PlacedField, TextField, WholeField, at_most


class ReadForm(Form):
    """A reading of the tray; `seen` the one the page showed standing there.

    `back`: the point that waited for this one.
    """

    at = PlacedField(validators=[Length(max=120)])
    text = TextField(validators=[at_most(160)])
    seen = WholeField(absent=None)
    back = PlacedField(validators=[Length(max=120)])
    unplugged = BooleanField()


class CaptureForm(CaseForm):
    """A press that needs nothing but where it was pressed: the point in the tray.

    `confirmed`: the instrument may put out voltage, this once.
    """

    confirmed = BooleanField()


class StrikeForm(CaseForm):
    """A reading to be put aside."""

    reading = WholeField()
    reason = TextField(validators=[Length(max=200)])


class NoteForm(CaseForm):
    """A line of one's own in the log."""

    drawn = ("note",)

    text = TextField("A note", validators=[at_most(500)])
