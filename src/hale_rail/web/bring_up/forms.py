"""Forms of the end of the work: harness, lists of connections, rail events, regulators."""

from __future__ import annotations

from typing import Any

from wtforms.validators import Length

from hale_rail.case.bring_up.harness import SIDES
from hale_rail.core.bring_up.collateral import RailEvent
from hale_rail.core.bring_up.linear import USUAL_EFFICIENCY
from hale_rail.core.quantities import Unit
from hale_rail.formats.tables.lengths import read_length
from hale_rail.web.form_base import (
    AreaField,
    CaseForm,
    ChoiceField,
    PerCentField,
    PlacedField,
    QuantityField,
    ReadField,
    TextField,
    WholeField,
    at_most,
    choices,
)

_SHORT = at_most(24)
_NAME = at_most(60)
_LONG = at_most(200)
_TABLE = Length(max=400_000, message="That table is far too long.")


class HarnessForm(CaseForm):
    """The two ends of a harness as tables, its length, and how the connector is seen."""

    drawn = ("harness",)
    has_own_ids = True

    source = AreaField(
        "The new source: rail_v,amps,conductors,awg,pin_amps,min_amps,isolated", validators=[_TABLE]
    )
    target = AreaField("The board’s connector: pin,kind,rail_v,amps,use", validators=[_TABLE])
    length = ReadField("Length of each wire", read_length, is_needed=True)
    side = ChoiceField("The connector is seen from its", choices=choices(*SIDES.items()),
                       validate_choice=False)  # fmt: skip


class ColourForm(CaseForm):
    """The colour of the wire found at a pin."""

    drawn = ("colour",)
    has_own_ids = True

    pin = PlacedField(validators=[_SHORT])
    colour = TextField("Wire found", validators=[_SHORT])


class ListForm(CaseForm):
    """A list of connections, pasted or from a file."""

    drawn = ("list",)
    has_own_ids = True

    name = TextField("Name of the list", validators=[_NAME])
    board = TextField("Board and its revision", validators=[_NAME])
    drawing = WholeField(absent=None)
    pairs = AreaField("Pairs: one,other,joined,note", validators=[_TABLE])


class CopyListForm(CaseForm):
    """A list of another case, copied."""

    drawn = ("list-copy",)
    has_own_ids = True

    note = WholeField()
    board = TextField("Board and its revision here", validators=[_NAME])


class MarkForm(CaseForm):
    """What came of a pair."""

    drawn = ("pair",)
    has_own_ids = True

    key = PlacedField(validators=[_SHORT])
    pair = WholeField()
    what = PlacedField(validators=[_SHORT])
    note = TextField("Note", validators=[_LONG])
    partner = TextField("The pin that beeps, or none", validators=[_SHORT])


class EventForm(CaseForm):
    """What happened to a rail."""

    drawn = ("event",)
    has_own_ids = True

    rail = PlacedField(validators=[Length(max=20)])
    event = ChoiceField("It", choices=choices(*((e.code, e.words) for e in RailEvent)),
                        validate_choice=False)  # fmt: skip
    peak_v = QuantityField("Highest volts, where read", Unit.VOLT)


class RegulatorForm(CaseForm):
    """A linear regulator at work."""

    drawn = ("regulator",)
    has_own_ids = True

    ref = TextField("Regulator", validators=[_SHORT])
    v_in = QuantityField("Volts in", Unit.VOLT, is_needed=True)
    v_out = QuantityField("Volts out", Unit.VOLT, is_needed=True)
    amps = QuantityField("Current", Unit.AMPERE, is_needed=True)
    efficiency = PerCentField("A module’s efficiency, %")
    case_c = QuantityField("Case, °C", Unit.CELSIUS)

    def body(self) -> dict[str, Any]:
        """The figures."""
        share = self.efficiency.value
        return {
            "efficiency": USUAL_EFFICIENCY if share is None else share,
            "case_c": self.case_c.value,
            "v_in": self.v_in.value,
            "v_out": self.v_out.value,
            "amps": self.amps.value,
        }


class TakeBackForm(CaseForm):
    """Something said of the board, taken back."""

    kind = PlacedField(validators=[_SHORT])
    key = PlacedField(validators=[_SHORT])
