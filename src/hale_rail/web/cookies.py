"""The session's cookie, read once: a page after the other sends the same one."""

from __future__ import annotations

import copy
from collections import OrderedDict
from threading import Lock
from typing import Any

from flask import Flask, Request
from flask.sessions import SecureCookieSession, SecureCookieSessionInterface

_REMEMBERED = 256


class Cookies(SecureCookieSessionInterface):
    """Flask's own sessions in signed cookies; the signature of one is checked when it first comes.

    That a sign-in ends is kept in the store, not in the cookie's age.
    """

    def __init__(self) -> None:
        self._known: OrderedDict[tuple[Any, str], dict[str, Any]] = OrderedDict()
        self._lock = Lock()

    def open_session(self, app: Flask, request: Request) -> SecureCookieSession | None:
        """The session of a request, empty where the cookie is not one of ours."""
        sent = request.cookies.get(self.get_cookie_name(app), "")
        if not sent:
            return self.session_class()
        key = (app.secret_key, sent)
        with self._lock:
            known = self._known.get(key)
        if known is not None:
            return self.session_class(copy.deepcopy(known))
        session = super().open_session(app, request)
        if session:
            with self._lock:
                self._known[key] = copy.deepcopy(dict(session))
                while len(self._known) > _REMEMBERED:
                    self._known.popitem(last=False)
        return session
