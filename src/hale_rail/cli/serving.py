"""Starts the server for `demo` and `serve`."""

from __future__ import annotations

import socket
import threading
from pathlib import Path

import click
import platformdirs

from hale_rail.errors import StoreError
from hale_rail.store.database import Store

LOCAL_HOSTS = ("127.0.0.1", "localhost", "::1")
_APP = "hale-rail"


def serve(port: int, host: str, data: Path | None) -> None:
    """Serve the workshop's own data folder."""
    if host not in LOCAL_HOSTS:
        raise StoreError(
            f"{host} would open the bench to the network, which this version does not protect: "
            "serve on 127.0.0.1."
        )
    store = Store(own_folder(data))
    store.backup_if_due()
    _run(store, host, port)


def own_folder(data: Path | None) -> Path:
    """The workshop's own data folder, or the one that was named."""
    return data or Path(platformdirs.user_data_dir(_APP, appauthor=False))


def demo(port: int, data: Path | None, reset: bool, vendor_port: int) -> None:
    """Serve the demo workshop from its own folder, made when absent, or anew with `reset`.

    Stand-in vendors answer on `vendor_port`, simulated instruments on free ports.
    """
    from hale_rail.bench.simulated.server import Instruments
    from hale_rail.demo import instruments
    from hale_rail.demo.load import ensure_demo
    from hale_rail.demo.sourcing import point_to_service

    folder = data or Path(platformdirs.user_data_dir(f"{_APP}-demo", appauthor=False))
    store = ensure_demo(folder, reset=reset)
    base = serve_vendors(vendor_port)
    point_to_service(store, base)
    click.echo(f"Stand-in vendors answer at {base}")
    with Instruments(instruments.unit()) as served:
        instruments.point_to(store, served.ports)
        click.echo("Simulated instruments stand at LW-014: Workshop, Instruments")
        _run(store, "127.0.0.1", port)


def serve_vendors(port: int) -> str:
    """Serve the stand-in vendors beside the demo, on a free port where theirs is taken."""
    from waitress.server import create_server

    from hale_rail.demo.sourcing import service_rows
    from hale_rail.demo.vendor_service import create_service

    app = create_service(service_rows())
    try:
        server = create_server(app, host="127.0.0.1", port=port, threads=4, ident=None)
    except OSError:
        server = create_server(app, host="127.0.0.1", port=0, threads=4, ident=None)
    threading.Thread(target=server.run, name="vendors", daemon=True).start()
    return f"http://127.0.0.1:{server.effective_port}"


def _run(store: Store, host: str, port: int) -> None:
    from waitress import serve as waitress_serve

    from hale_rail.web import create_app

    with socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            raise StoreError(
                f"Port {port} on {host} is taken or not allowed ({error.strerror}). "
                "Choose another with --port."
            ) from error
    click.echo(f"Hale Rail serves {store.folder} at http://{host}:{port} (Ctrl+C ends it)")
    waitress_serve(create_app(store), host=host, port=port, threads=4, ident=None)
