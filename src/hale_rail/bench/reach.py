"""Where this machine connects to because a page asked for it: instruments, vendors' services.

Whoever sits at a bench may type an address; what it leads to is the machine owner's to allow. By
default instruments stand on private networks or at the system's serial devices, vendors anywhere
but on this machine; this process's own stand-ins are always reached.
"""

from __future__ import annotations

import ipaddress
import re
import socket
import threading
from collections.abc import Callable, Iterable, Sequence

from msgspec import Struct, field

from hale_rail.errors import InputError

Address = ipaddress.IPv4Address | ipaddress.IPv6Address
Network = ipaddress.IPv4Network | ipaddress.IPv6Network
_PRIVATE = tuple(
    ipaddress.ip_network(text)
    for text in ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "fc00::/7")
)
#: serial devices as the system names them; `/dev/serial` holds links to the same
_SERIAL = re.compile(
    r"(?:/dev/(?:tty(?:USB|ACM|S|AMA)\d{1,3}|serial/by-(?:id|path)/[\w.:+-]{1,120}|rfcomm\d{1,2})"
    r"|COM\d{1,3}|\d{1,3})",
    re.ASCII,
)
HOW = "Whoever runs the server may allow it: serve --reach {}."


class NetworkReach(Struct):
    """What the owner allows beyond the usual, and which ports of this machine are our own."""

    networks: tuple[Network, ...] = ()
    own_ports: set[int] = field(default_factory=set)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def allow(self, texts: Iterable[str]) -> None:
        """Allow addresses or networks (`192.0.2.0/24`, `127.0.0.1`); raises InputError."""
        networks = []
        for text in texts:
            try:
                networks.append(ipaddress.ip_network(text.strip(), strict=False))
            except ValueError as error:
                raise InputError(f"“{text[:60]}” is not an address or a network.") from error
        self.networks = tuple(networks)

    def add_own(self, ports: Iterable[int]) -> None:
        """Ports of this machine where a stand-in of this very process answers."""
        with self._lock:
            self.own_ports |= set(map(int, ports))

    def instrument(self, host: str, port: int) -> str:
        """The address to connect to for an instrument; raises InputError for one not allowed."""
        return self._first(host, port, self._is_instruments)

    def vendor(self, host: str, port: int) -> str:
        """The address to connect to for a vendor's service; raises InputError where not allowed."""
        return self._first(host, port, self._is_vendors)

    def serial(self, device: str) -> None:
        """Raise InputError for what is not a serial device of the system."""
        if not _SERIAL.fullmatch(device) or ".." in device:
            raise InputError(
                f"“{device[:60]}” is not a serial device: write /dev/ttyUSB0, /dev/ttyACM0 or "
                "/dev/serial/by-id/…",
                field="address",
            )

    def _first(self, host: str, port: int, allowed: Callable[[Address], bool]) -> str:
        for address in _addresses(host, port):
            if self._is_own(address, port) or any(address in net for net in self.networks):
                return str(address)
            if allowed(address):
                return str(address)
        raise InputError(
            f"{host[:80]} is not where this machine may connect to. {HOW.format(host[:80])}",
            field="address",
        )

    def _is_own(self, address: Address, port: int) -> bool:
        return address.is_loopback and port in self.own_ports

    def _is_instruments(self, address: Address) -> bool:
        return any(address in network for network in _PRIVATE)

    def _is_vendors(self, address: Address) -> bool:
        return not (
            address.is_loopback
            or address.is_link_local
            or address.is_unspecified
            or address.is_multicast
            or address.is_reserved
        )


def _addresses(host: str, port: int) -> Sequence[Address]:
    """Every address of a name, plain IPv4 where an IPv6 one only wraps it; raises InputError."""
    try:
        told = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError, OverflowError) as error:
        raise InputError(f"{host[:80]} is not known on this network.", field="address") from error
    addresses = []
    for *_, where in told:
        address = ipaddress.ip_address(str(where[0]).partition("%")[0])
        addresses.append(getattr(address, "ipv4_mapped", None) or address)
    return addresses


#: addresses that this process may reach
REACH = NetworkReach()
