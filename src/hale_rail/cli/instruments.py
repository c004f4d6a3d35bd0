"""Serve simulated instruments."""

from __future__ import annotations

import json
import signal
import threading
from collections.abc import Mapping
from pathlib import Path

import click

from hale_rail.bench.simulated.server import Instruments
from hale_rail.cli._command import FILE, say, text_command
from hale_rail.cli.simulate import unit_of
from hale_rail.core.simulate.faults import find_fault
from hale_rail.core.simulate.unit import SimulatedUnit
from hale_rail.errors import InputError


def serve(unit: Path, fault: str, seed: int, ports: Mapping[str, int]) -> None:
    """Serve the four instruments; the first line of stdout is their ports. Raises InputError."""
    sheet = unit_of(unit)
    simulated_fault = find_fault(sheet, fault) if fault else None
    try:
        served = Instruments(SimulatedUnit(sheet, simulated_fault, seed), ports)
    except OSError as error:
        raise InputError(f"a port is in use or not allowed: {error.strerror}.") from error
    stop = threading.Event()
    for name in (signal.SIGTERM, signal.SIGINT):
        signal.signal(name, lambda *_: stop.set())
    with served:
        say(json.dumps(served.ports, separators=(",", ":")))
        stop.wait()


_PORT = click.IntRange(0, 65535)


@text_command
@click.option("--unit", required=True, type=FILE, help="UNIT.json.")
@click.option("--fault", default="", metavar="CODE", help="Such as short:Q1.")
@click.option("--seed", default=0, metavar="N", help="The same seed is the same unit.")
@click.option("--meter", default=0, type=_PORT, help="Port of the multimeter, 0: a free one.")
@click.option("--lcr", default=0, type=_PORT, help="Port of the LCR meter.")
@click.option("--supply", default=0, type=_PORT, help="Port of the bench supply.")
@click.option("--scope", default=0, type=_PORT, help="Port of the oscilloscope.")
@click.option("--json", "as_json", is_flag=True, help="As without: the first line is JSON.")
def command(unit: Path, fault: str, seed: int, as_json: bool, **ports: int) -> None:  # noqa: ARG001
    """Serve a simulated meter, LCR meter, bench supply and oscilloscope on 127.0.0.1.

    SCPI over TCP, a line a command. The first line of stdout is their ports as JSON. SIM:PROBE puts
    an instrument's probes somewhere, SIM:POWER is the hand at the plug.
    """
    serve(unit, fault, seed, ports)
