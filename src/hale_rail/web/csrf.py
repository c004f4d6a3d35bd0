"""The token in each form: of the session, and masked again on every page.

A page goes out compressed. A secret that stood in it unchanged could be guessed from the lengths of
many pages by who reads along and has something of their own printed beside it; what is there is
the token under a mask of its own each time, and the mask.
"""

from __future__ import annotations

import base64
import binascii
import secrets
from functools import lru_cache
from typing import Any

from flask import current_app, g, session
from flask_wtf.csrf import CSRFProtect
from itsdangerous import URLSafeTimedSerializer
from markupsafe import Markup

FIELD = "csrf_token"
_BYTES = 20
_FIELD_HTML = Markup('<input type="hidden" name="csrf_token" value="%s">')


class Csrf(CSRFProtect):  # type: ignore[misc]
    """Checks what a form sent against the session's token, once its mask is taken off."""

    def _get_csrf_token(self) -> str | None:
        sent = super()._get_csrf_token()
        bare = _unmasked(sent or "")
        return _signed(current_app.secret_key, bare) if bare else sent


def csrf_field() -> Markup:
    """The hidden field that says a form came from a page of ours; one mask a request."""
    markup: Markup | None = g.get("csrf_field")
    if markup is None:
        markup = g.csrf_field = _FIELD_HTML % _masked(_of_session())
    return markup


def forget_token() -> None:
    """The session began again: what was made of the one before is not its token."""
    g.pop("csrf_field", None)


def _of_session() -> str:
    token = session.get(FIELD)
    if not isinstance(token, str) or len(token) != 2 * _BYTES:
        token = session[FIELD] = secrets.token_hex(_BYTES)
    return token


def _masked(token: str) -> str:
    bare, mask = bytes.fromhex(token), secrets.token_bytes(_BYTES)
    under = int.from_bytes(bare) ^ int.from_bytes(mask)
    return base64.urlsafe_b64encode(mask + under.to_bytes(_BYTES)).decode()


def _unmasked(sent: str) -> str:
    try:
        both = base64.urlsafe_b64decode(sent.encode())
    except (binascii.Error, ValueError):
        return ""
    if len(both) != 2 * _BYTES:
        return ""
    return bytes(a ^ b for a, b in zip(both[:_BYTES], both[_BYTES:], strict=True)).hex()


@lru_cache(256)
def _signed(key: Any, token: str) -> str:
    """A token as the library checks it; it is the session's or it is refused."""
    return str(URLSafeTimedSerializer(key, salt="wtf-csrf-token").dumps(token))
