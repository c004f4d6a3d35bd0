"""Forms of the end of the work: harness, lists of connections, bring-up, regulators, soak."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, TypeVar

from wtforms import BooleanField, SelectField, TextAreaField
from wtforms.validators import Length

from hale_rail.case.bring_up.harness import SIDES
from hale_rail.core.bring_up.bring_up import Moved, read_word
from hale_rail.core.bring_up.collateral import RailEvent
from hale_rail.core.bring_up.linear import USUAL_EFFICIENCY
from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, plain_number, read
from hale_rail.core.soak.soak import USUAL_HOURS, USUAL_WARM_UP_S, Sample
from hale_rail.formats.lengths import read_length
from hale_rail.formats.soak_csv import read_event, read_hours, read_local, read_ripple_mv
from hale_rail.web.forms.base import (
    CaseForm,
    FormError,
    PlacedField,
    TextField,
    WholeField,
    choices,
)

T = TypeVar("T")
_SHORT = Length(max=24, message="At most 24 letters.")
_NAME = Length(max=60, message="At most 60 letters.")
_LONG = Length(max=200, message="At most 200 letters.")
_TABLE = Length(max=400_000, message="That table is far too long.")


class HarnessForm(CaseForm):
    """The two ends of a harness as tables, its length, and how the connector is seen."""

    source = TextAreaField("Source: rail_v,amps,conductors,awg,pin_amps", validators=[_TABLE])
    target = TextAreaField("Board’s connector: pin,kind,rail_v,amps,use", validators=[_TABLE])
    length = TextField("Length of each wire", validators=[_SHORT])
    side = SelectField("The connector is seen from its", choices=choices(*SIDES.items()),
                       validate_choice=False)  # fmt: skip

    def length_m(self) -> float:
        """The length in metres; raises FormError."""
        try:
            return read_length(self.length.data or "")
        except InputError as error:
            raise FormError({"length": str(error)}) from error


class ColourForm(CaseForm):
    """The colour of the wire found at a pin."""

    pin = PlacedField(validators=[_SHORT])
    colour = TextField("Wire found", validators=[_SHORT])


class ListForm(CaseForm):
    """A list of connections, pasted or from a file."""

    name = TextField("Name of the list", validators=[_NAME])
    board = TextField("Board and its revision", validators=[_NAME])
    drawing = WholeField()
    pairs = TextAreaField("Pairs: one,other,joined,note", validators=[_TABLE])


class CopyListForm(CaseForm):
    """A list of another case, copied."""

    note = WholeField()
    board = TextField("Board and its revision here", validators=[_NAME])


class MarkForm(CaseForm):
    """What came of a pair."""

    key = PlacedField(validators=[_SHORT])
    pair = WholeField()
    what = PlacedField(validators=[_SHORT])
    note = TextField("Note", validators=[_LONG])
    partner = TextField("The pin that beeps, or none", validators=[_SHORT])


class ChipForm(CaseForm):
    """A chip's supply pin, and the rail it is to have."""

    chip = TextField("Chip and pin", validators=[_SHORT])
    rail = PlacedField(validators=[Length(max=20)])


class SignForm(CaseForm):
    """A sign of life, seen or missing."""

    sign = PlacedField(validators=[_SHORT])
    seen = PlacedField(validators=[_SHORT])
    note = TextField("Note", validators=[_LONG])


class LayoutForm(CaseForm):
    """The table of a memory's chips."""

    table = TextAreaField("Chips: bank,bit,ref", validators=[_TABLE])


class MemoryForm(CaseForm):
    """One place of a memory test."""

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
        found = []
        for name in ("written", "read_back"):
            try:
                found.append(read_word(self.data[name] or "", bits or 64))
            except InputError as error:
                problems[name] = str(error)
        if problems:
            raise FormError(problems)
        return found[0], found[1], bits


class SwapForm(CaseForm):
    """A swap as a test."""

    one = TextField("Suspected", validators=[_SHORT])
    other = TextField("swapped with", validators=[_SHORT])
    why = TextField("Which reading led here", validators=[_LONG])
    moved = SelectField("Then", choices=choices(*((m.code, m.words) for m in Moved)),
                        validate_choice=False)  # fmt: skip


class EventForm(CaseForm):
    """What happened to a rail."""

    rail = PlacedField(validators=[Length(max=20)])
    event = SelectField("It", choices=choices(*((e.code, e.words) for e in RailEvent)),
                        validate_choice=False)  # fmt: skip
    peak_v = TextField("Highest volts, where read", validators=[_SHORT])

    def peak(self) -> float | None:
        """The highest volts, None where not read; raises FormError."""
        if not (self.peak_v.data or "").strip():
            return None
        return _quantity("peak_v", self.peak_v.data, Unit.VOLT)


class RegulatorForm(CaseForm):
    """A linear regulator at work."""

    ref = TextField("Regulator", validators=[_SHORT])
    v_in = TextField("Volts in", validators=[_SHORT])
    v_out = TextField("Volts out", validators=[_SHORT])
    amps = TextField("Current", validators=[_SHORT])
    efficiency = TextField("A module’s efficiency, %", validators=[_SHORT])
    case_c = TextField("Case, °C", validators=[_SHORT])

    def body(self) -> dict[str, Any]:
        """The figures; raises FormError with every field's problem."""
        problems: dict[str, str] = {}
        found: dict[str, Any] = {"efficiency": USUAL_EFFICIENCY, "case_c": None}
        for name, unit in (("v_in", Unit.VOLT), ("v_out", Unit.VOLT), ("amps", Unit.AMPERE),
                           ("case_c", Unit.CELSIUS)):  # fmt: skip
            text = self.data[name] or ""
            if name == "case_c" and not text.strip():
                continue
            try:
                found[name] = read(text, unit, allow_words=False).value
            except InputError as error:
                problems[name] = str(error)
        share = (self.efficiency.data or "").rstrip("% ").strip()
        if share:
            try:
                found["efficiency"] = plain_number(share) / 100
            except InputError:
                problems["efficiency"] = "Per cent, such as 85."
        if problems:
            raise FormError(problems)
        return found


class TakeBackForm(CaseForm):
    """Something said of the board, taken back."""

    kind = PlacedField(validators=[_SHORT])
    key = PlacedField(validators=[_SHORT])


class SoakPlanForm(CaseForm):
    """How long a soak is to run."""

    hours = TextField("Hours", validators=[_SHORT])
    warm_up = TextField("Warm-up", validators=[_SHORT])
    anew = BooleanField("Begin anew")

    def plan(self) -> tuple[float, float]:
        """Hours, and seconds of warm-up; raises FormError with every field's problem."""
        problems: dict[str, str] = {}
        hours, warm = USUAL_HOURS, USUAL_WARM_UP_S
        try:
            text = self.hours.data or ""
            hours = read_hours(text) if text.strip() else USUAL_HOURS
        except InputError as error:
            problems["hours"] = str(error)
        if (self.warm_up.data or "").strip():
            try:
                warm = read(self.warm_up.data, Unit.SECOND, allow_words=False).value
            except InputError as error:
                problems["warm_up"] = str(error)
        if problems:
            raise FormError(problems)
        return hours, warm


class SoakRowForm(CaseForm):
    """One row of a soak: the volts of each rail at a moment; the rails' fields are the page's."""

    moment = TextField("When", validators=[_SHORT])
    celsius = TextField("°C", validators=[_SHORT])
    event = PlacedField(validators=[Length(max=20)])

    def events(self, rows: Sequence[tuple[str, Sample]]) -> list[tuple[float, str]]:
        """What the machine did then; raises FormError."""
        try:
            event = read_event(self.event.data or "")
            at_s = rows[0][1].at_s if rows else read_local(self.moment.data or "")
        except InputError as error:
            raise FormError({"": str(error)}) from error
        return [(at_s, event)] if event else []

    def rows(self, volts: dict[str, str], ripple: dict[str, str]) -> list[tuple[str, Sample]]:
        """Rows of the rails with volts; raises FormError with every field's problem."""
        problems: dict[str, str] = {}
        at_s = _read("moment", self.moment.data, read_local, problems)
        heat = _optional("celsius", self.celsius.data, Unit.CELSIUS, problems)
        found = []
        for place, (key, text) in enumerate(volts.items()):
            volt = _optional(f"volts-{place}", text, Unit.VOLT, problems)
            mv = _read(f"ripple-{place}", ripple.get(key, ""), read_ripple_mv, problems)
            if volt is not None and at_s is not None:
                found.append((key, Sample(at_s, volt, mv, heat)))
        if not found and not problems and not self.event.data:
            problems["volts-0"] = "Type the volts of a rail."
        if problems:
            raise FormError(problems)
        return found


def _optional(name: str, text: str | None, unit: Unit, problems: dict[str, str]) -> float | None:
    def quantity(typed: str) -> float:
        return read(typed, unit, allow_words=False).value

    return _read(name, text, quantity, problems) if (text or "").strip() else None


def _read(
    name: str, text: str | None, reader: Callable[[str], T], problems: dict[str, str]
) -> T | None:
    """What a reader makes of a field; what is wrong goes to the problems."""
    try:
        return reader(text or "")
    except InputError as error:
        problems[name] = str(error)
        return None


class SoakCaptureForm(CaseForm):
    """The rail that the meter is on, and the seconds between two rows."""

    rail = PlacedField(validators=[Length(max=24)])
    every = TextField(validators=[Length(max=6, message="Seconds, a whole number.")])


class SoakLogForm(CaseForm):
    """A log of a soak, pasted or from a file."""

    log = TextAreaField("Rows: at,volts,ripple_mv,temp_c,rail,event", validators=[_TABLE])
    rail = PlacedField(validators=[Length(max=20)])
    begins = TextField("A log in seconds begins", validators=[_SHORT])

    def begins_s(self) -> float:
        """The moment from which a log in seconds counts; now where nothing is typed."""
        try:
            return read_local(self.begins.data or "")
        except InputError as error:
            raise FormError({"begins": str(error)}) from error


class StrikeRowForm(CaseForm):
    """A row of a soak put aside, or an event taken back by its key."""

    row = WholeField()
    event = PlacedField(validators=[Length(max=60)])


def _quantity(name: str, text: str | None, unit: Unit) -> float:
    try:
        return read(text or "", unit, allow_words=False).value
    except InputError as error:
        raise FormError({name: str(error)}) from error
