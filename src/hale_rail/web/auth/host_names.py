"""The names under which this server answers: a page elsewhere cannot pose as the bench."""

from __future__ import annotations

import ipaddress
from collections.abc import Iterable
from functools import lru_cache
from typing import TYPE_CHECKING
from urllib.parse import urlsplit

from msgspec import Struct

if TYPE_CHECKING:
    from _typeshed.wsgi import StartResponse, WSGIApplication, WSGIEnvironment

#: characters of a label, and one more
_LONGEST = 64
LOCAL = ("localhost", "127.0.0.1", "::1")
_ANY = ("0.0.0.0", "::")  # noqa: S104  told apart here, not bound to


class Names(Struct, frozen=True):
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

        An address in figures is not a name that a foreign page could point here, so where every
        address is served each is taken.
        """
        return _refusal(self, header)


class NamedOnly:
    """Answers 400 to a Host header that no machine can have, before anything is made of it."""

    def __init__(self, application: WSGIApplication) -> None:
        self.application = application

    def __call__(self, environ: WSGIEnvironment, start_response: StartResponse) -> Iterable[bytes]:
        """The application's answer, or the refusal."""
        if is_host(environ.get("HTTP_HOST", "")):
            return self.application(environ, start_response)
        start_response("400 Bad Request", [("Content-Type", "text/plain; charset=utf-8")])
        return [b"That is not a name a machine can have."]


@lru_cache(256)
def is_host(header: str) -> bool:
    """True for what can stand for a machine (RFC 1123 labels, IDNA), or for nothing at all."""
    if not header:
        return True
    try:
        parts = urlsplit(f"//{header}")
        name = (parts.hostname or "").removesuffix(".")
        name.encode("ascii").decode("idna")
        return ":" in name or all(0 < len(label) < _LONGEST for label in name.split("."))
    except ValueError:
        return False


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
