"""Reads the options of `hale-rail discharge` and says the plan in words."""

from __future__ import annotations

from pathlib import Path

from hale_rail.core.quantities import Unit, read, show
from hale_rail.core.safety.discharge import Discharge, discharge
from hale_rail.errors import InputError
from hale_rail.formats.stock_csv import read_stock


def plan(
    cap: str,
    volts: str | None,
    resistor: str | None,
    limit: str,
    stock: Path | None,
    readings: tuple[str, ...],
) -> Discharge:
    """Plan from the options as typed; raises InputError naming the option."""
    timed = [_reading(text) for text in readings]
    if volts is None and not timed:
        raise InputError("--volts is needed (or timed readings, --reading 0:336 --reading 30:210).")
    volt = _option("--volts", volts, Unit.VOLT) if volts else max(timed)[1]
    return discharge(
        _option("--cap", cap, Unit.FARAD),
        volt,
        ohm=_option("--resistor", resistor, Unit.OHM) if resistor else None,
        limit_volt=_option("--limit", limit, Unit.VOLT),
        stock=read_stock(_stock_text(stock)) if stock else (),
        readings=timed,
    )


def in_words(found: Discharge) -> str:
    """The plan as a few lines of text."""
    lines = [f"Energy {found.energy_j:.3g} J"]
    if found.ohm is not None:
        lines.append(f"Through {show(found.ohm, Unit.OHM)}: {found.why}")
    if found.tau_s is not None and found.time_s is not None:
        lines.append(f"RC {found.tau_s:.3g} s; {found.time_s:.3g} s to the limit")
    if found.peak_w is not None:
        lines.append(f"Peak {show(found.peak_w, Unit.WATT)}")
    return "\n".join([*lines, *(f"- {caution}" for caution in found.cautions)])


def _option(name: str, text: str, unit: Unit) -> float:
    try:
        return read(text, unit, allow_words=False).value
    except InputError as error:
        raise InputError(f"{name}: {error}") from error


def _reading(text: str) -> tuple[float, float]:
    seconds, colon, volts = text.partition(":")
    if not colon:
        raise InputError(f"--reading {text}: write seconds:volts, such as 30:210.")
    return _option("--reading", seconds, Unit.SECOND), _option("--reading", volts, Unit.VOLT)


def _stock_text(path: Path) -> str:
    try:
        return path.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise InputError(f"--stock {path} cannot be read.") from error
