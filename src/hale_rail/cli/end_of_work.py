"""The commands of the end of the work, and of whole cases. Heavy imports wait for one."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from hale_rail.cli.output import print_json, run, say, tell_problems

_data = click.option(
    "--data",
    type=click.Path(file_okay=False, path_type=Path),
    help="Data folder, else that of `serve`.",
)


@click.command()
@click.argument("source", type=click.Path(path_type=Path))
@click.argument("target", type=click.Path(path_type=Path))
@click.option("--length", metavar="0.4", help="Metres of each wire, 0.4 unless told.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON and nothing else.")
def harness(source: Path, target: Path, length: str | None, as_json: bool) -> None:
    """Plan a harness: SOURCE.csv a supply's rails, TARGET.csv the pins of a connector.

    SOURCE has rail_v,amps,conductors and where known awg,pin_amps (ground as rail 0), TARGET
    pin,kind and of a rail rail_v,amps: `9 VAC` alternates, `6 total` is shared by the rail's pins.
    Exits 2 with file and line when a row cannot be used.
    """
    from hale_rail.cli.harnessing import in_words, planned

    found = run(lambda: planned(source, target, length))
    print_json(found) if as_json else say(in_words(found))


@click.command()
@click.argument("log", type=click.Path(path_type=Path))
@click.option("--nominal", required=True, metavar="VOLTS", help="The rail's volts, with its sign.")
@click.option("--low", metavar="VOLTS", help="Lower limit, else that of the strict school.")
@click.option("--high", metavar="VOLTS", help="Upper limit, else that of the strict school.")
@click.option("--hours", metavar="24", help="How long it is to run, 24 unless told.")
@click.option("--warm-up", metavar="30m", help="Left out of what is judged, 30m unless told.")
@click.option("--rail", metavar="KEY", help="Which rail, where the log has several.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON and nothing else.")
def soak(log: Path, as_json: bool, **options: Any) -> None:
    """Judge a soak: LOG.csv with at,volts and where known ripple_mv,temp_c,rail,event.

    Exits 0 whatever the verdict; 2 with file and line when a row cannot be used.
    """
    from hale_rail.cli.soaking import in_words, soaked

    found = run(lambda: soaked(log, options))
    print_json(found) if as_json else say(in_words(found))


@click.command()
@click.argument("units", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Print JSON and nothing else.")
def lifetimes(units: Path, as_json: bool) -> None:
    """Fit lifetimes: UNITS.csv with years,failed and where wanted group.

    Units that still work count as such. Exits 2 when no row can be used.
    """
    from hale_rail.cli.ageing import fitted, in_words

    found = run(lambda: fitted(units))
    print_json(found) if as_json else say(in_words(found))
    tell_problems(units, found["problems"])


@click.command()
@click.argument("case")
@click.option("-o", "--output", type=click.Path(dir_okay=False, path_type=Path),
              help="The file, else CASE.zip here.")  # fmt: skip
@_data
def export(case: str, output: Path | None, data: Path | None) -> None:
    """Write a whole CASE, by its number, as a bundle: a ZIP that another workshop takes in."""
    from hale_rail.cli.moving import put_out

    say(run(lambda: put_out(case, output, data)))


@click.command("import")
@click.argument("file", type=click.Path(path_type=Path))
@_data
@click.option("--json", "as_json", is_flag=True, help="Print JSON and nothing else.")
def take_in(file: Path, data: Path | None, as_json: bool) -> None:
    """Take a bundle's case in, all or nothing. A number that is taken becomes the next free one."""
    from hale_rail.cli.moving import in_words, taken_in

    found = run(lambda: taken_in(file, data))
    print_json(found) if as_json else say(in_words(found))


COMMANDS = (harness, soak, lifetimes, export, take_in)
