"""Forms of the ripple lab."""

from __future__ import annotations

import re
from functools import partial
from typing import Any

from wtforms.validators import Length

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit
from hale_rail.web.form_base import (
    CaseForm,
    ChoiceField,
    FormError,
    PlacedField,
    QuantityField,
    ReadField,
    TextField,
    WholeField,
    at_most,
    choices,
)

_SHORT = at_most(24)
_GUESS = ("", "as found")
_LOADS = (("dummy", "dummy load"), ("machine", "in the machine"), ("no-load", "no load"))
_SECONDS = {"m": 1e-3, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "n": 1e-9}


def seconds(text: str) -> float:
    """A sample interval such as `0.4us`; raises InputError."""
    match = re.fullmatch(r"(\d+(?:[.,]\d+)?(?:[eE][+-]?\d+)?)\s*([munµμ]?)s?", text)
    value = float(match[1].replace(",", ".")) * _SECONDS.get(match[2], 1.0) if match else 0.0
    if not value > 0:
        raise InputError("Write it like 0.4us or 2e-6.")
    return value


def _hertz(text: str) -> float:
    match = re.fullmatch(r"(\d+(?:[.,]\d+)?)\s*(k?)\s*(?:hz)?", text.lower())
    value = float(match[1].replace(",", ".")) * (1e3 if match[2] else 1) if match else 0.0
    if not value > 0:
        raise InputError("Write it like 66k.")
    return value


def _whole(text: str, least: int) -> int:
    if not text.isascii() or not text.isdecimal() or int(text) < least:
        raise InputError(f"A whole number from {least}.")
    return min(int(text), 10**9)


_count, _count_or_none = partial(_whole, least=1), partial(_whole, least=0)
_SEPARATORS = {mark: mark for mark in (",", ";", "\t", " ")}
_SCALES = {text: float(text) for text in ("1", "1e-3", "1e-6", "10")}
#: the words of a choice, by its field
_CHOICES: dict[str, dict[str, Any]] = {
    "delimiter": _SEPARATORS,
    "decimal": {".": ".", ",": ","},
    "time_scale": _SCALES,
    "volt_scale": _SCALES,
    "is_raw": {"yes": True},
    "is_ac": {"ac": True, "dc": False},
}


class WaveForm(CaseForm):
    """A record as it is described: of what, under what load, and how its file is read."""

    drawn = ("wave", "wave-said")
    has_own_ids = True

    rail = PlacedField(validators=[Length(max=20)])
    record = WholeField()
    is_raw = ChoiceField(
        "Where",
        validate_choice=False,
        choices=choices(("", "at the output"), ("yes", "at the raw filter")),
    )
    nominal_v = QuantityField("Raw volts, about", Unit.VOLT)
    load = ChoiceField("Load", choices=choices(*_LOADS), validate_choice=False)
    load_a = QuantityField("Its current", Unit.AMPERE, above_zero=True)
    is_ac = ChoiceField("Coupling", choices=choices(_GUESS, ("ac", "AC"), ("dc", "DC")),
                        validate_choice=False)  # fmt: skip
    limit_v = QuantityField("Ripple allowed, p-p", Unit.VOLT, above_zero=True)
    delta_a = QuantityField("Choke's ripple current", Unit.AMPERE, above_zero=True)
    switching_hz = ReadField("Switching at", _hertz)
    channel = ReadField("Channel", _count)
    delimiter = ChoiceField(
        "Between columns", validate_choice=False,
        choices=choices(
            _GUESS, (",", "comma"), (";", "semicolon"), ("\t", "tab"), (" ", "space")
        ),
    )  # fmt: skip
    decimal = ChoiceField("Decimal mark", choices=choices(_GUESS, (".", "point"), (",", "comma")),
                          validate_choice=False)  # fmt: skip
    first_line = ReadField("Numbers from line", _count)
    time_column = ReadField("Time in column (0: none)", _count_or_none)
    time_scale = ChoiceField(
        "Time is in",
        validate_choice=False,
        choices=choices(_GUESS, ("1", "s"), ("1e-3", "ms"), ("1e-6", "µs")),
    )
    volt_scale = ChoiceField(
        "Volts are in",
        validate_choice=False,
        choices=choices(_GUESS, ("1", "V"), ("1e-3", "mV"), ("10", "V, × 10 probe")),
    )
    interval_s = ReadField("A sample every", seconds)
    full_scale_v = QuantityField("WAV: full scale is", Unit.VOLT, above_zero=True)

    def description(self) -> dict[str, Any]:
        """What is said, as the store keeps it; raises FormError with every field's problem."""
        fields: dict[str, Any] = {"load": self.load.data}
        problems: dict[str, str] = {}
        for field in self:
            if isinstance(field, ReadField):
                value = field.value
            elif field.name in _CHOICES and field.data:
                value = _CHOICES[field.name].get(field.data)
                if value is None:
                    problems[field.name] = "Choose one of the list."
            else:
                value = None
            if value is not None:
                fields[field.name] = value
        if fields.get("is_raw") and "nominal_v" not in fields:
            problems["nominal_v"] = "About how many volts are across the raw filter?"
        if problems:
            raise FormError(problems)
        return fields


class AsideForm(CaseForm):
    """A record to be put aside."""

    drawn = ("wave-aside",)
    has_own_ids = True

    record = WholeField()
    reason = TextField("Why", validators=[at_most(200)])
