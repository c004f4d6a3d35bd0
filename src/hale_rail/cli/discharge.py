"""Plan how a charged capacitor is bled."""

from __future__ import annotations

from pathlib import Path

import click

from hale_rail.cli._command import FILE, Answer, json_command, naming, read_with
from hale_rail.core.quantities import Unit, joules, read, show
from hale_rail.core.safety.discharge import Discharge, discharge
from hale_rail.errors import InputError
from hale_rail.formats.workshop.stock_csv import read_stock


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
    with naming("--stock"):
        resistors = read_with(stock, read_stock) if stock else None
    return discharge(
        _option("--cap", cap, Unit.FARAD),
        volt,
        ohm=None if resistor is None else _option("--resistor", resistor, Unit.OHM),
        limit_volt=_option("--limit", limit, Unit.VOLT),
        stock=resistors,
        readings=timed,
        fitted_ohm=None if fitted is None else _option("--fitted", fitted, Unit.OHM),
    )


def in_words(discharge: Discharge) -> str:
    """The plan as a few lines of text."""
    lines = [f"Energy {joules(discharge.energy_j)}"]
    if discharge.ohm is not None:
        lines.append(f"Through {show(discharge.ohm, Unit.OHM)}: {discharge.why}")
    if discharge.tau_s is not None and discharge.time_s is not None:
        lines.append(f"RC {discharge.tau_s:.3g} s; {discharge.time_s:.3g} s to the limit")
    if discharge.peak_w is not None:
        lines.append(f"Peak {show(discharge.peak_w, Unit.WATT)}")
    return "\n".join([*lines, *(f"- {caution}" for caution in discharge.cautions)])


def _option(name: str, text: str, unit: Unit) -> float:
    with naming(name):
        return read(text, unit, allow_words=False).value


def _reading(text: str) -> tuple[float, float]:
    seconds, colon, volts = text.rpartition(":")
    if not colon:
        raise InputError(f"--reading {text}: write seconds:volts, such as 30:210.")
    return _option("--reading", seconds, Unit.SECOND), _option("--reading", volts, Unit.VOLT)


@json_command
@click.option("--cap", required=True, help="Capacitance, such as 220u.")
@click.option("--volts", help="Volts across it; may be left out when readings are given.")
@click.option("--resistor", help="Bleed through this, such as 10k.")
@click.option("--fitted", help="Ohms of the bleeder that is fitted, such as 150k.")
@click.option("--limit", default="60", show_default=True, help="Volts to reach.")
@click.option("--stock", type=FILE, help="CSV: ohms,watts,kind,max_volts.")
@click.option("--reading", "readings", multiple=True, metavar="S:V",
              help="A timed reading, seconds:volts; give two or more.")  # fmt: skip
def command(
    cap: str,
    volts: str | None,
    resistor: str | None,
    fitted: str | None,
    limit: str,
    stock: Path | None,
    readings: tuple[str, ...],
) -> Answer:
    """Plan how a charged capacitor is bled: energy, time, power, and the resistor to take."""
    discharge = plan(cap, volts, resistor, limit, stock, readings, fitted)
    return Answer(discharge.to_json(), in_words(discharge))
