"""The commands of the bench that is not there. Heavy imports wait for one."""

from __future__ import annotations

from pathlib import Path

import click

from hale_rail.cli.output import print_json, run, say

_LIST = "list"


@click.command()
@click.argument("unit", type=click.Path(path_type=Path))
@click.option("--fault", default="", metavar="CODE", help="Such as short:Q1; `list` names all.")
@click.option("--seed", default=0, metavar="N", help="The same seed gives the same readings.")
@click.option("--ask", type=click.Path(path_type=Path), help="ASK.csv, what is to be read.")
@click.option("--truth", is_flag=True, help="Add what each part truly is.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON and nothing else.")
def simulate(
    unit: Path, fault: str, seed: int, ask: Path | None, truth: bool, as_json: bool
) -> None:
    """Read a simulated unit: UNIT.json with a fault in it, asked what ASK.csv says.

    ASK has the columns of READINGS.csv, `value` for power and replaced alone. Prints READINGS.csv.
    """
    from hale_rail.cli.simulating import Asking, as_csv, known_faults, simulated, tell

    if fault == _LIST:
        known = run(lambda: known_faults(unit))
        lines = [f"{f['code']:20} {f['name']}" for f in known["faults"]]
        print_json(known) if as_json else say("\n".join(lines))
        return
    found = run(lambda: simulated(Asking(unit, ask, fault, seed, truth)))
    print_json(found) if as_json else say(as_csv(found).rstrip())
    tell(ask or unit, found)


@click.command()
@click.option("--auto", is_flag=True, help="The engine plays itself.")
@click.option("--topology", default="", metavar="T", help="One topology, else all in turn.")
@click.option("--seeds", default="1-200", metavar="1-200", help="A drawn fault a seed.")
@click.option("--pairs", is_flag=True, help="Two faults a unit, repaired one after the other.")
@click.option("--repair", "to_the_end", is_flag=True, help="Go on until the unit is whole.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON and nothing else.")
def practice(
    auto: bool, topology: str, seeds: str, pairs: bool, to_the_end: bool, as_json: bool
) -> None:
    """Measure the diagnosis: it hunts drawn faults of simulated units by itself.

    A person practises on the page: `hale-rail serve`, Practice.
    """
    from hale_rail.cli.practising import in_words, measured

    if not auto:
        raise click.UsageError("say --auto; a person practises on the page, Practice.")
    found = run(lambda: measured(topology, seeds, pairs=pairs, to_the_end=to_the_end))
    print_json(found) if as_json else say(in_words(found))


_port = click.IntRange(0, 65535)


@click.command()
@click.option("--unit", required=True, type=click.Path(path_type=Path), help="UNIT.json.")
@click.option("--fault", default="", metavar="CODE", help="Such as short:Q1.")
@click.option("--seed", default=0, metavar="N", help="The same seed is the same unit.")
@click.option("--meter", default=0, type=_port, help="Port of the multimeter, 0: a free one.")
@click.option("--lcr", default=0, type=_port, help="Port of the LCR meter.")
@click.option("--supply", default=0, type=_port, help="Port of the bench supply.")
@click.option("--scope", default=0, type=_port, help="Port of the oscilloscope.")
@click.option("--json", "as_json", is_flag=True, help="As without: the first line is JSON.")
def instruments(unit: Path, fault: str, seed: int, as_json: bool, **ports: int) -> None:  # noqa: ARG001
    """Serve a simulated meter, LCR meter, bench supply and oscilloscope on 127.0.0.1.

    SCPI over TCP, a line a command. The first line of stdout is their ports as JSON. SIM:PROBE puts
    an instrument's probes somewhere, SIM:POWER is the hand at the plug.
    """
    from hale_rail.cli.instrumenting import serve

    run(lambda: serve(unit, fault, seed, ports))


COMMANDS = (simulate, practice, instruments)
