"""Forms of first power."""

from __future__ import annotations

from typing import Any

from wtforms.validators import Length

from hale_rail.core.power.plan import Limiter
from hale_rail.core.quantities import Unit
from hale_rail.web.form_base import (
    CaseForm,
    ChoiceField,
    PerCentField,
    PlacedField,
    QuantityField,
    TextField,
    WholeField,
    at_most,
    choices,
)


class PowerPlanForm(CaseForm):
    """What limits the current, and what loads the rails."""

    drawn = ("power-plan",)

    limiter = ChoiceField(
        "Limited by",
        validate_choice=False,
        choices=choices(*((one.code, one.words) for one in Limiter)),
    )
    draw_a = QuantityField("It draws, about", Unit.AMPERE, above_zero=True)
    supply_v = QuantityField("Fed with (DC machines)", Unit.VOLT, above_zero=True)
    share = PerCentField("Dummies, % of full load")
    load_lamp_v = QuantityField("Lamps as loads: volts", Unit.VOLT, above_zero=True)
    load_lamp_w = QuantityField("watts", Unit.WATT, above_zero=True)

    def chosen(self) -> dict[str, Any]:
        """What is chosen, as the store keeps it."""
        fields = (self.draw_a, self.supply_v, self.load_lamp_v, self.load_lamp_w, self.share)
        typed = {field.name: field.value for field in fields if field.value is not None}
        return {"limiter": self.limiter.data, **typed}


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
