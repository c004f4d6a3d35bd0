"""Forms about one part: its looks, photos, marking, decision, and its board's mark."""

from __future__ import annotations

from wtforms.validators import Length

from hale_rail.web.form_base import CaseForm, PlacedField, TextField, WholeField, at_most


class LookForm(CaseForm):
    """The findings at a part after a code was pressed, apart by spaces."""

    part = WholeField()
    codes = PlacedField(validators=[Length(max=200)])


class DecideForm(CaseForm):
    """What is done with a part, and why."""

    drawn = ("decide",)

    part = WholeField()
    kind = PlacedField()
    reason = TextField("Why, or with what", validators=[at_most(200)])


class BoardMarkForm(CaseForm):
    """What a board prints at a polarised part, and the original part that proved it."""

    drawn = ("board-mark",)

    board = PlacedField(validators=[Length(max=60)])
    mark = PlacedField()
    proven_on = TextField("Proven on the original part", validators=[Length(max=12)])


class CorrectForm(CaseForm):
    """A part's marking corrected; `was` the marking the page showed."""

    part = WholeField()
    was = PlacedField()
    text = TextField(validators=[at_most(200)])


class PhotoForm(CaseForm):
    """Photos of a part, or of the unit; the files are read beside the form."""

    part = WholeField()
    caption = TextField("Caption", validators=[at_most(120)])
