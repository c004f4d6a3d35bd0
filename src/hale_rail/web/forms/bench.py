"""Forms of the work at the bench: readings, looks, power, decisions, notes."""

from __future__ import annotations

from wtforms import BooleanField
from wtforms.validators import Length

from hale_rail.web.forms.base import CaseForm, Form, PlacedField, TextField, WholeField


class ReadForm(Form):
    """A reading of the tray; `seen` the one the page showed standing there.

    `back`: the point that waited for this one.
    """

    at = PlacedField(validators=[Length(max=120)])
    text = TextField(validators=[Length(max=60, message="At most 60 letters.")])
    seen = WholeField()
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


class LookForm(CaseForm):
    """The findings at a part after a code was pressed, apart by spaces."""

    part = WholeField()
    codes = PlacedField(validators=[Length(max=200)])


class PowerForm(CaseForm):
    """Power applied, from somewhere, or removed; `despite`: although a part stands failed."""

    event = PlacedField()
    source = PlacedField()
    despite = BooleanField()


class GuardForm(CaseForm):
    """The reason that passes the guard."""

    reason = TextField(
        "The reason; the log keeps it and the report shows it. “It has not been plugged in for "
        "months” is a reason, not a reading.",
        validators=[Length(max=300, message="At most 300 letters.")],
    )


class DidForm(CaseForm):
    """What the machine did, and how often."""

    did = PlacedField(validators=[Length(max=24)])
    times = WholeField()


class DecideForm(CaseForm):
    """What is done with a part, and why."""

    part = WholeField()
    kind = PlacedField()
    reason = TextField(
        "Why, or with what", validators=[Length(max=200, message="At most 200 letters.")]
    )


class BoardMarkForm(CaseForm):
    """What a board prints at a polarised part, and the original part that proved it."""

    board = PlacedField(validators=[Length(max=60)])
    mark = PlacedField()
    proven_on = TextField("Proven on the original part", validators=[Length(max=12)])


class CorrectForm(CaseForm):
    """A part's marking corrected; `was` the marking the page showed."""

    part = WholeField()
    was = PlacedField()
    text = TextField(validators=[Length(max=200, message="At most 200 letters.")])


class RailForm(CaseForm):
    """A rail's marking in the words of notes."""

    rail = PlacedField()
    was = PlacedField()
    text = TextField("As one would write it")


class PowerGoodForm(CaseForm):
    """What the power-good line did: high after so long, or `low` for good."""

    after = TextField("High after", validators=[Length(max=24, message="At most 24 letters.")])
    volts = TextField("Its volts", validators=[Length(max=24, message="At most 24 letters.")])
    low = PlacedField()


class MoveRailForm(CaseForm):
    """A rail, and which way it goes in the list."""

    rail = PlacedField()
    way = PlacedField()


class RemoveRailForm(CaseForm):
    """A rail to be taken off."""

    rail = PlacedField(validators=[Length(max=20)])


class FindForm(CaseForm):
    """A symptom, a test's result or a belief."""

    kind = PlacedField()
    key = PlacedField()
    value = PlacedField()


class NoteForm(CaseForm):
    """A line of one's own in the log."""

    text = TextField("A note", validators=[Length(max=500, message="At most 500 letters.")])


class PhotoForm(CaseForm):
    """Photos of a part, or of the unit; the files are read beside the form."""

    part = WholeField()
    caption = TextField("Caption", validators=[Length(max=120, message="At most 120 letters.")])
