"""Starts the server for `demo` and `serve`."""

from __future__ import annotations

import gc
import logging
import socket
import threading
import time
from contextlib import closing
from pathlib import Path
from typing import TYPE_CHECKING

import click
import platformdirs
from msgspec import Struct

from hale_rail.errors import StoreError
from hale_rail.store import passphrase, tenancy
from hale_rail.store.database import Store
from hale_rail.store.kept_files import private_folder

if TYPE_CHECKING:
    from hale_rail.web.auth.host_names import Names

_APP = "hale-rail"
#: more than may wait to write, so that somebody who reads is always answered
_THREADS = 16
#: idle ones starve nobody; one that asks nothing for so many seconds is closed
_MOST_CONNECTIONS = 1000
_IDLE_S = 30
_DAILY_LOOK_S = 600.0
_AHEAD_S = 1.5
_LOG = logging.getLogger("hale_rail")


class Served(Struct, frozen=True):
    """Where and how a folder is served. `names`: what else this machine is called; `is_behind_tls`:
    a server with TLS on this machine stands before this one; `reach`: addresses and networks where
    instruments and vendors' services may be asked beyond the usual."""

    port: int
    host: str = "127.0.0.1"
    names: tuple[str, ...] = ()
    is_behind_tls: bool = False
    reach: tuple[str, ...] = ()


def serve(how: Served, data: Path | None) -> None:
    """Serve the workshop's own data folder; raises StoreError where that would be unsafe, and
    InputError for a network that is none."""
    from hale_rail.bench.reach import REACH
    from hale_rail.web.auth.host_names import Names

    REACH.allow(how.reach)
    folder = own_folder(data)
    known = Names(how.host, _called(how))
    if not (known.is_local or passphrase.is_set(folder)):
        raise StoreError(
            f"{_shown(how)} opens the workshop to the network: set a passphrase first, with "
            "`hale-rail passphrase`, or serve on 127.0.0.1."
        )
    with closing(tenancy.hold(folder, _shown(how))):
        store = Store(folder)
        _keep_daily(store)
        if not (known.is_local or how.is_behind_tls):
            click.echo(_PLAIN)
        _run(store, how, known)


_PLAIN = (
    "Over plain HTTP whoever shares this network can read along, the passphrase too. The README "
    "says how to put TLS in front (--behind-tls)."
)


def _called(how: Served) -> tuple[str, ...]:
    """The names that were given; served to a network, this machine's own as well."""
    from hale_rail.web.auth.host_names import LOCAL

    given = tuple(name.lower() for name in how.names)
    if how.host in LOCAL:
        return given
    own = socket.gethostname().lower()
    return (*given, own, f"{own}.local")


def _read_ahead(store: Store) -> None:
    """Read the newest cases beside the start."""
    from hale_rail.stages.ahead import read_ahead

    def read() -> None:
        time.sleep(_AHEAD_S)  # who comes at once is served first
        read_ahead(store)
        store.close()

    threading.Thread(target=read, name="ahead", daemon=True).start()


def _shown(how: Served) -> str:
    host = f"[{how.host}]" if ":" in how.host else how.host
    return f"http://{host}:{how.port}"


def set_passphrase(data: Path | None, phrase: str | None) -> str:
    """Set the passphrase, or take it away (None); returns what to print. Raises HaleRailError."""
    folder = own_folder(data)
    if phrase is None:
        passphrase.remove(folder)
        return f"{folder} asks for no passphrase any more: it is served on this machine only."
    private_folder(folder)
    passphrase.put(folder, phrase)
    return f"{folder} asks for this passphrase from now on; who was signed in signs in again."


def _keep_daily(store: Store) -> None:
    """Back up when a day has gone, now and for as long as the server runs."""

    def look() -> None:
        while True:
            store.backup_if_due()
            if store.trouble:
                _LOG.error(store.trouble)
            time.sleep(_DAILY_LOOK_S)

    threading.Thread(target=look, name="backups", daemon=True).start()


def settle_memory() -> None:
    """Have what the start made, which stays, no longer looked over for what may be thrown away.

    A page makes some thousands of objects: looked over once a page or two, not ten times a page.
    """
    gc.freeze()
    gc.set_threshold(20_000, 10, 20)


def own_folder(data: Path | None) -> Path:
    """The workshop's own data folder, or the one that was named."""
    return data or Path(platformdirs.user_data_dir(_APP, appauthor=False))


def demo(port: int, data: Path | None, reset: bool, vendor_port: int) -> None:
    """Serve the demo workshop from its own folder, made when absent, or anew with `reset`.

    Stand-in vendors answer on `vendor_port`, simulated instruments on free ports.
    """
    from hale_rail.bench.simulated.server import Instruments
    from hale_rail.demo import instruments
    from hale_rail.demo.vendors import point_to_service
    from hale_rail.demo.workshop import ensure_demo

    folder = data or Path(platformdirs.user_data_dir(f"{_APP}-demo", appauthor=False))
    how = Served(port)
    with closing(tenancy.hold(folder, _shown(how))):
        store = ensure_demo(folder, reset=reset)
        base = serve_vendors(vendor_port)
        point_to_service(store, base)
        click.echo(f"Stand-in vendors answer at {base}")
        with Instruments(instruments.unit(store)) as served:
            instruments.point_to(store, served.ports)
            click.echo("Simulated instruments stand at LW-014: Workshop, Instruments")
            _run(store, how)


def serve_vendors(port: int) -> str:
    """Serve the stand-in vendors beside the demo, on a free port where theirs is taken."""
    from waitress.server import create_server

    from hale_rail.bench.reach import REACH
    from hale_rail.demo.vendor_service import create_service
    from hale_rail.demo.vendors import stand_ins

    app = create_service({key: each.parts for key, each in stand_ins().items()})
    try:
        server = create_server(app, host="127.0.0.1", port=port, threads=4, ident=None)
    except OSError:
        server = create_server(app, host="127.0.0.1", port=0, threads=4, ident=None)
    threading.Thread(target=server.run, name="vendors", daemon=True).start()
    REACH.add_own([int(server.effective_port)])
    return f"http://127.0.0.1:{server.effective_port}"


def _run(store: Store, how: Served, names: Names | None = None) -> None:
    from hale_rail.web import MAX_WAVE, create_app
    from hale_rail.web.receiving import server_of

    with socket.socket(socket.AF_INET6 if ":" in how.host else socket.AF_INET) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((how.host, how.port))
        except OSError as error:
            raise StoreError(
                f"Port {how.port} on {how.host} is taken or not allowed ({error.strerror}). "
                "Choose another with --port."
            ) from error
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)  # a moment's queue is no news
    click.echo(f"Hale Rail serves {store.folder} at {_shown(how)} (Ctrl+C ends it)")
    before = {"trusted_proxy": "127.0.0.1", "trusted_proxy_count": 1,
              "trusted_proxy_headers": {"x-forwarded-for", "x-forwarded-proto"},
              "clear_untrusted_proxy_headers": True}  # fmt: skip
    logging.basicConfig()
    app = create_app(store, names=names, is_behind_tls=how.is_behind_tls)
    settle_memory()
    _read_ahead(store)
    server_of(
        app,
        host=how.host,
        port=how.port,
        threads=_THREADS,
        ident=None,
        connection_limit=_MOST_CONNECTIONS,
        channel_timeout=_IDLE_S,
        cleanup_interval=_IDLE_S // 3,
        asyncore_use_poll=True,
        max_request_body_size=MAX_WAVE,
        **(before if how.is_behind_tls else {}),
    ).run()
