"""Reads the options of `hale-rail discharge` and says the plan in words."""

from __future__ import annotations

from pathlib import Path

from hale_rail.core.quantities import Unit, read, show
from hale_rail.core.safety.discharge import Discharge, discharge
from hale_rail.errors import InputError
from hale_rail.formats.stock_csv import read_stock
from hale_rail.formats.texts import read_file


def plan(
    cap: str,
    volts: str | None,
    resistor: str | None,
    limit: str,
    stock: Path | None,
    readings: tuple[str, ...],
    fitted: str | None = None,
) -> Discharge:
    """Plan from the options as typed; raises InputError naming the option."""
    timed = [_reading(text) for text in readings]
    if volts is None and not timed:
        raise InputError("--volts is needed (or timed readings, --reading 0:336 --reading 30:210).")
    volt = max(timed)[1] if volts is None else _option("--volts", volts, Unit.VOLT)
    return discharge(
        _option("--cap", cap, Unit.FARAD),
        volt,
        ohm=None if resistor is None else _option("--resistor", resistor, Unit.OHM),
        limit_volt=_option("--limit", limit, Unit.VOLT),
        stock=read_stock(_stock_text(stock)) if stock else None,
        readings=timed,
        fitted_ohm=None if fitted is None else _option("--fitted", fitted, Unit.OHM),
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
    seconds, colon, volts = text.rpartition(":")
    if not colon:
        raise InputError(f"--reading {text}: write seconds:volts, such as 30:210.")
    return _option("--reading", seconds, Unit.SECOND), _option("--reading", volts, Unit.VOLT)


def _stock_text(path: Path) -> str:
    try:
        return read_file(path)
    except InputError as error:
        raise InputError(f"--stock: {error}") from error
