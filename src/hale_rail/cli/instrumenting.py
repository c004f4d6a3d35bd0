"""Serves simulated instruments until it is told to stop: `hale-rail instruments`."""

from __future__ import annotations

import json
import signal
import threading
from collections.abc import Mapping
from pathlib import Path

from hale_rail.bench.simulated.server import Instruments
from hale_rail.cli.output import say
from hale_rail.cli.simulating import unit_of
from hale_rail.core.simulate.faults import find_fault
from hale_rail.core.simulate.unit import Unit
from hale_rail.errors import InputError


def serve(unit: Path, fault: str, seed: int, ports: Mapping[str, int]) -> None:
    """Serve the four instruments; the first line of stdout is their ports. Raises InputError."""
    sheet = unit_of(unit)
    found = find_fault(sheet, fault) if fault else None
    try:
        served = Instruments(Unit(sheet, found, seed), ports)
    except OSError as error:
        raise InputError(f"a port is taken or not allowed: {error.strerror}.") from error
    stop = threading.Event()
    for name in (signal.SIGTERM, signal.SIGINT):
        signal.signal(name, lambda *_: stop.set())
    with served:
        say(json.dumps(served.ports, separators=(",", ":")))
        stop.wait()
