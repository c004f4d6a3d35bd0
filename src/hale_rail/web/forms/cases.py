"""Forms that open a case, edit it, add to its sheet, and hand it back."""

from __future__ import annotations

from wtforms import (
    BooleanField,
    FileField,
    RadioField,
    SelectField,
    SelectMultipleField,
    TextAreaField,
)
from wtforms.fields.choices import SelectChoice
from wtforms.validators import DataRequired, Length

from hale_rail.core.rails.judge import Tolerance
from hale_rail.core.recap.demand import School
from hale_rail.web.forms.base import CaseForm, Form, TextField, WholeField

SCHOOL_CHOICES = [SelectChoice(school.code, school.words) for school in School]
PURPOSE_CHOICES = [
    SelectChoice("", "not said"),
    SelectChoice("repair", "a repair"),
    SelectChoice("preventive", "preventive work on a unit that runs"),
]
TOLERANCE_CHOICES = [SelectChoice(tolerance.value, tolerance.value) for tolerance in Tolerance]
_LONGEST = 2000
_AT_MOST = Length(max=_LONGEST, message=f"At most {_LONGEST} letters.")
_MACHINE = DataRequired("Name the machine.")
_SYMPTOM = DataRequired("Say what it does wrong.")


class NewCaseForm(Form):
    """A case to be opened, and the list of its parts."""

    start = RadioField("Start from", validate_choice=False)
    number = TextField(
        "Case number",
        validators=[
            DataRequired("Letters, digits, dot and dash, at most 20, such as LW-040."),
            Length(max=20, message="At most 20 letters."),
        ],
    )
    machine = TextField("Machine", validators=[_MACHINE, _AT_MOST])
    year = TextField("Made in")
    symptom = TextAreaField("Symptom", validators=[_SYMPTOM, _AT_MOST])
    symptoms = SelectMultipleField("It may mean", validate_choice=False)
    before = TextAreaField("What was done before", validators=[_AT_MOST])
    unit_type = SelectField("Alike with", validate_choice=False)
    school = SelectField("Replace", choices=SCHOOL_CHOICES)
    tolerance = SelectField("Rails", choices=TOLERANCE_CHOICES)
    parts = TextAreaField(
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

    version = WholeField()
    machine = TextField("Machine", validators=[_AT_MOST])
    symptom = TextAreaField("Symptom", validators=[_AT_MOST])
    before = TextAreaField("Done before", validators=[_AT_MOST])
    unit_type = SelectField("Alike with", validate_choice=False)
    school = SelectField("Replace", choices=SCHOOL_CHOICES, validate_choice=False)
    tolerance = SelectField("Rails", choices=TOLERANCE_CHOICES, validate_choice=False)


class UnitForm(CaseForm):
    """What is known of the unit beside its parts."""

    year = TextField("Made in")
    purpose = SelectField("Opened for", choices=PURPOSE_CHOICES, validate_choice=False)
    is_self_loaded = BooleanField("Supply and board are one, or the machine is its own load")


class TakeReadingsForm(CaseForm):
    """A file of readings for a case."""

    leave_out = BooleanField("Leave them out")


class RenameForm(CaseForm):
    """A case's number."""

    number = TextField("Case number")


class PartsForm(CaseForm):
    """A pasted list for a case's sheet."""

    parts = TextAreaField(
        "One part a line, as in your notes; a rail by its sign, like +5; a rail of its own as "
        "“rail +24 2A”"
    )
    leave_out = BooleanField("Leave them out for now; they stay in the log")


class PatternForm(CaseForm):
    """The name under which a sheet is kept."""

    name = TextField("Keep it for the next unit of its kind, as")


class HandBackForm(CaseForm):
    """How a unit goes back."""

    version = WholeField()
    outcome = RadioField("It goes back", validate_choice=False)
    why = TextField("Why it goes back as repaired all the same", validators=[_AT_MOST])


class ReopenForm(CaseForm):
    """A case to be taken to the bench again."""

    version = WholeField()
