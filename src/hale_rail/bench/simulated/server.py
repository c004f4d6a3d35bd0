"""Serves simulated instruments on 127.0.0.1: a socket each, a line a command, a thread a client."""

from __future__ import annotations

import contextlib
import socketserver
import threading
from collections.abc import Iterator, Mapping
from typing import Any

from hale_rail.bench.reach import REACH
from hale_rail.bench.simulated.hand import Hand
from hale_rail.bench.simulated.scpi import KINDS, OVERRUN, Answer, SimulatedInstrument
from hale_rail.core.simulate.unit import SimulatedUnit

HOST = "127.0.0.1"
_LONGEST, _CHUNK = 4096, 8192
_MOST_CLIENTS = 256
#: a client that sends or receives nothing for this long is disconnected
_IDLE_S = 600.0


class _Client(socketserver.BaseRequestHandler):
    """One client of one instrument: garbage, half lines and floods are its own affair."""

    server: _Served

    def handle(self) -> None:
        """Answer line by line until the client goes."""
        with contextlib.suppress(OSError):
            self.request.settimeout(_IDLE_S)
            for line in self._lines():
                self._send(self.server.instrument.answer(line))

    def _lines(self) -> Iterator[str]:
        kept = b""
        while data := self.request.recv(_CHUNK):
            *lines, kept = (kept + data).split(b"\n")
            for line in lines:
                yield from self._line(line)
            if len(kept) > _LONGEST:
                self.server.instrument.refuse(OVERRUN)
                kept = b""

    def _line(self, line: bytes) -> Iterator[str]:
        if len(line) > _LONGEST:
            self.server.instrument.refuse(OVERRUN)
        else:
            yield line.decode("utf-8", errors="replace").replace("\x00", "")

    def _send(self, answer: Answer) -> None:
        if answer is not None:
            data = answer.encode() if isinstance(answer, str) else answer
            self.request.sendall(data + b"\n")


class _Served(socketserver.ThreadingTCPServer):
    """One instrument's socket."""

    allow_reuse_address = True
    daemon_threads = True
    block_on_close = False
    request_queue_size = 256

    def __init__(self, port: int, instrument: SimulatedInstrument) -> None:
        super().__init__((HOST, port), _Client)
        self.instrument = instrument
        self._room = threading.BoundedSemaphore(_MOST_CLIENTS)

    def process_request(self, request: Any, client_address: Any) -> None:
        """A thread for a client, as many as there is room for."""
        if self._room.acquire(blocking=False):
            super().process_request(request, client_address)
        else:
            self.shutdown_request(request)

    def process_request_thread(self, request: Any, client_address: Any) -> None:
        """The client's thread; its room is given back whatever happens."""
        try:
            super().process_request_thread(request, client_address)
        finally:
            self._room.release()

    def handle_error(self, request: Any, client_address: Any) -> None:
        """A client that breaks off is not news."""


class Instruments:
    """The four instruments on one bench; `ports` by kind. Raises OSError for a port it cannot have.

    Used in a `with`, it closes what it opened.
    """

    def __init__(self, unit: SimulatedUnit, ports: Mapping[str, int] | None = None) -> None:
        self.hand = Hand(unit)
        wanted = ports or {}
        self._served: dict[str, _Served] = {}
        self._is_serving = False
        try:
            for kind in KINDS:
                instrument = SimulatedInstrument(kind, self.hand)
                self._served[kind] = _Served(wanted.get(kind, 0), instrument)
        except OSError:
            self.close()
            raise
        for served in self._served.values():
            threading.Thread(target=served.serve_forever, args=(0.1,), daemon=True).start()
        self._is_serving = True
        REACH.add_own(self.ports.values())

    @property
    def ports(self) -> dict[str, int]:
        """The port of each instrument."""
        return {kind: served.server_address[1] for kind, served in self._served.items()}

    def close(self) -> None:
        """Stop serving."""
        for served in self._served.values():
            if self._is_serving:
                served.shutdown()
            served.server_close()

    def __enter__(self) -> Instruments:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()
