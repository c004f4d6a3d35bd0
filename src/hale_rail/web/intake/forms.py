"""Forms that open a case, edit it, add to its sheet, and hand it back."""

from __future__ import annotations

from wtforms import (
    BooleanField,
    FileField,
    RadioField,
    SelectMultipleField,
)
from wtforms.fields.choices import SelectChoice
from wtforms.validators import DataRequired

from hale_rail.core.rails.judge import Tolerance
from hale_rail.core.recap.demand import RecapPolicy
from hale_rail.web.form_base import (
    AreaField,
    CaseForm,
    ChoiceField,
    Form,
    PlacedField,
    TextField,
    WholeField,
    at_most,
)

SCHOOL_CHOICES = [SelectChoice(school.code, school.words) for school in RecapPolicy]
PURPOSE_CHOICES = [
    SelectChoice("", "not said"),
    SelectChoice("repair", "a repair"),
    SelectChoice("preventive", "preventive work on a unit that runs"),
]
TOLERANCE_CHOICES = [SelectChoice(tolerance.value, tolerance.value) for tolerance in Tolerance]
_LONGEST = 2000
_AT_MOST = at_most(_LONGEST)
_MACHINE = DataRequired("Name the machine.")
_SYMPTOM = DataRequired("Say what it does wrong.")


class NewCaseForm(Form):
    """A case to be opened, and the list of its parts."""

    start = RadioField("Start from", validate_choice=False)
    number = TextField(
        "Case number",
        validators=[
            DataRequired("Letters, digits, dot and dash, at most 20, such as LW-040."),
            at_most(20),
        ],
    )
    machine = TextField("Machine", validators=[_MACHINE, _AT_MOST])
    year = TextField("Made in")
    symptom = AreaField("Symptom", validators=[_SYMPTOM, _AT_MOST])
    symptoms = SelectMultipleField("It may mean", validate_choice=False)
    before = AreaField("What was done before", validators=[_AT_MOST])
    unit_type = ChoiceField("Alike with", validate_choice=False)
    school = ChoiceField("Replace", choices=SCHOOL_CHOICES)
    tolerance = ChoiceField("Rails", choices=TOLERANCE_CHOICES)
    parts = AreaField(
        "One a line, as in your notes or a spreadsheet. Designators the sheet has are corrected, "
        "new ones added; a rail of its own as “rail +24 2A”."
    )
    leave_out = BooleanField("Leave them out for now; they stay in the log")


class FileCaseForm(Form):
    """A case to be opened from a file."""

    file_number = TextField("Its number")
    file_machine = TextField("Its machine; the unit's name where empty", validators=[_AT_MOST])
    file_symptom = TextField("Its symptom", validators=[_SYMPTOM, _AT_MOST])
    unit = FileField("UNIT.json")


class EditForm(CaseForm):
    """A case's own fields; those not sent stay as they are."""

    drawn = ("edit",)

    version = WholeField()
    machine = TextField("Machine", validators=[_AT_MOST])
    symptom = AreaField("Symptom", validators=[_AT_MOST])
    before = AreaField("Done before", validators=[_AT_MOST])
    unit_type = ChoiceField("Alike with", validate_choice=False)
    school = ChoiceField("Replace", choices=SCHOOL_CHOICES, validate_choice=False)
    tolerance = ChoiceField("Rails", choices=TOLERANCE_CHOICES, validate_choice=False)


class UnitForm(CaseForm):
    """What is known of the unit beside its parts."""

    drawn = ("unit",)

    year = TextField("Made in")
    purpose = ChoiceField("Opened for", choices=PURPOSE_CHOICES, validate_choice=False)
    is_self_loaded = BooleanField("Supply and board are one, or the machine is its own load")


class TakeReadingsForm(CaseForm):
    """A file of readings for a case."""

    leave_out = BooleanField("Leave them out")


class RenameForm(CaseForm):
    """A case's number."""

    drawn = ("rename",)

    number = TextField("Case number")


class PartsForm(CaseForm):
    """A pasted list for a case's sheet."""

    drawn = ("parts",)

    parts = AreaField(
        "One part a line, as in your notes; a rail by its sign, like +5; a rail of its own as "
        "“rail +24 2A”"
    )
    leave_out = BooleanField("Leave them out for now; they stay in the log")


class PatternForm(CaseForm):
    """The name under which a sheet is kept."""

    drawn = ("pattern",)

    name = TextField("Save its sheet for the next unit of its kind, as")


class DrawingForm(CaseForm):
    """A drawing's name and revision, and whether it is kept with the case or its type."""

    name = TextField(validators=[at_most(60)])
    revision = TextField(validators=[at_most(20)])
    kept = PlacedField()


class ProveForm(CaseForm):
    """A connection that can be seen: two ends, as drawn, and the ohms that were read."""

    document = WholeField()
    one_end = TextField(validators=[at_most(60)])
    other_end = TextField(validators=[at_most(60)])
    joined = PlacedField()
    ohms = TextField(validators=[at_most(20)])
