"""The command line: thin wrappers over the floors below. Heavy imports wait for a command."""

from __future__ import annotations

import atexit
import gc
import sys
from pathlib import Path
from typing import Any

import click

from hale_rail import __version__
from hale_rail.cli import data_folder, end_of_work, simulated_bench
from hale_rail.cli.output import print_json, run, say, tell_problems

DEFAULT_PORT = 5080
_CONTEXT = {"help_option_names": ["-h", "--help"]}
#: objects made before what may be thrown away is looked for: an import makes many and keeps them
_OBJECTS_A_LOOK = 50_000


@click.group(context_settings=_CONTEXT)
@click.version_option(__version__, prog_name="hale-rail")
def main() -> None:
    """Bench companion for restoring the power supplies of vintage computers."""
    gc.set_threshold(_OBJECTS_A_LOOK)
    atexit.register(gc.freeze)  # at the end all memory goes back at once: nothing is looked over


_data = click.option(
    "--data",
    type=click.Path(file_okay=False, path_type=Path),
    help="Data folder; each command has a default of its own.",
)
_port = click.option(
    "--port",
    type=click.IntRange(1, 65535),
    default=DEFAULT_PORT,
    show_default=True,
    help="Port to serve on.",
)


@main.command()
@_port
@_data
@click.option("--reset", is_flag=True, help="Throw the demo data away and make it new.")
@click.option(
    "--vendor-port",
    type=click.IntRange(1, 65535),
    default=DEFAULT_PORT + 1,
    show_default=True,
    help="Port of the stand-in vendors.",
)
def demo(port: int, data: Path | None, reset: bool, vendor_port: int) -> None:
    """Load (or reuse) the demo workshop and serve it on this machine."""
    from hale_rail.cli.serving import demo as run_demo

    run(lambda: run_demo(port, data, reset, vendor_port))


@main.command()
@_port
@click.option(
    "--host",
    default="127.0.0.1",
    show_default=True,
    help="Address to serve on; any but this machine's own needs a passphrase.",
)
@click.option(
    "--name",
    "names",
    multiple=True,
    metavar="NAME",
    help="Another name under which this machine is asked; may be given again.",
)
@click.option("--behind-tls", is_flag=True, help="A server with TLS on this machine is before it.")
@click.option(
    "--reach",
    multiple=True,
    metavar="NETWORK",
    help="Let instruments and vendors be asked there too, such as 127.0.0.1 or 192.0.2.0/24.",
)
@_data
def serve(
    port: int,
    host: str,
    names: tuple[str, ...],
    behind_tls: bool,
    reach: tuple[str, ...],
    data: Path | None,
) -> None:
    """Serve your own workshop's data, on this machine or to the workshop's network."""
    from hale_rail.cli.serving import Served
    from hale_rail.cli.serving import serve as run_serve

    run(lambda: run_serve(Served(port, host, names, behind_tls, reach), data))


@main.command()
@click.option("--remove", is_flag=True, help="Ask for none any more.")
@_data
def passphrase(remove: bool, data: Path | None) -> None:
    """Set the passphrase that other benches sign in with; it is asked for, or read from a pipe."""
    from hale_rail.cli.serving import set_passphrase

    click.echo(run(lambda: set_passphrase(data, None if remove else _asked_phrase())))


def _asked_phrase() -> str:
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\r\n")
    return str(click.prompt("Passphrase", hide_input=True, confirmation_prompt="Once more"))


@main.command()
@click.argument("parts", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Print JSON and nothing else.")
def triage(parts: Path, as_json: bool) -> None:
    """Judge the capacitors of PARTS, a CSV table.

    Columns (header required, any order): id, ref, family, value, voltage, bank, lifted, cap, esr,
    leak, ohms, visual, year, tolerance, grade, fresh_esr, fresh_cap, class. An empty field is not
    known. Exits 2 when no row could be read.
    """
    from hale_rail.cli.triaging import triage as judge_table
    from hale_rail.clock import this_year
    from hale_rail.formats.texts import read_file as read_text

    found = run(lambda: judge_table(read_text(parts), this_year()), str(parts))
    if as_json:
        print_json(found.to_json())
    else:
        for row, judgement in found.parts:
            name = " ".join(dict.fromkeys(word for word in (row.id, row.ref) if word))
            verdict, action = judgement.verdict.value, judgement.action.value
            why = judgement.reasons[0].sentence if judgement.reasons else ""
            say(f"{name:12} {verdict:9} {action:8} {why}")
    for problem in found.problems:
        click.echo(f"{parts}:{problem.line}: {problem.text}", err=True)
    if not found.parts:
        if not found.problems:
            click.echo(f"{parts}: there is no row below the header.", err=True)
        sys.exit(2)


@main.command()
@click.argument("unit", type=click.Path(path_type=Path))
@click.argument("readings", type=click.Path(path_type=Path))
@click.option("--school", type=click.Choice(["proven", "offenders", "blanket"]), default="proven",
              show_default=True, help="How much is replaced.")  # fmt: skip
@click.option("--tolerance", type=click.Choice(["strict", "lenient"]), default="strict",
              show_default=True, help="How far rails may be off.")  # fmt: skip
@click.option("--touch-limit", type=click.Choice(["60", "30"]), default="60", show_default=True,
              help="Volts that are safe to touch.")  # fmt: skip
@click.option("--json", "as_json", is_flag=True, help="Print JSON and nothing else.")
def judge(
    unit: Path, readings: Path, school: str, tolerance: str, touch_limit: str, as_json: bool
) -> None:
    """Judge a unit: UNIT.json its sheet, READINGS.csv what was read, in time order.

    Rows that cannot be used are named with their line; exits 2 when a file cannot be used at all.
    """
    from hale_rail.cli.bringing import brought
    from hale_rail.cli.judging import in_words, judged

    def found_out() -> dict[str, Any]:
        limit = float(touch_limit)
        with brought(
            unit, readings, school=school, tolerance=tolerance, touch_limit_v=limit
        ) as found:
            return judged(found)

    found = run(found_out)
    print_json(found) if as_json else say(in_words(found))
    tell_problems(readings, found["problems"])


@main.command()
@click.option("--cap", required=True, help="Capacitance, such as 220u.")
@click.option("--volts", help="Volts across it; may be left out when readings are given.")
@click.option("--resistor", help="Bleed through this, such as 10k.")
@click.option("--fitted", help="Ohms of the bleeder that is fitted, such as 150k.")
@click.option("--limit", default="60", show_default=True, help="Volts to reach.")
@click.option("--stock", type=click.Path(path_type=Path), help="CSV: ohms,watts,kind,max_volts.")
@click.option("--reading", "readings", multiple=True, metavar="S:V",
              help="A timed reading, seconds:volts; give two or more.")  # fmt: skip
@click.option("--json", "as_json", is_flag=True, help="Print JSON and nothing else.")
def discharge(
    cap: str,
    volts: str | None,
    resistor: str | None,
    fitted: str | None,
    limit: str,
    stock: Path | None,
    readings: tuple[str, ...],
    as_json: bool,
) -> None:
    """Plan how a charged capacitor is bled: energy, time, power, and the resistor to take."""
    from hale_rail.cli.bleeding import in_words, plan

    found = run(lambda: plan(cap, volts, resistor, limit, stock, readings, fitted))
    if as_json:
        print_json(found.to_json())
    else:
        say(in_words(found))


@main.command()
@click.argument("tree", type=click.Path(path_type=Path))
@click.argument("readings", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Print JSON and nothing else.")
def isolate(tree: Path, readings: Path, as_json: bool) -> None:
    """Find the assembly that holds a short: TREE.json what hangs on the rail, READINGS.csv.

    READINGS.csv has attached (ids joined by ;) and ohms (OL allowed). Exits 2 when a file cannot be
    used at all.
    """
    from hale_rail.cli.isolating import in_words, isolated

    found = run(lambda: isolated(tree, readings))
    print_json(found) if as_json else say(in_words(found))
    tell_problems(readings, found["problems"])


@main.command()
@click.argument("board", type=click.Path(path_type=Path))
@click.argument("readings", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Print JSON and nothing else.")
def trace(board: Path, readings: Path, as_json: bool) -> None:
    """Trace a shorted rail: BOARD.json its map, READINGS.csv drops, ohms, warmth, lifted legs.

    READINGS.csv has kind,plus,minus,inject,return,amps,value,unit,resolution; a heading alone gives
    the first probe. Exits 2 when a file cannot be used at all.
    """
    from hale_rail.cli.tracing import in_words, traced

    found = run(lambda: traced(board, readings))
    print_json(found) if as_json else say(in_words(found))
    for problem in found["problems"]:
        path, where = (readings, problem["line"]) if "line" in problem else (board, problem["id"])
        click.echo(f"{path}:{where}: {problem['text']}", err=True)


@main.command()
@click.argument("demand", type=click.Path(path_type=Path))
@click.argument("catalogue", type=click.Path(path_type=Path))
@click.option("--stock", type=click.Path(path_type=Path), help="CSV: what is in the drawers.")
@click.option("--vendors", type=click.Path(path_type=Path),
              help="CSV: vendor,shipping,free_above.")  # fmt: skip
@click.option("--max-vendors", type=click.IntRange(1, 99), help="At most so many vendors.")
@click.option("--spares", metavar="10%", help="Spares, on parts below 1.00 a piece.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON and nothing else.")
def plan(
    demand: Path,
    catalogue: Path,
    stock: Path | None,
    vendors: Path | None,
    max_vendors: int | None,
    spares: str | None,
    as_json: bool,
) -> None:
    """Plan a recap: DEMAND.csv what each position asks, CATALOGUE.csv what vendors offer.

    The cheapest order, parts and shipping. Positions without a part are named with the reason;
    rows that cannot be used with their line. Exits 2 when a file cannot be used at all.
    """
    from hale_rail.cli.planning import in_words, planned

    found = run(lambda: planned(demand, catalogue, stock, vendors, max_vendors, spares))
    print_json(found) if as_json else say(in_words(found))
    for problem in found["problems"]:
        click.echo(f"{problem['file']}:{problem['line']}: {problem['text']}", err=True)


@main.command()
@click.option("--rail", "rails", multiple=True, required=True, metavar="V:A",
              help="Volts and wanted amperes, such as 5:1.5; give one a rail.")  # fmt: skip
@click.option("--stock", type=click.Path(path_type=Path),
              help="CSV: ohms,watts,kind,max_volts,qty.")  # fmt: skip
@click.option("--loads", type=click.Path(path_type=Path),
              help="CSV of ready-made loads: load,kind,volts,amps,qty.")  # fmt: skip
@click.option("--json", "as_json", is_flag=True, help="Print JSON and nothing else.")
def dummy(rails: tuple[str, ...], stock: Path | None, loads: Path | None, as_json: bool) -> None:
    """Find dummy loads: a ready-made one, or one to three resistors a rail, of a stock or E12.

    A rail that no load comes near is named with the reason. Exits 2 when a rail or a list cannot
    be used at all.
    """
    from hale_rail.cli.loading import in_words, loaded

    found = run(lambda: loaded(rails, stock, loads))
    print_json(found) if as_json else say(in_words(found))


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
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
@click.option("--scale", metavar="1.5V", help="What a WAV's full scale stands for.")
@click.option("--time-unit", type=click.Choice(["s", "ms", "us", "ns"]), help="The time column's.")
@click.option("--volt-unit", type=click.Choice(["V", "mV", "uV"]), help="The volts column's.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON and nothing else.")
def ripple(file: Path, as_json: bool, **options: Any) -> None:
    """Analyse FILE, a wave record of a rail: CSV of an oscilloscope, or WAV.

    Exits 0 whatever the verdict; 2 with file and line when it is no record.
    """
    from hale_rail.cli.rippling import analysed, in_words

    found = run(lambda: analysed(file, options))
    print_json(found) if as_json else say(in_words(found))


@main.command()
@click.argument("unit", type=click.Path(path_type=Path), required=False)
@click.argument("readings", type=click.Path(path_type=Path), required=False)
@click.option("--symptom", "symptoms", multiple=True, metavar="CODE", help="What it does, by code.")
@click.option("--knowledge", is_flag=True, help="Print what the diagnosis knows.")
@click.option("--topology", type=click.Choice(["linear", "flyback", "half-bridge", "dc-fed"]),
              help="With --knowledge: of this topology alone.")  # fmt: skip
@click.option("--json", "as_json", is_flag=True, help="Print JSON and nothing else.")
def diagnose(
    unit: Path | None,
    readings: Path | None,
    symptoms: tuple[str, ...],
    knowledge: bool,
    topology: str | None,
    as_json: bool,
) -> None:
    """Where to look next: chances of faults from UNIT.json, READINGS.csv and a symptom."""
    from hale_rail.cli import diagnosing

    if knowledge:
        from hale_rail.core.supply.sheet import TOPOLOGIES, Topology

        wanted = [TOPOLOGIES[topology]] if topology else list(Topology)
        known = diagnosing.known(wanted)
        print_json(known) if as_json else say(diagnosing.knowledge_in_words(known))
        return
    if unit is None or readings is None or not symptoms:
        raise click.UsageError("UNIT.json, READINGS.csv and --symptom are needed, or --knowledge.")
    _diagnose(unit, readings, symptoms, as_json)


def _diagnose(unit: Path, readings: Path, symptoms: tuple[str, ...], as_json: bool) -> None:
    from hale_rail.cli.bringing import brought
    from hale_rail.cli.diagnosing import diagnosed, in_words

    def found_out() -> dict[str, Any]:
        with brought(unit, readings, symptoms=symptoms) as found:
            return diagnosed(found)

    found = run(found_out)
    print_json(found) if as_json else say(in_words(found))
    tell_problems(readings, found["problems"])


for _command in (*data_folder.COMMANDS, *end_of_work.COMMANDS, *simulated_bench.COMMANDS):
    main.add_command(_command)
