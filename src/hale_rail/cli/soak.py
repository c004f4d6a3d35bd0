"""Judge a soak by its log."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

import click

from hale_rail.cli._command import FILE, Answer, json_command, naming
from hale_rail.core.quantities import Unit, read, show
from hale_rail.core.rails.judge import Tolerance, school_share
from hale_rail.core.soak.soak import USUAL_HOURS, USUAL_WARM_UP_S, SoakLimits, soak
from hale_rail.errors import InputError
from hale_rail.formats.readings.soak_csv import of_rail, read_hours, read_log, soak_json
from hale_rail.formats.tables.texts import read_file


def soaked(log: Path, options: Mapping[str, str | None]) -> dict[str, Any]:
    """The command's JSON contract; raises InputError naming the option or the file."""
    limits = _limits(options)
    text = read_file(log)
    try:
        return soak_json(soak(of_rail(read_log(text), options.get("rail") or ""), limits))
    except InputError as error:
        named = f"--{error.field.replace('_', '-')}: " if error.field else f"{log}: "
        raise InputError(f"{named}{error}") from error


def _limits(options: Mapping[str, str | None]) -> SoakLimits:
    nominal = _option("--nominal", options.get("nominal") or "", Unit.VOLT)
    if not nominal:
        raise InputError("--nominal: volts other than 0.")
    share = school_share(nominal, Tolerance.STRICT)
    low, high = sorted((nominal * (1 - share), nominal * (1 + share)))
    typed_low, typed_high = options.get("low"), options.get("high")
    typed_warm = options.get("warm_up")
    return SoakLimits(
        _option("--low", typed_low, Unit.VOLT) if typed_low else low,
        _option("--high", typed_high, Unit.VOLT) if typed_high else high,
        _hours(options.get("hours") or ""),
        _option("--warm-up", typed_warm, Unit.SECOND) if typed_warm else USUAL_WARM_UP_S,
        nominal_v=nominal,
    )


def _hours(text: str) -> float:
    with naming("--hours"):
        return read_hours(text) if text.strip() else USUAL_HOURS


def _option(name: str, text: str, unit: Unit) -> float:
    with naming(name):
        return read(text, unit, allow_words=False).value


def in_words(answer: dict[str, Any]) -> str:
    """The same for a person: the verdict, why, and the figures."""
    lines = [answer["verdict"].replace("-", " "), *answer["reasons"]]
    lines.append(f"{answer['samples']} rows over {answer['hours']:.2f} h")
    if answer["mean_v"] is not None:
        low, mean, high = (show(answer[f"{n}_v"], Unit.VOLT, 4) for n in ("min", "mean", "max"))
        lines.append(f"{low} to {high}, mean {mean}")
    if answer["trend"]:
        slope, low, high = (answer["trend"][n] * 1e3 for n in ("v_per_hour", "low", "high"))
        lines.append(f"trend {slope:+.3g} mV an hour ({low:+.3g} to {high:+.3g})")
    return "\n".join(lines)


@json_command
@click.argument("log", type=FILE)
@click.option("--nominal", required=True, metavar="VOLTS", help="The rail's volts, with its sign.")
@click.option("--low", metavar="VOLTS", help="Lower limit, else that of the strict school.")
@click.option("--high", metavar="VOLTS", help="Upper limit, else that of the strict school.")
@click.option("--hours", metavar="24", help="Hours that it is to run, 24 unless given.")
@click.option("--warm-up", metavar="30m", help="Left out of what is judged, 30m unless given.")
@click.option("--rail", metavar="KEY", help="Which rail, where the log has several.")
def command(log: Path, **options: Any) -> Answer:
    """Judge a soak: LOG.csv with at,volts and where known ripple_mv,temp_c,rail,event.

    Exits 0 whatever the verdict; 2 with file and line when a row cannot be used.
    """
    answer = soaked(log, options)
    return Answer(answer, in_words(answer))
