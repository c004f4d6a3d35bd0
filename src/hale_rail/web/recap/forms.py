"""Forms of the recap, the rework, the sources and the order."""

from __future__ import annotations

from wtforms.validators import Length

from hale_rail.case.recap.demands import ASKED, OLD_CAN
from hale_rail.formats.units.rated_fields import RATED_COLUMNS
from hale_rail.web.form_base import CaseForm, Form, PlacedField, TextField, WholeField, at_most

_SHORT = at_most(24)
_LONGER = at_most(40)


class OfPartForm(CaseForm):
    """Something said of a part."""

    part = WholeField()


class DemandForm(OfPartForm):
    """What a position asks of its part."""

    role = PlacedField(validators=[_SHORT])


for _name, _words in (*ASKED, *OLD_CAN):
    setattr(DemandForm, _name, TextField(_words, validators=[_SHORT]))


class RatingsForm(OfPartForm):
    """What a part that is not a capacitor is rated for."""


for _column in ("value", "voltage", *RATED_COLUMNS):
    setattr(RatingsForm, _column, TextField(validators=[_LONGER]))


class ChooseForm(OfPartForm):
    """A part number chosen by hand."""

    sku = PlacedField(validators=[at_most(80)])


class NamedForm(OfPartForm):
    """What is bought for a part that no list matches."""

    named = TextField(validators=[at_most(120)])


class StepForm(OfPartForm):
    """One thing done at a position, or a step to take back."""

    act = PlacedField(validators=[_SHORT])
    step = WholeField()


class BoardForm(CaseForm):
    """How parts are taken out of a board, or what replaces tantalums."""

    board = PlacedField(validators=[Length(max=40)])
    method = PlacedField(validators=[_SHORT])
    plane = PlacedField(validators=[_SHORT])
    tantalum = PlacedField(validators=[_SHORT])


class BuyingForm(Form):
    """How the workshop buys."""

    currency = TextField("Currency", validators=[at_most(8)])
    max_vendors = TextField("At most so many vendors (empty: any)", validators=[_SHORT])
    spares = TextField("Spares, %", validators=[_SHORT])
    spares_below = TextField("on parts below, a piece", validators=[_SHORT])


class MappingForm(Form):
    """A list that was looked at: its vendor, its token, its file's name."""

    vendor = PlacedField(validators=[Length(max=80)])
    token = PlacedField(validators=[Length(max=64)])
    name = PlacedField(validators=[Length(max=200)])
