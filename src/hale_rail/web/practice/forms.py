"""Forms of practice: a unit chosen, and the fault named."""

from __future__ import annotations

from wtforms import SelectField
from wtforms.validators import Length

from hale_rail.core.supply.sheet import Topology
from hale_rail.stages.practice.practice import DIFFICULTIES
from hale_rail.web.form_base import CaseForm, Form, PlacedField, TextField, WholeField, choices


class StartForm(Form):
    """A graded case by its place, or a drawn unit."""

    graded = WholeField()
    topology = SelectField("Supply", choices=choices(*((t.code, t.words) for t in Topology)))
    difficulty = SelectField("Difficulty", choices=choices(*DIFFICULTIES.items()))
    seed = TextField("Seed", validators=[Length(max=10, message="At most 10 figures.")])


class EndForm(Form):
    """The fault that was found."""

    named = PlacedField(validators=[Length(max=40)])


class LookAtForm(CaseForm):
    """A part to look at."""

    part = WholeField()


class ByHandForm(CaseForm):
    """A test that the hand takes."""

    test = PlacedField(validators=[Length(max=40)])
