"""Forms of the soak."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

from wtforms import BooleanField
from wtforms.validators import Length

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, read
from hale_rail.core.soak.soak import USUAL_HOURS, USUAL_WARM_UP_S, Sample
from hale_rail.formats.readings.soak_csv import read_event, read_hours, read_local, read_ripple_mv
from hale_rail.web.form_base import (
    AreaField,
    CaseForm,
    FormError,
    PlacedField,
    QuantityField,
    ReadField,
    TextField,
    WholeField,
    at_most,
)

_SHORT = at_most(24)
_TABLE = Length(max=400_000, message="That table is far too long.")


T = TypeVar("T")


class SoakPlanForm(CaseForm):
    """How long a soak is to run."""

    drawn = ("soak-plan",)
    has_own_ids = True

    hours = ReadField("Hours", read_hours)
    warm_up = QuantityField("Warm-up", Unit.SECOND)
    anew = BooleanField("Begin again")

    def plan(self) -> tuple[float, float]:
        """Hours, and seconds of warm-up."""
        hours, warm = self.hours.value, self.warm_up.value
        return USUAL_HOURS if hours is None else hours, USUAL_WARM_UP_S if warm is None else warm


class SoakRowForm(CaseForm):
    """One row of a soak: the volts of each rail at a moment; the rails' fields are the page's."""

    drawn = ("soak-row",)
    has_own_ids = True

    moment = TextField("When", validators=[_SHORT])
    celsius = TextField("°C", validators=[_SHORT])
    event = PlacedField(validators=[Length(max=20)])

    def events(self, rows: Sequence[tuple[str, Sample]]) -> list[tuple[float, str]]:
        """What the machine did then; raises FormError."""
        try:
            event = read_event(self.event.data)
            at_s = rows[0][1].at_s if rows else read_local(self.moment.data)
        except InputError as error:
            raise FormError({"": str(error)}) from error
        return [(at_s, event)] if event else []

    def rows(self, volts: dict[str, str], ripple: dict[str, str]) -> list[tuple[str, Sample]]:
        """Rows of the rails with volts; raises FormError with every field's problem."""
        problems: dict[str, str] = {}
        at_s = _read("moment", self.moment.data, read_local, problems)
        heat = _optional("celsius", self.celsius.data, Unit.CELSIUS, problems)
        rows = []
        for place, (key, text) in enumerate(volts.items()):
            volt = _optional(f"volts-{place}", text, Unit.VOLT, problems)
            mv = _read(f"ripple-{place}", ripple.get(key, ""), read_ripple_mv, problems)
            if volt is not None and at_s is not None:
                rows.append((key, Sample(at_s, volt, mv, heat)))
        if not rows and not problems and not self.event.data:
            problems["volts-0"] = "Type the volts of a rail."
        if problems:
            raise FormError(problems)
        return rows


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

    drawn = ("soak-log",)
    has_own_ids = True

    log = AreaField("Rows: at,volts,ripple_mv,temp_c,rail,event", validators=[_TABLE])
    rail = PlacedField(validators=[Length(max=20)])
    begins = ReadField("A log in seconds begins", read_local, is_needed=True)


class StrikeRowForm(CaseForm):
    """A row of a soak put aside, or an event taken back by its key."""

    row = WholeField()
    event = PlacedField(validators=[Length(max=60)])
