"""Families of instruments as data: how each is asked, and how its answers are read.

A family is a TOML file: `name`; `identification`, what its answer to *IDN? must match; `reply`, a
pattern with a group `value` and perhaps `unit`; `overload`, the texts and figures that mean none;
`baud`, the speed of a serial line; `probe`, where a simulated instrument is told what its probes
touch; and a table a procedure with `command`, `unit`, and where it matters `before` (commands sent
first), `after` (sent whatever happens), `accuracy`, `least` and `most` (SI), `confirm` (it puts out
voltage: what, in words), `open` (over range means that nothing conducts: read as OL), `typed` (how
the figure, for {}, is written down).
"""

from __future__ import annotations

import math
import re
import tomllib
from collections.abc import Mapping, Sequence
from functools import lru_cache
from importlib import resources
from typing import Any

from msgspec import Struct, field

from hale_rail.bench.link import BAUD, TIMEOUT_S
from hale_rail.bench.patterns import compiled
from hale_rail.core.procedures import PROCEDURES, by_code
from hale_rail.core.units import Unit
from hale_rail.errors import InputError

UNITS = ("Ω", "F", "V", "A")
#: what instruments write for the units
_SPELT = {
    "ohm": "Ω", "ohms": "Ω", "ω": "Ω", "f": "F", "v": "V", "vdc": "V", "a": "A", "adc": "A",
}  # fmt: skip
_SCALES = {"": 1.0, "p": 1e-12, "n": 1e-9, "u": 1e-6, "µ": 1e-6, "m": 1e-3, "k": 1e3, "M": 1e6}
_REPLY = r"(?P<value>[-+]?[0-9]*\.?[0-9]+(?:[eE][-+]?[0-9]+)?)\s*(?P<unit>[A-Za-zµΩ]*)"
#: what an instrument is assigned to that is not a procedure: a scope's record, rows of the soak
WAVEFORM = "waveform"
SOAK = "soak"
_LONGEST = 200
_MOST_BYTES, _MOST_LINES, _MOST_DEPTH = 16 * 1024, 20, 6
_MOST_TIMEOUT_S = 15.0
_QUOTED = re.compile(r"\"(?:[^\"\\]|\\.)*\"|'[^']*'")


class ProcedureCommands(Struct, frozen=True):
    """How one procedure is asked of a family."""

    command: str
    unit: str = ""
    before: tuple[str, ...] = ()
    after: tuple[str, ...] = ()
    accuracy: str = ""
    least: float | None = None
    most: float | None = None
    confirm: str = ""
    is_open: bool = False
    typed: str = ""


class InstrumentFamily(Struct, frozen=True):
    """A family of instruments; `procedures` by code."""

    code: str
    name: str
    identification: str
    reply: str
    overload: tuple[str, ...]
    procedures: Mapping[str, ProcedureCommands] = field(default_factory=dict)
    probe: str = ""
    timeout_s: float = TIMEOUT_S
    baud: int = BAUD

    def is_one(self, identity: str) -> bool:
        """True for an instrument that says it is of this family."""
        return compiled(self.identification).search(identity) is not None

    def is_over(self, text: str) -> bool:
        """True for an answer that means over range."""
        for token in self.overload:
            if text.strip().lower() == token.lower() or _same_figure(text, token):
                return True
        return False


def _same_figure(text: str, token: str) -> bool:
    try:
        return abs(float(text)) >= 0.999 * abs(float(token))
    except ValueError:
        return False


def scaled(unit: str) -> tuple[float, str] | None:
    """A unit as an instrument writes it: the factor to SI, and the unit; None for no unit."""
    if unit.lower() in _SPELT:
        return 1.0, _SPELT[unit.lower()]
    prefix, rest = unit[:1], unit[1:]
    if prefix in _SCALES and rest.lower() in _SPELT:
        return _SCALES[prefix], _SPELT[rest.lower()]
    return None


def read_family(code: str, text: str) -> InstrumentFamily:
    """A family from its TOML; raises InputError naming what cannot be."""
    _check_plain(text)
    try:
        family = tomllib.loads(text)
    except (ValueError, RecursionError) as error:
        raise InputError(f"That is not TOML: {str(error)[:200]}.", field="text") from error
    name = _text(family, "name", code)
    reply = _text(family, "reply", _REPLY)
    procedures = family.get("procedures")
    if not isinstance(procedures, dict) or not procedures:
        raise InputError(f"{name}: it needs a table [procedures.CODE] at least.", field="text")
    timeout = family.get("timeout_s", TIMEOUT_S)
    if not _is_number(timeout) or not 0 < timeout <= _MOST_TIMEOUT_S:
        raise InputError(
            f"{name}: timeout_s is seconds, {_MOST_TIMEOUT_S:g} at most.", field="text"
        )
    baud = family.get("baud", BAUD)
    if type(baud) is not int or not 300 <= baud <= 4_000_000:
        raise InputError(f"{name}: baud is a whole number, 300 at least.", field="text")
    return InstrumentFamily(
        code,
        name,
        _pattern(name, "identification", _text(family, "identification", ".")),
        _pattern(name, "reply", reply, group="value"),
        _texts(family, "overload", ("9.9E37",)),
        {key: _asking(name, key, entry) for key, entry in procedures.items()},
        _text(family, "probe", ""),
        float(timeout),
        baud,
    )


def _text(fields: Mapping[str, Any], key: str, usual: str) -> str:
    value = fields.get(key, usual)
    if not isinstance(value, str) or len(value) > _LONGEST:
        raise InputError(f"{key} is a text of at most {_LONGEST} characters.", field="text")
    return value


def _texts(fields: Mapping[str, Any], key: str, usual: Sequence[str] = ()) -> tuple[str, ...]:
    """A list of short texts or numbers; raises InputError."""
    value = fields.get(key, usual)
    if not isinstance(value, list | tuple) or len(value) > _MOST_LINES:
        raise InputError(f"{key} is a list of at most {_MOST_LINES} texts.", field="text")
    texts = tuple(each if isinstance(each, str) else f"{each}" for each in value)
    is_plain = all(isinstance(each, str | int | float) for each in value)
    if not is_plain or any(len(text) > _LONGEST or "\n" in text for text in texts):
        raise InputError(f"{key} holds lines of at most {_LONGEST} characters.", field="text")
    return texts


def _is_number(value: object) -> bool:
    is_plain = isinstance(value, int | float) and not isinstance(value, bool)
    return is_plain and math.isfinite(value)  # type: ignore[arg-type]


def _check_plain(text: str) -> None:
    """Raise InputError for what is too large or too deep to be a family, before it is parsed.

    A dotted key of thousands of names takes the parser gigabytes.
    """
    if len(text.encode()) > _MOST_BYTES:
        kb = _MOST_BYTES // 1024
        raise InputError(f"A family of instruments is a file of {kb} kB at most.", field="text")
    for number, line in enumerate(text.splitlines(), 1):
        bare = _QUOTED.sub("", line)
        name = bare.partition("=")[0]
        if name.count(".") > _MOST_DEPTH or max(map(bare.count, "[{")) > _MOST_DEPTH:
            raise InputError(f"Line {number} is nested too deep for a family.", field="text")


def _pattern(name: str, key: str, text: str, group: str = "") -> str:
    try:
        pattern = compiled(text)
    except InputError as error:
        raise InputError(f"{name}: {key}: {error}", field="text") from error
    if group and group not in pattern.groupindex:
        raise InputError(f"{name}: {key} needs a group named {group}.", field="text")
    return text


def _asking(name: str, key: str, entry: Any) -> ProcedureCommands:
    where = f"{name}, {key}"
    if not isinstance(entry, dict):
        raise InputError(f"{where}: it is a table.", field="text")
    command = _text(entry, "command", "")
    unit = _text(entry, "unit", "")
    if not command or "\n" in command:
        raise InputError(f"{where}: it needs a command, a line.", field="text")
    typed = _text(entry, "typed", "")
    _check_unit(where, key, unit, is_typed=bool(typed))
    least, most = entry.get("least"), entry.get("most")
    if any(end is not None and not _is_number(end) for end in (least, most)):
        raise InputError(f"{where}: least and most are numbers.", field="text")
    return ProcedureCommands(
        command,
        unit,
        _texts(entry, "before"),
        _texts(entry, "after"),
        _text(entry, "accuracy", ""),
        least,
        most,
        _text(entry, "confirm", ""),
        entry.get("open") is True,
        typed,
    )


def _check_unit(where: str, key: str, unit: str, *, is_typed: bool) -> None:
    """A procedure that the program has, in its unit; one that is `typed` may answer in another."""
    if key == WAVEFORM:
        return
    if unit not in UNITS:
        raise InputError(f"{where}: unit is one of {' '.join(UNITS)}.", field="text")
    known = by_code(key)
    if known is None and key != SOAK:
        codes = " ".join([*(p.code for p in PROCEDURES), SOAK, WAVEFORM])
        raise InputError(f"{where}: no such procedure; there are {codes}.", field="text")
    meant = known.unit.symbol if known else Unit.VOLT.symbol
    if unit != meant and not is_typed:
        raise InputError(f"{where}: it is read in {meant}, not in {unit}.", field="text")


@lru_cache(maxsize=1)
def shipped() -> Mapping[str, InstrumentFamily]:
    """The families that ship, by code."""
    folder = resources.files("hale_rail.bench") / "drivers"
    shipped = {}
    for path in sorted(folder.iterdir(), key=lambda p: p.name):
        if path.name.endswith(".toml"):
            code = path.name.removesuffix(".toml")
            shipped[code] = read_family(code, path.read_text(encoding="utf-8"))
    return shipped
