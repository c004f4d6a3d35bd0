"""The names under which this server answers: a page elsewhere cannot pose as the bench."""

from __future__ import annotations

import ipaddress
from dataclasses import dataclass
from functools import lru_cache
from urllib.parse import urlsplit

LOCAL = ("localhost", "127.0.0.1", "::1")
_ANY = ("0.0.0.0", "::")  # noqa: S104  told apart here, not bound to


@dataclass(frozen=True)
class Names:
    """What a request may call this machine.

    `host`: the address that is served; `others`: names that were given with `--name`.
    """

    host: str = LOCAL[1]
    others: tuple[str, ...] = ()

    @property
    def is_local(self) -> bool:
        """True when nobody from elsewhere is answered."""
        return self.host in LOCAL and not self.others

    def refusal(self, header: str | None) -> int:
        """The code that refuses a Host header, 0 for one of this machine's own.

        An address in figures is no name that a foreign page could point here, so where every
        address is served each is taken.
        """
        return _refusal(self, header)


@lru_cache(256)
def _refusal(names: Names, header: str | None) -> int:
    if not header:
        return 400
    try:
        name = urlsplit(f"//{header}").hostname
    except ValueError:
        return 400
    if name in (*LOCAL, names.host, *names.others):
        return 0
    return 0 if names.host in _ANY and _is_address(name or "") else 403


def _is_address(name: str) -> bool:
    try:
        ipaddress.ip_address(name)
    except ValueError:
        return False
    return True
