"""Forms of the machine: a chip, memory's table, a ROM's dump, what was taken apart."""

from __future__ import annotations

from wtforms import BooleanField
from wtforms.validators import Length

from hale_rail.core.behind.apart import Loose
from hale_rail.core.behind.pins import ChipRole
from hale_rail.web.form_base import (
    AreaField,
    CaseForm,
    ChoiceField,
    PlacedField,
    TextField,
    WholeField,
    at_most,
    choices,
)

_SHORT = at_most(24)
_TABLE = Length(max=400_000, message="That table is far too long.")
_LEVELS = (("", "not known"), ("low", "low"), ("high", "high"))
_ROLES = choices(("", "not known"), *((role.code, role.words) for role in ChipRole))
_LOOSE = choices(("", "by its words"), *((loose.code, loose.words) for loose in Loose))


class SymptomForm(CaseForm):
    """What the machine shows."""

    symptom = PlacedField(validators=[_SHORT])


class LevelForm(CaseForm):
    """At which level a chip's reset, interrupt and hold are on."""

    part = WholeField()
    active = PlacedField(validators=[_SHORT])


class ChipFactsForm(CaseForm):
    """What a chip is: its role, its place in memory, its rails, its pins that matter."""

    drawn = ("chip-facts",)
    has_own_ids = True

    part = WholeField()
    role = ChoiceField("What it does", validate_choice=False, choices=_ROLES)
    active = ChoiceField("Reset, interrupt, hold are on at", choices=choices(*_LEVELS),
                         validate_choice=False)  # fmt: skip
    bank = TextField("Bank", validators=[_SHORT])
    bits = TextField("Bits", validators=[_SHORT])
    pins = AreaField("Pins: a line each, name, use, level or rail", validators=[Length(max=2000)])


class LayoutForm(CaseForm):
    """The table of a memory's chips."""

    drawn = ("layout",)
    has_own_ids = True

    table = AreaField("Chips: bank,bit,ref", validators=[_TABLE])


class DumpForm(CaseForm):
    """A ROM's dump: as it was read, or as it should be."""

    drawn = ("rom-dump",)
    has_own_ids = True

    part = WholeField()
    is_good = BooleanField("It is what the chip should hold")


class ChecksumForm(CaseForm):
    """The checksum that a ROM should have."""

    drawn = ("rom-sum",)
    has_own_ids = True

    part = WholeField()
    checksum = TextField("Or the checksum it should have", validators=[at_most(48)])


class ApartForm(CaseForm):
    """What came off, and where."""

    drawn = ("apart",)
    has_own_ids = True

    text = TextField("What came off, and where", validators=[at_most(120)])
    what = ChoiceField("It is", validate_choice=False, choices=_LOOSE)


class ApartLineForm(CaseForm):
    """A line of what was taken apart."""

    drawn = ("apart-battery",)
    has_own_ids = True

    key = PlacedField(validators=[_SHORT])
    back = PlacedField(validators=[_SHORT])
    is_clean = BooleanField("Its place was cleaned")
    ate = TextField("What it ate", validators=[at_most(120)])


class KeyForm(CaseForm):
    """Something of the hunt by its key."""

    key = PlacedField(validators=[_SHORT])
