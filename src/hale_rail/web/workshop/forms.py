"""Forms of the workshop: its settings, and its lists as rows of a table."""

from __future__ import annotations

from wtforms.fields.choices import SelectChoice
from wtforms.validators import DataRequired

from hale_rail.actions.workshop.workshop import TOUCH_LIMITS_V
from hale_rail.errors import InputError
from hale_rail.web.form_base import ChoiceField, Form, TextField
from hale_rail.web.intake.forms import SCHOOL_CHOICES, TOLERANCE_CHOICES


class SettingsForm(Form):
    """The workshop's settings."""

    touch_limit_v = ChoiceField(
        "Touch limit", choices=[SelectChoice(f"{v:g}", f"{v:g} V DC") for v in TOUCH_LIMITS_V]
    )
    school = ChoiceField("Usual school", choices=SCHOOL_CHOICES)
    tolerance = ChoiceField("Usual rail tolerance", choices=TOLERANCE_CHOICES)
    hours_a_day = TextField(
        "Units ran, hours a day", validators=[DataRequired("Hours a day, 0 to 24.")]
    )
    core_c = TextField("°C inside a capacitor", validators=[DataRequired("Degrees, 0 to 125.")])
    meter = ChoiceField("ESR or LCR meter in use", validate_choice=False)


def number(form: SettingsForm, name: str) -> float:
    """A field as a number, with point or comma; raises InputError naming it."""
    text = form[name].data
    try:
        return float(text.replace(",", "."))
    except ValueError as error:
        raise InputError(f"“{text}” is not a number.", field=name) from error
