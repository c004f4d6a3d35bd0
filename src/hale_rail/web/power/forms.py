"""Forms of first power."""

from __future__ import annotations

from typing import Any

from wtforms import SelectField
from wtforms.validators import Length

from hale_rail.core.errors import InputError
from hale_rail.core.power.plan import Limiter
from hale_rail.core.quantities import Unit, read
from hale_rail.web.form_base import (
    CaseForm,
    FormError,
    PlacedField,
    TextField,
    WholeField,
    at_most,
    choices,
)

_SHORT = at_most(24)
_UNITS = {
    "draw_a": Unit.AMPERE, "supply_v": Unit.VOLT, "load_lamp_v": Unit.VOLT,
    "load_lamp_w": Unit.WATT,
}  # fmt: skip


class PowerPlanForm(CaseForm):
    """What limits the current, and what loads the rails."""

    drawn = ("power-plan",)

    limiter = SelectField(
        "Limited by",
        validate_choice=False,
        choices=choices(*((one.code, one.words) for one in Limiter)),
    )
    draw_a = TextField("It draws, about", validators=[_SHORT])
    supply_v = TextField("Fed with (DC machines)", validators=[_SHORT])
    share = TextField("Dummies, % of full load", validators=[_SHORT])
    load_lamp_v = TextField("Lamps as loads: volts", validators=[_SHORT])
    load_lamp_w = TextField("watts", validators=[_SHORT])

    def chosen(self) -> dict[str, Any]:
        """What is chosen, as the store keeps it; raises FormError with every field's problem."""
        chosen: dict[str, Any] = {"limiter": self.limiter.data or ""}
        problems: dict[str, str] = {}
        for name, unit in _UNITS.items():
            text = self.data[name] or ""
            try:
                if text.strip():
                    chosen[name] = _above_zero(text, unit)
            except InputError as error:
                problems[name] = str(error)
        share = (self.share.data).strip().rstrip("%").replace(",", ".").strip()
        if share:
            try:
                chosen["share"] = float(share) / 100
            except ValueError:
                problems["share"] = "A number of per cent, such as 15."
        if problems:
            raise FormError(problems)
        return chosen


def _above_zero(text: str, unit: Unit) -> float:
    value = read(text, unit, allow_words=False).value
    if not value > 0:
        raise InputError("It must be above 0.")
    return value


class PowerStepForm(CaseForm):
    """A step of first power.

    `stop` the stop condition that is met, `found` what it came from, `part` the part it came from,
    `reason` why power comes although something is unread.
    """

    drawn = ("power-clear", "power-on")

    step = PlacedField(validators=[Length(max=24)])
    stop = PlacedField(validators=[Length(max=24)])
    part = WholeField()
    reason = TextField("Why go on without", validators=[at_most(200)])
    found = TextField("What it came from", validators=[at_most(200)])


class DidForm(CaseForm):
    """What the machine did, and how often."""

    did = PlacedField(validators=[Length(max=24)])
    times = WholeField()
