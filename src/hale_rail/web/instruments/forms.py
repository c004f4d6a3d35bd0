"""Forms of the instruments: one added, assigned, asked, and a family described."""

from __future__ import annotations

from wtforms import SelectMultipleField
from wtforms.validators import Length
from wtforms.widgets import TextArea

from hale_rail.web.form_base import Form, PlacedField, TextField, WholeField, at_most


class AddForm(Form):
    """An instrument by its address."""

    name = TextField(validators=[at_most(40)])
    address = TextField(validators=[at_most(200)])
    family = PlacedField(validators=[Length(max=40)])


class OneForm(Form):
    """One instrument of the list."""

    instrument = WholeField()


class AssignForm(OneForm):
    """What an instrument takes."""

    procedures = SelectMultipleField(validate_choice=False)


class FamilyForm(Form):
    """A family in TOML."""

    code = TextField(validators=[at_most(40)])
    text = TextField(widget=TextArea(), validators=[Length(max=65_536)])
