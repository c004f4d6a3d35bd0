"""Analyse a wave record of a rail."""

from __future__ import annotations

import re
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import click

from hale_rail.cli._command import FILE, Answer, json_command, naming
from hale_rail.core.quantities import Unit, read, show
from hale_rail.core.ripple.analyse import analyse
from hale_rail.core.ripple.question import STAGES, RippleQuestion
from hale_rail.errors import InputError
from hale_rail.formats.records.ripple_record import RippleRecord, ripple_record
from hale_rail.formats.records.wave_layout import Corrections
from hale_rail.formats.records.waves import read_wave

_HERTZ = re.compile(r"(\d+(?:\.\d+)?|\.\d+)\s*([kM]?)\s*(?:Hz|hz)?")
_TIMES = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "ns": 1e-9}
_VOLTS = {"V": 1.0, "mV": 1e-3, "uV": 1e-6}
_FACTORS = {"": 1.0, "k": 1e3, "M": 1e6}
#: a half-bridge's output stage is a forward one
_STAGES = {**STAGES, "half-bridge": STAGES["forward"]}


def analysed(path: Path, options: Mapping[str, Any]) -> RippleRecord:
    """The command's JSON contract; raises InputError naming the file or the option."""
    coupling = options["coupling"]
    question = RippleQuestion(
        nominal_v=_nominal(options["nominal"]),
        limit_v=_above_zero(options, "limit", Unit.VOLT),
        is_raw=options["raw"],
        mains_hz=float(options["mains"]) if options["mains"] else None,
        load_a=_above_zero(options, "load", Unit.AMPERE),
        stage=_STAGES.get(options["topology"] or ""),
        is_ac=None if coupling is None else coupling == "ac",
        switching_hz=_hertz(options["switching"]),
        full_load_a=_above_zero(options, "full_load", Unit.AMPERE),
        delta_a=_above_zero(options, "delta_i", Unit.AMPERE),
        bank_esr_ohm=_above_zero(options, "bank_esr", Unit.OHM),
        nominal_farad=_above_zero(options, "nominal_cap", Unit.FARAD),
    )
    given = Corrections(
        channel=options["channel"],
        interval_s=_above_zero(options, "interval", Unit.SECOND),
        full_scale_v=_above_zero(options, "scale", Unit.VOLT),
        time_scale=_TIMES.get(options["time_unit"] or ""),
        volt_scale=_VOLTS.get(options["volt_unit"] or ""),
    )
    if path.is_dir():
        raise InputError(f"{path}: it is a folder.")
    with naming(path):
        return ripple_record(analyse(read_wave(path, given), question))


def _nominal(text: str) -> float:
    volt = _read("--nominal", text, Unit.VOLT)
    if volt == 0:
        raise InputError("--nominal: a rail of 0 V has no ripple to judge.")
    return volt


def _above_zero(options: Mapping[str, Any], key: str, unit: Unit) -> float | None:
    text = options[key]
    if text is None:
        return None
    name = f"--{key.replace('_', '-')}"
    value = _read(name, text, unit)
    if not value > 0:
        raise InputError(f"{name}: it must be above 0.")
    return value


def _read(name: str, text: str, unit: Unit) -> float:
    # bare prefixes, `30m` for ohms or `1.2u` for seconds, are read; a time's `m` is not a minute
    # here
    if unit is Unit.SECOND and (match := re.fullmatch(r"([\d.]+)\s*([munµ])s?", text.strip())):
        return float(match[1]) * {"m": 1e-3, "u": 1e-6, "µ": 1e-6, "n": 1e-9}[match[2]]
    try:
        return read(text, unit, allow_words=False).value
    except InputError as error:
        raise InputError(f"{name}: {error}") from error


def _hertz(text: str | None) -> float | None:
    if text is None:
        return None
    match = _HERTZ.fullmatch(text.strip())
    if match is None or not float(match[1]) > 0:
        raise InputError(f"--switching: “{text[:20]}” is not a frequency. Write it like 40k.")
    return float(match[1]) * _FACTORS[match[2]]


def in_words(answer: RippleRecord) -> str:
    """The same for a person: verdict, bands, causes, what the record cannot show."""

    def volts(value: float) -> str:
        return show(value, Unit.VOLT, 3)

    record, verdict = answer.record, answer.verdict.replace("-", " ")
    figures = f"{volts(answer.vpp_v)} p-p of {volts(answer.limit_v)}"
    lines = [
        f"{verdict}: {figures}; mean {volts(answer.mean_v)}, {volts(answer.vrms_v)} RMS",
        f"{record.samples} samples, {show(record.length_s, Unit.SECOND, 3)}; {record.dialect}",
    ]
    total = sum(answer.bands.values()) or 1.0
    lines += [
        f"  {name.replace('_', ' '):15} {volts(volt):>10}  {100 * volt / total:3.0f} %"
        for name, volt in answer.bands.items()
    ]
    if answer.switching_hz:
        lines.append(f"Switching at {answer.switching_hz / 1e3:.4g} kHz on the output")
    for cause in answer.causes:
        lines.append(f"{100 * cause.share:3.0f} % {cause.code}: {cause.text}")
        lines += [f"      {cause.advice}"] if cause.advice else []
    return "\n".join([*lines, *(f"- {text}" for text in answer.limits)])


@json_command
@click.argument("file", type=FILE)
@click.option("--nominal", required=True, metavar="VOLTS", help="The rail's volts, with its sign.")
@click.option("--limit", metavar="50mV", help="Ripple allowed, peak to peak.")
@click.option("--raw", is_flag=True, help="A raw rail: its usual limit is 10 % of nominal.")
@click.option("--mains", type=click.Choice(["50", "60"]), help="Mains, else found in the record.")
@click.option("--load", metavar="3A", help="What the rail gave while it was recorded.")
@click.option("--topology", type=click.Choice(["linear", "flyback", "forward", "half-bridge"]),
              help="What makes the rail.")  # fmt: skip
@click.option("--coupling", type=click.Choice(["dc", "ac"]), help="Else told from the mean.")
@click.option("--channel", type=click.IntRange(1, 99), default=1, show_default=True,
              help="Which column of volts.")  # fmt: skip
@click.option("--switching", metavar="40k", help="Switching frequency in hertz, else found.")
@click.option("--full-load", metavar="15A", help="The rail's full load.")
@click.option("--delta-i", metavar="1.2A", help="The current's ripple, peak to peak.")
@click.option("--bank-esr", metavar="30m", help="ESR that a sound bank has.")
@click.option("--nominal-cap", metavar="4700u", help="Capacitance as marked.")
@click.option("--interval", metavar="1us", help="Time between samples, where the file has none.")
@click.option("--scale", metavar="1.5V", help="The volts of a WAV's full scale.")
@click.option("--time-unit", type=click.Choice(["s", "ms", "us", "ns"]), help="The time column's.")
@click.option("--volt-unit", type=click.Choice(["V", "mV", "uV"]), help="The volts column's.")
def command(file: Path, **options: Any) -> Answer:
    """Analyse FILE, a wave record of a rail: CSV of an oscilloscope, or WAV.

    Exits 0 whatever the verdict; 2 with file and line when it is not a record.
    """
    answer = analysed(file, options)
    return Answer(answer, in_words(answer))
