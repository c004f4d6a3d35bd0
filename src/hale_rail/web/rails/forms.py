"""Forms of the rails and of power good."""

from __future__ import annotations

from wtforms.validators import Length

from hale_rail.web.form_base import CaseForm, PlacedField, TextField, at_most


class RailForm(CaseForm):
    """A rail's marking in the words of notes."""

    drawn = ("rail",)

    rail = PlacedField()
    was = PlacedField()
    text = TextField("As one would write it")


class PowerGoodForm(CaseForm):
    """What the power-good line did: high after so long, or `low` for good."""

    after = TextField("High after", validators=[at_most(24)])
    volts = TextField("Its volts", validators=[at_most(24)])
    low = PlacedField()


class MoveRailForm(CaseForm):
    """A rail, and which way it goes in the list."""

    rail = PlacedField()
    way = PlacedField()


class RemoveRailForm(CaseForm):
    """A rail to be taken off."""

    rail = PlacedField(validators=[Length(max=20)])
