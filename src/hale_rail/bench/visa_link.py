"""A line to an instrument through PyVISA's pure-Python backend: network sockets, USB-serial.

Only the address that was given is opened: the network is never searched.
"""

from __future__ import annotations

import ipaddress
import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import lru_cache
from typing import Any

from hale_rail.bench.link import BAUD, TIMEOUT_S
from hale_rail.bench.reach import REACH
from hale_rail.errors import InputError, InstrumentError, NoAnswerError, ReplyError

_ADDRESS = re.compile(
    r"TCPIP\d*::[A-Za-z0-9.\-]{1,253}::(?:\d{1,5}::SOCKET|[A-Za-z0-9]+(?:::INSTR)?|INSTR)"
    r"|ASRL[A-Za-z0-9/._:+\-]{1,140}?::INSTR",
    re.ASCII,
)
_SERIAL = re.compile(r"ASRL(.+?)::INSTR")
_HOST = re.compile(r"(TCPIP\d*)::([^:]+)::(.+)")
#: port of the service that maps an instrument's ports
_VXI11, _LAST_PORT = 111, 65_535
EXAMPLE = "TCPIP0::192.168.0.20::5025::SOCKET"
_MOST_BLOCK = 64 * 1024 * 1024
_CHUNK = 64 * 1024


def checked_address(text: str) -> str:
    """An address as PyVISA writes it; raises InputError for what is none."""
    address = text.strip()
    if not _ADDRESS.fullmatch(address):
        raise InputError(
            f"“{address[:60]}” is not an address: write {EXAMPLE}, or ASRL/dev/ttyUSB0::INSTR.",
            field="address",
        )
    if (device := _SERIAL.fullmatch(address)) is not None:
        REACH.serial(device[1])
    host = _HOST.fullmatch(address)
    if host and _is_figures(host[2]):  # a name is looked up when it is asked
        reached_host(host)
    return address


def _is_figures(host: str) -> bool:
    try:
        ipaddress.ip_address(host)
    except ValueError:
        return False
    return True


def reached(text: str) -> str:
    """The address with its host as the figures that were allowed, so that no name can lead
    elsewhere meanwhile; raises InputError for what this machine may not connect to."""
    address = checked_address(text)
    match = _HOST.fullmatch(address)
    if match is None:
        return address
    return reached_host(match)


def reached_host(match: re.Match[str]) -> str:
    """The address of a match of `_HOST`, its host in figures; raises InputError."""
    board, host, rest = match.groups()
    port = int(rest.removesuffix("::SOCKET")) if rest.endswith("::SOCKET") else _VXI11
    if not 0 < port <= _LAST_PORT:
        raise InputError(f"{port} is not a port.", field="address")
    return f"{board}::{REACH.instrument(host, port)}::{rest}"


@lru_cache(maxsize=1)
def _manager() -> Any:
    import pyvisa

    return pyvisa.ResourceManager("@py")


@contextmanager
def _told(address: str) -> Iterator[None]:
    """PyVISA's and the system's errors as ours, with the address in front."""
    import pyvisa

    try:
        yield
    except pyvisa.errors.VisaIOError as error:
        is_late = error.error_code == pyvisa.constants.StatusCode.error_timeout
        what = "no answer in time" if is_late else error.description or error.abbreviation
        raise NoAnswerError(f"{address}: {what}.") from error
    except UnicodeDecodeError as error:
        raise ReplyError(f"{address}: the answer is not text.") from error
    except (pyvisa.errors.Error, OSError, ValueError) as error:
        raise NoAnswerError(f"{address}: nobody answers there.") from error


class VisaLink:
    """One open line to an address; raises NoAnswerError where it cannot be opened."""

    def __init__(self, address: str, timeout_s: float = TIMEOUT_S, baud: int = BAUD) -> None:
        self.address = checked_address(address)
        where = reached(self.address)
        serial = {"baud_rate": baud} if self.address.startswith("ASRL") else {}
        with _told(self.address):
            self._resource = _manager().open_resource(
                where,
                read_termination="\n",
                write_termination="\n",
                encoding="utf-8",
                timeout=int(1000 * timeout_s),
                open_timeout=int(1000 * timeout_s),
                **serial,
            )

    def write(self, command: str) -> None:
        """Send a command."""
        with _told(self.address):
            self._resource.write(command)

    def query(self, command: str) -> str:
        """Send a command and read a line."""
        with _told(self.address):
            return str(self._resource.query(command)).strip()

    def query_block(self, command: str) -> bytes:
        """Send a command and read `#<figures><length><bytes>`; raises ReplyError for another."""
        with _told(self.address):
            self._resource.write(command)
            head = self._bytes(2)
            if head[:1] != b"#" or not head[1:].isdigit() or head[1:] == b"0":
                raise ReplyError(f"{self.address}: the answer is not a block of definite length.")
            figures = self._bytes(int(head[1:]))
            if not figures.isdigit() or int(figures) > _MOST_BLOCK:
                raise ReplyError(f"{self.address}: a block of {figures!r} bytes is refused.")
            return self._bytes(int(figures))

    def _bytes(self, count: int) -> bytes:
        data = bytearray()
        while len(data) < count:
            data += self._resource.read_bytes(
                min(_CHUNK, count - len(data)), break_on_termchar=False
            )
        return bytes(data)

    def close(self) -> None:
        """Let the line go."""
        try:
            with _told(self.address):
                self._resource.close()
        except InstrumentError:
            return


#: opens a line to an address; tests replace it
Opener = Callable[[str, float, int], Any]


def open_line(address: str, timeout_s: float = TIMEOUT_S, baud: int = BAUD) -> VisaLink:
    """A line through PyVISA; `baud` matters to serial lines alone."""
    return VisaLink(address, timeout_s, baud)
