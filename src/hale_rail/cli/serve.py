"""Serve your own workshop's data."""

from __future__ import annotations

import logging
import socket
import threading
import time
from pathlib import Path

import click

from hale_rail.bench.reach import REACH
from hale_rail.cli._command import data_option, text_command
from hale_rail.cli._folders import own_folder
from hale_rail.cli._server import Served, port_option, run_server, shown
from hale_rail.errors import StoreError
from hale_rail.store import folder_lock, passphrase
from hale_rail.store.database import Store
from hale_rail.web.auth.host_names import LOCAL, Names

_DAILY_LOOK_S = 600.0
_LOG = logging.getLogger("hale_rail")
_PLAIN = (
    "Over plain HTTP anyone on this network can read along, the passphrase too. The manual "
    "says how to put TLS in front (--behind-tls)."
)


def serve(how: Served, data: Path | None) -> None:
    """Serve the workshop's own data folder; raises StoreError where that would be unsafe, and
    InputError for a network that is not one."""
    REACH.allow(how.reach)
    folder = own_folder(data)
    known = Names(how.host, _called(how))
    if not (known.is_local or passphrase.is_set(folder)):
        raise StoreError(
            f"{shown(how)} opens the workshop to the network: set a passphrase first, with "
            "`hale-rail passphrase`, or serve on 127.0.0.1."
        )
    with folder_lock.hold(folder, shown(how)):
        store = Store(folder)
        _keep_daily(store)
        if not (known.is_local or how.is_behind_tls):
            click.echo(_PLAIN)
        run_server(store, how, known)


def _called(how: Served) -> tuple[str, ...]:
    """The names that were given; served to a network, this machine's own as well."""
    given = tuple(name.lower() for name in how.names)
    if how.host in LOCAL:
        return given
    own = socket.gethostname().lower()
    return (*given, own, f"{own}.local")


def _keep_daily(store: Store) -> None:
    """Back up when a day has gone, now and for as long as the server runs."""

    def look() -> None:
        while True:
            store.backup_if_due()
            if store.trouble:
                _LOG.error(store.trouble)
            time.sleep(_DAILY_LOOK_S)

    threading.Thread(target=look, name="backups", daemon=True).start()


@text_command
@port_option
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
@click.option(
    "--behind-tls", is_flag=True, help="A server with TLS runs in front, on this machine."
)
@click.option(
    "--reach",
    multiple=True,
    metavar="NETWORK",
    help="Let instruments and vendors be asked there too, such as 127.0.0.1 or 192.0.2.0/24.",
)
@data_option
def command(
    port: int,
    host: str,
    names: tuple[str, ...],
    behind_tls: bool,
    reach: tuple[str, ...],
    data: Path | None,
) -> None:
    """Serve your own workshop's data, on this machine or to the workshop's network."""
    serve(Served(port, host, names, behind_tls, reach), data)
