"""Load (or reuse) the demo workshop and serve it on this machine."""

from __future__ import annotations

import threading
from pathlib import Path

import click
from waitress.server import create_server

from hale_rail.bench.reach import REACH
from hale_rail.bench.simulated.server import Instruments
from hale_rail.cli._command import text_command
from hale_rail.cli._folders import app_folder
from hale_rail.cli._server import DEFAULT_PORT, PORT, Served, port_option, run_server, shown
from hale_rail.demo import instruments
from hale_rail.demo.vendor_service import create_service
from hale_rail.demo.vendors import point_to_service, stand_ins
from hale_rail.demo.workshop import ensure_demo
from hale_rail.store import folder_lock


def demo(port: int, data: Path | None, reset: bool, vendor_port: int) -> None:
    """Serve the demo workshop from its own folder, made when absent, or again with `reset`.

    Stand-in vendors answer on `vendor_port`, simulated instruments on free ports.
    """
    folder = data or app_folder("hale-rail-demo")
    how = Served(port)
    with folder_lock.hold(folder, shown(how)):
        store = ensure_demo(folder, reset=reset)
        base = serve_vendors(vendor_port)
        point_to_service(store, base)
        click.echo(f"Stand-in vendors answer at {base}")
        with Instruments(instruments.unit(store)) as served:
            instruments.point_to(store, served.ports)
            click.echo("Simulated instruments are connected to LW-014: Workshop, Instruments")
            run_server(store, how)


def serve_vendors(port: int) -> str:
    """Serve the stand-in vendors beside the demo, on a free port where theirs is taken."""
    app = create_service({key: each.parts for key, each in stand_ins().items()})
    try:
        server = create_server(app, host="127.0.0.1", port=port, threads=4, ident=None)
    except OSError:
        server = create_server(app, host="127.0.0.1", port=0, threads=4, ident=None)
    threading.Thread(target=server.run, name="vendors", daemon=True).start()
    REACH.add_own([int(server.effective_port)])
    return f"http://127.0.0.1:{server.effective_port}"


@text_command
@port_option
@click.option(
    "--data",
    type=click.Path(file_okay=False, path_type=Path),
    help="Data folder, else one of the demo's own.",
)
@click.option("--reset", is_flag=True, help="Throw the demo data away and make it new.")
@click.option(
    "--vendor-port",
    type=PORT,
    default=DEFAULT_PORT + 1,
    show_default=True,
    help="Port of the stand-in vendors.",
)
def command(port: int, data: Path | None, reset: bool, vendor_port: int) -> None:
    """Load (or reuse) the demo workshop and serve it on this machine."""
    demo(port, data, reset, vendor_port)
