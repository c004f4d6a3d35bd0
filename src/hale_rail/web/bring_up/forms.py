"""Forms of the end of the work: harness, lists of connections, bring-up, regulators."""

from __future__ import annotations

from typing import Any

from wtforms.validators import Length

from hale_rail.case.bring_up.harness import SIDES
from hale_rail.core.bring_up.bring_up import Moved, read_word
from hale_rail.core.bring_up.collateral import RailEvent
from hale_rail.core.bring_up.linear import USUAL_EFFICIENCY
from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit
from hale_rail.formats.tables.lengths import read_length
from hale_rail.web.form_base import (
    AreaField,
    CaseForm,
    ChoiceField,
    FormError,
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


class ChipForm(CaseForm):
    """A chip's supply pin, and the rail it is to have."""

    drawn = ("chip",)
    has_own_ids = True

    chip = TextField("Chip and pin", validators=[_SHORT])
    rail = PlacedField(validators=[Length(max=20)])


class SignForm(CaseForm):
    """A sign of life, seen or missing."""

    drawn = ("sign",)
    has_own_ids = True

    sign = PlacedField(validators=[_SHORT])
    seen = PlacedField(validators=[_SHORT])
    note = TextField("Note", validators=[_LONG])


class LayoutForm(CaseForm):
    """The table of a memory's chips."""

    drawn = ("layout",)
    has_own_ids = True

    table = AreaField("Chips: bank,bit,ref", validators=[_TABLE])


class MemoryForm(CaseForm):
    """One place of a memory test."""

    drawn = ("memory",)
    has_own_ids = True

    bank = TextField("Bank", validators=[_SHORT])
    written = TextField("Written", validators=[_SHORT])
    read_back = TextField("Read", validators=[_SHORT])
    bits = TextField("Bits", validators=[_SHORT])

    def words(self) -> tuple[int, int, int]:
        """Written, read and how many bits; raises FormError with every field's problem."""
        problems: dict[str, str] = {}
        text = (self.bits.data or "8").strip()
        bits = int(text) if text.isascii() and text.isdecimal() and 1 <= int(text) <= 64 else 0
        if not bits:
            problems["bits"] = "A number of bits from 1 to 64."
        words = []
        for name in ("written", "read_back"):
            try:
                words.append(read_word(self.data[name] or "", bits or 64))
            except InputError as error:
                problems[name] = str(error)
        if problems:
            raise FormError(problems)
        return words[0], words[1], bits


class SwapForm(CaseForm):
    """A swap as a test."""

    drawn = ("swap",)
    has_own_ids = True

    one = TextField("Suspected", validators=[_SHORT])
    other = TextField("Swapped with", validators=[_SHORT])
    why = TextField("Which reading led here", validators=[_LONG])
    moved = ChoiceField("Then", choices=choices(*((m.code, m.words) for m in Moved)),
                        validate_choice=False)  # fmt: skip


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
