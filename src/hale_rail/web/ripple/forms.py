"""Forms of the ripple lab."""

from __future__ import annotations

import re
from typing import Any

from wtforms import SelectField
from wtforms.validators import Length

from hale_rail.core.errors import InputError
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
_GUESS = ("", "as found")
_LOADS = (("dummy", "dummy load"), ("machine", "in the machine"), ("no-load", "no load"))
_SECONDS = {"m": 1e-3, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "n": 1e-9}
#: fields that are a quantity, with their unit
_QUANTITIES = {
    "load_a": Unit.AMPERE, "limit_v": Unit.VOLT, "delta_a": Unit.AMPERE,
    "nominal_v": Unit.VOLT, "full_scale_v": Unit.VOLT,
}  # fmt: skip


class WaveForm(CaseForm):
    """A record as it is described: of what, under what load, and how its file is read."""

    drawn = ("wave", "wave-said")

    rail = PlacedField(validators=[Length(max=20)])
    record = WholeField()
    is_raw = SelectField(
        "Where",
        validate_choice=False,
        choices=choices(("", "at the output"), ("yes", "at the raw filter")),
    )
    nominal_v = TextField("Raw volts, about", validators=[_SHORT])
    load = SelectField("Load", choices=choices(*_LOADS), validate_choice=False)
    load_a = TextField("Its current", validators=[_SHORT])
    is_ac = SelectField("Coupling", choices=choices(_GUESS, ("ac", "AC"), ("dc", "DC")),
                        validate_choice=False)  # fmt: skip
    limit_v = TextField("Ripple allowed, p-p", validators=[_SHORT])
    delta_a = TextField("Choke's ripple current", validators=[_SHORT])
    switching_hz = TextField("Switching at", validators=[_SHORT])
    channel = TextField("Channel", validators=[_SHORT])
    delimiter = SelectField(
        "Between columns", validate_choice=False,
        choices=choices(
            _GUESS, (",", "comma"), (";", "semicolon"), ("\t", "tab"), (" ", "space")
        ),
    )  # fmt: skip
    decimal = SelectField("Decimal mark", choices=choices(_GUESS, (".", "point"), (",", "comma")),
                          validate_choice=False)  # fmt: skip
    first_line = TextField("Numbers from line", validators=[_SHORT])
    time_column = TextField("Time in column (0: none)", validators=[_SHORT])
    time_scale = SelectField(
        "Time is in",
        validate_choice=False,
        choices=choices(_GUESS, ("1", "s"), ("1e-3", "ms"), ("1e-6", "µs")),
    )
    volt_scale = SelectField(
        "Volts are in",
        validate_choice=False,
        choices=choices(_GUESS, ("1", "V"), ("1e-3", "mV"), ("10", "V, × 10 probe")),
    )
    interval_s = TextField("A sample every", validators=[_SHORT])
    full_scale_v = TextField("WAV: full scale is", validators=[_SHORT])

    def said(self) -> dict[str, Any]:
        """What is said, as the store keeps it; raises FormError with every field's problem."""
        fields: dict[str, Any] = {"load": self.load.data or ""}
        problems: dict[str, str] = {}
        for name in self.data:
            text = self.data[name]
            reader = _READERS.get(name)
            if reader is None or not isinstance(text, str) or not text.strip(" "):
                continue
            try:
                fields[name] = reader(name, text)
            except InputError as error:
                problems[name] = str(error)
        if fields.get("is_raw") and "nominal_v" not in fields and "nominal_v" not in problems:
            problems["nominal_v"] = "About how many volts stand at the raw filter?"
        if problems:
            raise FormError(problems)
        return fields


def _quantity(name: str, text: str) -> float:
    value = read(text, _QUANTITIES[name], allow_words=False).value
    if not value > 0 and name != "nominal_v":
        raise InputError("It must be above 0.")
    return value


def _count(name: str, text: str) -> int:
    least = 0 if name == "time_column" else 1
    if not text.strip().isascii() or not text.strip().isdecimal() or int(text) < least:
        raise InputError(f"A whole number from {least}.")
    return min(int(text), 10**9)


def seconds(_: str, text: str) -> float:
    """A sample interval such as `0.4us`; raises InputError."""
    match = re.fullmatch(r"(\d+(?:[.,]\d+)?(?:[eE][+-]?\d+)?)\s*([munµμ]?)s?", text.strip())
    value = float(match[1].replace(",", ".")) * _SECONDS.get(match[2], 1.0) if match else 0.0
    if not value > 0:
        raise InputError("Write it like 0.4us or 2e-6.")
    return value


def _hertz(_: str, text: str) -> float:
    match = re.fullmatch(r"(\d+(?:[.,]\d+)?)\s*(k?)\s*(?:hz)?", text.strip().lower())
    value = float(match[1].replace(",", ".")) * (1e3 if match[2] else 1) if match else 0.0
    if not value > 0:
        raise InputError("Write it like 66k.")
    return value


def _choice(_: str, text: str) -> str:
    if text not in (",", ";", "\t", " ", "."):
        raise InputError("Choose one of the list.")
    return text


def _scale(_: str, text: str) -> float:
    if text not in ("1", "1e-3", "1e-6", "10"):
        raise InputError("Choose one of the list.")
    return float(text)


def _is(name: str, text: str) -> bool:
    return text == {"is_raw": "yes", "is_ac": "ac"}[name]


_READERS: dict[str, Any] = {
    **dict.fromkeys(_QUANTITIES, _quantity),
    **dict.fromkeys(("channel", "first_line", "time_column"), _count),
    **dict.fromkeys(("delimiter", "decimal"), _choice),
    **dict.fromkeys(("time_scale", "volt_scale"), _scale),
    **dict.fromkeys(("is_raw", "is_ac"), _is),
    "interval_s": seconds,
    "switching_hz": _hertz,
}


class AsideForm(CaseForm):
    """A record to be put aside."""

    drawn = ("wave-aside",)

    record = WholeField()
    reason = TextField("Why", validators=[at_most(200)])
