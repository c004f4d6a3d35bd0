"""How often a passphrase may be tried: after a few wrong ones each costs a longer wait."""

from __future__ import annotations

import ipaddress
import threading
from collections import OrderedDict

#: wrong tries without a wait
FREE = 3
LONGEST_S = 900.0
#: failed attempts older than this no longer count
_FORGOTTEN_S = 3600.0
_REMEMBERED = 10_000


class LoginThrottle:
    """Wrong tries by address. A network of IPv6 is one address: whoever has one has them all."""

    def __init__(self) -> None:
        self._wrong: OrderedDict[str, tuple[int, float]] = OrderedDict()
        self._lock = threading.Lock()

    def wait_s(self, address: str, now_s: float) -> float:
        """How long an address still waits before its next try, in seconds; 0 for none."""
        with self._lock:
            count, last_s = self._wrong.get(_network(address), (0, 0.0))
        if count < FREE or now_s - last_s > _FORGOTTEN_S:
            return 0.0
        return max(0.0, last_s + delay_s(count) - now_s)

    def wrong(self, address: str, now_s: float) -> None:
        """Note a wrong try."""
        key = _network(address)
        with self._lock:
            count, last_s = self._wrong.pop(key, (0, now_s))
            self._wrong[key] = (1 if now_s - last_s > _FORGOTTEN_S else count + 1, now_s)
            while len(self._wrong) > _REMEMBERED:
                self._wrong.popitem(last=False)

    def right(self, address: str) -> None:
        """Forget an address's wrong tries."""
        with self._lock:
            self._wrong.pop(_network(address), None)


def delay_s(count: int) -> float:
    """The wait after so many wrong tries: 2 s after the third, twice as long after each, 15 min."""
    return 0.0 if count < FREE else min(2.0 ** (count - FREE + 1), LONGEST_S)


def _network(address: str) -> str:
    try:
        ipv4_address = ipaddress.ip_address(address)
    except ValueError:
        return address
    if ipv4_address.version == 4:
        return address
    return str(ipaddress.ip_network((ipv4_address, 64), strict=False))
