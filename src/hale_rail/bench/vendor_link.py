"""Asks a vendor's service for its live stock and prices, over HTTP, with limits on time and size.

Answer: JSON `{"currency", "parts": [{columns of a catalogue}]}`; whatever else comes is told. Only
what `bench.reach` allows is connected to, by the very address that was looked at; a redirect is
followed on the same host alone; and the whole of it, names, redirects and a trickle of bytes
included, has one deadline.
"""

from __future__ import annotations

import json
import socket
import ssl
import threading
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from http.client import HTTPConnection, HTTPException, HTTPSConnection
from typing import Any
from urllib.parse import SplitResult, urljoin, urlsplit

from msgspec import Struct

from hale_rail.bench.reach import REACH
from hale_rail.errors import InputError, ServiceError

TIMEOUT_S = 20.0
_MOST_BYTES = 32 * 1024 * 1024
_CHUNK = 64 * 1024
_MOST_REDIRECTS = 3
_MOVED = (301, 302, 303, 307, 308)
_PORTS = {"http": 80, "https": 443}
_LATE = "No answer within {:g} s: try again later."

#: opens an address for so many seconds; tests replace it
Opener = Callable[[str, float], Any]


class VendorAnswer(Struct, frozen=True):
    """What a service told: its currency, and its parts as rows of a catalogue."""

    currency: str
    parts: Sequence[Mapping[str, str]]


def ask(address: str, timeout_s: float = TIMEOUT_S, opener: Opener | None = None) -> VendorAnswer:
    """A service's answer; raises ServiceError with what went wrong and what that may mean."""
    until_s = time.monotonic() + timeout_s
    try:
        with (opener or opened)(address, timeout_s) as response:
            return parsed(_read(response, until_s, timeout_s))
    except TimeoutError as error:
        raise ServiceError(_LATE.format(timeout_s)) from error
    except InputError as error:
        raise ServiceError(f"The service cannot be asked: {error}") from error
    except (OSError, HTTPException, ValueError) as error:
        if time.monotonic() >= until_s:
            raise ServiceError(_LATE.format(timeout_s)) from error
        raise ServiceError(f"The service cannot be reached: {_why(error)}.") from error


def _why(error: Exception) -> str:
    if isinstance(error, HTTPException):
        return "what answers there is not HTTP"
    if isinstance(error, ssl.SSLError):
        return "its certificate, or its TLS, is not accepted"
    return str(getattr(error, "strerror", None) or error)[:120]


@contextmanager
def opened(address: str, timeout_s: float) -> Iterator[Any]:
    """The response at an address, its redirects followed; raises ServiceError, OSError."""
    until_s = time.monotonic() + timeout_s
    first = _split(address)
    for _ in range(1 + _MOST_REDIRECTS):
        target = _split(address)
        if target.hostname != first.hostname:
            raise ServiceError("The service sends to another host: give that address instead.")
        with _connected(target, until_s) as connection:
            path = (target.path or "/") + (f"?{target.query}" if target.query else "")
            connection.request("GET", path, headers={"Accept": "application/json"})
            response = connection.getresponse()
            if response.status not in _MOVED:
                if response.status >= 400:
                    raise ServiceError(f"The service answered {response.status}: try again later.")
                yield response
                return
            address = urljoin(address, response.headers.get("Location", ""))
    raise ServiceError("The service sends from one address to the next without end.")


def _split(address: str) -> SplitResult:
    """An address taken apart; raises ServiceError for what is not one of a service."""
    try:
        result = urlsplit(address)
        if result.scheme in _PORTS and result.hostname and (result.port is None or result.port > 0):
            return result
    except ValueError:
        pass
    raise ServiceError(f"{address[:80]} is not an address of a service.")


@contextmanager
def _connected(target: SplitResult, until_s: float) -> Iterator[HTTPConnection]:
    """A connection that is cut at the deadline, whatever it waits for then."""
    host, port = str(target.hostname), target.port or _PORTS[target.scheme]
    where = REACH.vendor(host, port)
    left_s = until_s - time.monotonic()
    if left_s <= 0:
        raise TimeoutError
    kind = HTTPSConnection if target.scheme == "https" else HTTPConnection
    connection = kind(host, port, timeout=left_s)
    # the address that was allowed, so that the name cannot lead elsewhere meanwhile
    connection._create_connection = (  # type: ignore[attr-defined]  # noqa: SLF001
        lambda _, *more: socket.create_connection((where, port), *more)
    )
    cut = threading.Timer(left_s, _cut, (connection,))
    cut.daemon = True
    cut.start()
    try:
        yield connection
    finally:
        cut.cancel()
        connection.close()


def _cut(connection: HTTPConnection) -> None:
    with suppress(OSError, AttributeError):
        connection.sock.shutdown(socket.SHUT_RDWR)


def _read(response: Any, until_s: float, timeout_s: float) -> bytes:
    data = bytearray()
    while chunk := response.read1(_CHUNK):
        data += chunk
        if len(data) > _MOST_BYTES:
            raise ServiceError("The answer is far too large: it is left alone.")
    if time.monotonic() >= until_s:
        raise ServiceError(_LATE.format(timeout_s))
    return bytes(data)


def parsed(data: bytes) -> VendorAnswer:
    """The answer of a service; raises ServiceError for none, for no JSON and for another shape."""
    if not data.strip():
        raise ServiceError("The answer is empty.")
    try:
        parsed = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise ServiceError("The answer is not JSON that can be read.") from error
    parts = parsed.get("parts") if isinstance(parsed, dict) else None
    if not isinstance(parts, list) or not all(isinstance(part, dict) for part in parts):
        raise ServiceError("The answer has no list of parts.")
    if not parts:
        raise ServiceError("The answer lists no part at all: the old prices stay.")
    rows = [{str(k): "" if v is None else str(v) for k, v in part.items()} for part in parts]
    return VendorAnswer(str(parsed.get("currency") or ""), rows)
