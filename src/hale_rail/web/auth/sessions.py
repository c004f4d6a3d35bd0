"""Who has signed in, and which bench it is."""

from __future__ import annotations

import time
from contextlib import suppress

from flask import g, request, session

from hale_rail.errors import StoreError
from hale_rail.store import log, passphrase, sign_ins
from hale_rail.web.csrf import forget_token
from hale_rail.web.frame.case_page import store

#: a bench that was idle this long, or signed in this long ago, signs in again
IDLE_S, LONGEST_S = 12 * 3600.0, 7 * 86_400.0
_NOTED_EVERY_S = 300.0
#: what a page asks with nobody's hand on it, which keeps no session alive
_BY_ITSELF = ("log.news",)
_TOKEN, _BENCH = "sign_in", "bench"


def is_passphrase_set() -> bool:
    """True when this workshop has a passphrase."""
    return passphrase.is_set(store().folder)


def sign_in(bench: str) -> None:
    """Sign the bench in: a token of its own in a session of its own."""
    with store().write() as connection:
        token = sign_ins.begin(connection, bench, time.time())
    session.clear()
    forget_token()
    session.permanent = True
    session[_TOKEN] = token
    session[_BENCH] = bench


def sign_out() -> None:
    """End the sign-in: its token no longer opens anything."""
    token = session.get(_TOKEN)
    if token:
        with store().write() as connection:
            sign_ins.end(connection, token, time.time())
    session.clear()


def is_clock_behind() -> bool:
    """True while this machine's clock stands before the moment the passphrase was set: whoever
    signs in now would have come before it, and be out again at once."""
    return time.time() < passphrase.set_at_s(store().folder)


def is_signed_in() -> bool:
    """True when the request comes from a bench that signed in, or none needs to."""
    if not is_passphrase_set():
        return True
    token, now_s = str(session.get(_TOKEN, "")), time.time()
    sign_in = sign_ins.find(store().read(), token)
    if sign_in is None or sign_in.at_s < passphrase.set_at_s(store().folder):
        return False
    if now_s - sign_in.seen_s > IDLE_S or now_s - sign_in.at_s > LONGEST_S:
        return False
    if now_s - sign_in.seen_s > _NOTED_EVERY_S and request.endpoint not in _BY_ITSELF:
        with suppress(StoreError), store().jot() as connection:
            sign_ins.seen(connection, token, now_s)
    g.has_signed_in = True
    return True


def name() -> str:
    """The bench's name, "" where none was given."""
    name = session.get(_BENCH, "")
    return name if isinstance(name, str) else ""


def rename(bench: str) -> None:
    """Give the bench another name, for the entries that follow."""
    token = session.get(_TOKEN)
    if token:
        with store().write() as connection:
            sign_ins.rename(connection, token, bench)
    session.permanent = True
    session[_BENCH] = bench


def sign_log_entries() -> None:
    """Have the log entries of this request name this bench."""
    g.bench = bench = name()[: log.LONGEST_BENCH]
    log.BENCH.set(bench)
