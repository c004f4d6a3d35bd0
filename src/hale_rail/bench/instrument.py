"""One reading from an instrument: asked by its family, understood wholly, or told what it was."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from contextlib import contextmanager

from msgspec import Struct

from hale_rail.bench.driver import WAVEFORM, InstrumentFamily, ProcedureCommands, scaled
from hale_rail.bench.link import Link
from hale_rail.bench.patterns import compiled
from hale_rail.errors import (
    InputError,
    InstrumentError,
    OverloadError,
    RangeError,
    RefusedError,
    ReplyError,
)

#: what a person types for over range where nothing conducts
OPEN = "OL"
_IDENTITY, _ERRORS = "*IDN?", "SYST:ERR?"
_ERROR = re.compile(r"\s*([-+]?\d{1,6})\s*(?:,\s*\"([^\"]{0,120})\".*)?")
#: an answer that may be shown: what is not an instrument's stays where it is
_FIGURE = re.compile(r"[-+]?[0-9.,eE+-]{1,24}\s?[A-Za-zµΩ]{0,6}")
_MOST_ERRORS = 20
#: prefixes as a person writes them; farads without the milli that old parts mean otherwise
_SMALL = ((1e-6, "u"), (1e-9, "n"), (1e-12, "p"))
_SCALE = ((1e6, "M"), (1e3, "k"), (1.0, ""), (1e-3, "m"), *_SMALL)


class Probe(Struct, frozen=True):
    """What the probes touch, for a simulated instrument: part or rail, condition, pair."""

    target: str
    condition: str = ""
    pair: str = ""


class InstrumentReading(Struct, frozen=True):
    """What an instrument showed: SI value, its text as a person would type it, the raw answer."""

    value: float
    text: str
    raw: str


def identify(link: Link) -> str:
    """What the instrument says it is; raises InstrumentError."""
    identity = link.query(_IDENTITY).strip()
    if not identity:
        raise ReplyError("It answered nothing to *IDN?.")
    return identity[:200]


def _settle(link: Link) -> None:
    """Empty the error queue, so that the next error is this reading's."""
    for _ in range(_MOST_ERRORS):
        if _error(link)[0] == 0:
            return


def _error(link: Link) -> tuple[int, str]:
    match = _ERROR.fullmatch(link.query(_ERRORS))
    if match is None:
        raise ReplyError("Its error queue is not understood.")
    return int(match[1]), (match[2] or "").strip()


def _check(link: Link, command: str) -> None:
    code, text = _error(link)
    if code:
        raise RefusedError(
            f"The instrument refused {command}: {text or 'no word why'} ({code}).", code, text
        )


@contextmanager
def _asked(
    link: Link, family: InstrumentFamily, asking: ProcedureCommands, probe: Probe | None
) -> Iterator[None]:
    """What is sent before, and whatever happens, after: an output never stays on.

    What was refused of it ends it there: nothing is switched on at a setting that was not taken.
    """
    _settle(link)
    if family.probe and probe:
        _put(link, family, probe)
    try:
        for line in asking.before:
            link.write(line)
            _check(link, line)
        yield
    finally:
        for line in asking.after:
            link.write(line)


def _put(link: Link, family: InstrumentFamily, probe: Probe) -> None:
    fields = (probe.target, probe.condition, probe.pair)
    if any('"' in text or "\n" in text for text in fields):
        raise InputError("A name with a quote cannot be sent to an instrument.")
    command = (
        family.probe.replace("{target}", probe.target)
        .replace("{condition}", probe.condition)
        .replace("{pair}", probe.pair)
    )
    link.write(command)
    _check(link, command)


def asking_of(
    family: InstrumentFamily, procedure: str, *, confirmed: bool = False
) -> ProcedureCommands:
    """How a procedure is asked; raises InputError where it is not, or needs a word first."""
    asking = family.procedures.get(procedure)
    if asking is None:
        raise InputError(f"{family.name} has no command for this procedure.")
    if asking.confirm and not confirmed:
        raise InputError(f"It puts out voltage: {asking.confirm} Confirm it each time.")
    return asking


def take(
    link: Link,
    family: InstrumentFamily,
    procedure: str,
    probe: Probe | None = None,
    *,
    confirmed: bool = False,
) -> InstrumentReading:
    """One reading; raises InstrumentError or RangeError saying what it was instead."""
    asking = asking_of(family, procedure, confirmed=confirmed)
    with _asked(link, family, asking, probe):
        raw = _answer(link, asking.command)
    return understood(family, asking, raw)


def _answer(link: Link, command: str) -> str:
    """The answer; a silence after which the error queue says why is a refusal."""
    try:
        raw = link.query(command)
    except InstrumentError:
        _check(link, command)
        raise
    if not raw.strip():
        _check(link, command)
        raise ReplyError(f"An empty answer to {command}.")
    return raw.strip()


def take_record(link: Link, family: InstrumentFamily, probe: Probe | None = None) -> bytes:
    """A scope's record as it sends it; raises InstrumentError."""
    asking = asking_of(family, WAVEFORM)
    with _asked(link, family, asking, probe):
        data = link.query_block(asking.command)
    if not data:
        raise ReplyError("The record is empty.")
    return data


def understood(family: InstrumentFamily, asking: ProcedureCommands, raw: str) -> InstrumentReading:
    """An answer as a figure of the wanted unit; raises InstrumentError or RangeError."""
    if family.is_over(raw):
        if asking.is_open:
            return InstrumentReading(math.inf, OPEN, raw)
        raise OverloadError(
            "The instrument shows an overload: over its range, or something there is charged."
        )
    match = compiled(family.reply).fullmatch(raw)
    if match is None:
        raise ReplyError(f"{_shown(raw)} is not a reading.")
    value = _figure(match["value"], raw)
    unit = (match.groupdict().get("unit") or "").strip()
    if unit:
        known = scaled(unit)
        if known is None or known[1] != asking.unit:
            raise ReplyError(f"{_shown(raw)} is not in {asking.unit}, the unit that is needed.")
        value *= known[0]
    _check_range(asking, value)
    return InstrumentReading(value, typed(value, asking.unit), raw)


def _figure(text: str, raw: str) -> float:
    try:
        value = float(text)
    except ValueError as error:
        raise ReplyError(f"{_shown(raw)} is not a reading.") from error
    if not math.isfinite(value):
        raise ReplyError(f"{_shown(raw)} is not a reading.")
    return value


def _shown(raw: str) -> str:
    """An answer to be told: as it is where it looks like a figure, else that there was one."""
    return f"“{raw}”" if _FIGURE.fullmatch(raw) else "The answer"


def _check_range(asking: ProcedureCommands, value: float) -> None:
    low, high = asking.least, asking.most
    if (low is not None and value < low) or (high is not None and value > high):
        ends = f"{low:g}" if high is None else f"{low or 0:g} to {high:g}"
        raise RangeError(
            f"{typed(value, asking.unit)}: out of range for this point, {ends} {asking.unit}. "
            "Check where the probes are."
        )


def typed(value: float, unit: str) -> str:
    """A figure as a person types it: `4.71 kΩ`, `2190 uF`, `0.543 V`."""
    if unit == "V" or value == 0:
        return f"{value:.6g} {unit}".strip()
    size = abs(value)
    known = _SMALL if unit == "F" else _SCALE
    scale, mark = next((s for s in known if size >= s[0]), known[-1])
    if unit == "Ω" and 1e-3 <= size < 1:
        scale, mark = 1.0, ""
    return f"{value / scale:.6g} {mark}{unit}"
