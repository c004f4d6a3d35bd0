"""The server that `demo` and `serve` start."""

from __future__ import annotations

import gc
import logging
import socket
import threading
import time
from contextlib import suppress
from typing import TYPE_CHECKING

import click
from msgspec import Struct

from hale_rail.case.file import open_case
from hale_rail.errors import HaleRailError, StoreError
from hale_rail.stages.frame.bench import bench
from hale_rail.stages.frame.next_step import next_step, side_list
from hale_rail.store.database import Store

if TYPE_CHECKING:
    from hale_rail.web.auth.host_names import Names

DEFAULT_PORT = 5080
PORT = click.IntRange(1, 65535)
#: more than may wait to write, so that readers are always answered
_THREADS = 16
#: idle ones starve nobody; one that asks nothing for so many seconds is closed
_MOST_CONNECTIONS = 1000
_IDLE_S = 30
_AHEAD_S = 1.5


class Served(Struct, frozen=True):
    """Where and how a folder is served. `names`: what else this machine is called; `is_behind_tls`:
    a server with TLS on this machine stands before this one; `reach`: addresses and networks where
    instruments and vendors' services may be asked beyond the usual."""

    port: int
    host: str = "127.0.0.1"
    names: tuple[str, ...] = ()
    is_behind_tls: bool = False
    reach: tuple[str, ...] = ()


def _read_ahead(store: Store) -> None:
    """Read the newest cases beside the start."""

    def read() -> None:
        time.sleep(_AHEAD_S)  # whoever comes without delay is served first
        read_ahead(store)
        store.close()

    threading.Thread(target=read, name="ahead", daemon=True).start()


def shown(how: Served) -> str:
    host = f"[{how.host}]" if ":" in how.host else how.host
    return f"http://{host}:{how.port}"


def settle_memory() -> None:
    """Have what the start made, which stays, no longer looked over for what may be thrown away.

    A page makes some thousands of objects: looked over once a page or two, not ten times a page.
    """
    gc.freeze()
    gc.set_threshold(20_000, 10, 20)


port_option = click.option(
    "--port", type=PORT, default=DEFAULT_PORT, show_default=True, help="Port to serve on."
)


def run_server(store: Store, how: Served, names: Names | None = None) -> None:
    from hale_rail.web import MAX_WAVE, create_app
    from hale_rail.web.receiving import server_of

    with socket.socket(socket.AF_INET6 if ":" in how.host else socket.AF_INET) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((how.host, how.port))
        except OSError as error:
            raise StoreError(
                f"Port {how.port} on {how.host} is in use or not allowed ({error.strerror}). "
                "Choose another with --port."
            ) from error
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)  # a moment's queue is not news
    click.echo(f"Hale Rail serves {store.folder} at {shown(how)} (Ctrl+C ends it)")
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


#: how many cases: about as many as a bench has open
_RECENT = 6


def read_ahead(store: Store) -> None:
    """Open the newest cases of the bench and compute what every page of one shows.

    A case that cannot be opened tells so when somebody opens it.
    """
    with suppress(HaleRailError):
        for line in bench(store, "")[0][:_RECENT]:
            case = open_case(store, line.number)
            side_list(case)
            next_step(case)
