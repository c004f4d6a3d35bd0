"""The web interface: an app factory over one store."""

from __future__ import annotations

import secrets
from functools import lru_cache
from pathlib import Path
from urllib.parse import urlsplit

from flask import Flask, Response, abort, request
from flask_wtf.csrf import CSRFProtect

from hale_rail.store.database import Store
from hale_rail.web import errors, template_tools
from hale_rail.web import screens as shown
from hale_rail.web.screens import style

MAX_BODY = 512 * 1024
#: a round's photos in one upload; each is limited by itself too
MAX_PHOTOS = 60 * 1024 * 1024
#: a price list, or a list of the workshop
MAX_LIST = 33 * 1024 * 1024
#: a map as it is drawn, of some thousand pads
MAX_MAP = 4 * 1024 * 1024
#: a wave record of ten million rows, or a whole case with its records
MAX_WAVE = 600 * 1024 * 1024
_LISTS = (
    "sources.look", "sources.received", "sources.import_list", "workshop.import_list",
    "soak.soak-log", "continuity.list",
)  # fmt: skip
_WHOLE = ("ripple.wave", "files.from_bundle")
_LARGE = ("look.photo", "map.map-photo", "map.map-file", "map.draw", "drawings.drawing")
_KEY_BYTES = 32
#: names this machine answers to: a page elsewhere cannot pose as the bench under a name of its own
_HOSTS = (None, "localhost", "127.0.0.1", "::1")
_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
    "font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; "
    "frame-ancestors 'none'"
)
_HEADERS = {
    "Content-Security-Policy": _POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
}


def create_app(store: Store, *, with_style_page: bool = False, testing: bool = False) -> Flask:
    """The application over one data folder."""
    app = Flask(__name__)
    app.config.update(
        SECRET_KEY=_secret(store.folder),
        STORE=store,
        TESTING=testing,
        MAX_CONTENT_LENGTH=MAX_BODY,
        MAX_FORM_MEMORY_SIZE=MAX_BODY,
        SESSION_COOKIE_SAMESITE="Lax",
        SESSION_COOKIE_NAME="hale_rail",
        WTF_CSRF_TIME_LIMIT=None,
        WTF_CSRF_SSL_STRICT=False,
        SEND_FILE_MAX_AGE_DEFAULT=3600,
    )
    app.before_request(_only_here)
    app.before_request(_allow_photos)
    CSRFProtect(app)
    errors.install(app)
    for blueprint in shown.SCREENS:
        app.register_blueprint(blueprint)
    if with_style_page:
        app.register_blueprint(style.blueprint)
    app.after_request(_secure)
    template_tools.install(app)
    return app


def _only_here() -> None:
    """Refuse a request that came by another name than this machine's own."""
    code = _refusal(request.headers.get("Host", ""))
    if code:
        abort(code)


@lru_cache(64)
def _refusal(host: str) -> int:
    """The code that refuses a Host header, 0 for this machine's own."""
    try:
        return 0 if urlsplit(f"//{host}").hostname in _HOSTS else 403
    except ValueError:
        return 400


def _allow_photos() -> None:
    """Only photos, drawn maps, lists and wave records may send more than text."""
    if request.endpoint in _LISTS:
        request.max_content_length = MAX_LIST
    if request.endpoint in _WHOLE:
        request.max_content_length = MAX_WAVE
    if request.endpoint in _LARGE:
        request.max_content_length = MAX_PHOTOS
        request.max_form_memory_size = MAX_MAP


def _secure(response: Response) -> Response:
    response.headers.extend(_HEADERS)
    if response.mimetype == "text/html":
        response.headers["Cache-Control"] = "no-store"
    return response


def _secret(folder: Path) -> bytes:
    """The key that signs sessions, kept beside the data so that open tabs outlive a restart."""
    path = folder / "secret.key"
    if path.exists() and len(key := path.read_bytes()) == _KEY_BYTES:
        return key
    key, made = secrets.token_bytes(_KEY_BYTES), path.with_suffix(".new")
    made.unlink(missing_ok=True)
    made.touch(mode=0o600)
    made.write_bytes(key)
    made.replace(path)
    return key
