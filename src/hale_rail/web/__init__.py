"""The web interface: an app factory over one store."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from pathlib import Path
from typing import Any

from flask import Flask, Response, abort, current_app, redirect, request, url_for
from flask.typing import ResponseReturnValue
from flask_compress import Compress

from hale_rail.store.database import Store
from hale_rail.store.kept_files import write_for_good
from hale_rail.web import assets, errors, template_tools
from hale_rail.web import screens as shown
from hale_rail.web.auth import sessions
from hale_rail.web.auth.host_names import NamedOnly, Names
from hale_rail.web.auth.routes import sign_in_page
from hale_rail.web.cookies import Cookies
from hale_rail.web.csrf import Csrf
from hale_rail.web.frame import style

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
    "soak.soak-log", "continuity.list", "where.places-file",
)  # fmt: skip
_WHOLE = ("ripple.wave", "files.from_bundle")
_LARGE = (
    "look.photo", "where.board-photo", "map.map-photo", "map.map-file", "map.draw",
    "drawings.drawing", "machine.rom-dump", "apart.apart",
)  # fmt: skip
_KEY_BYTES = 32
#: the cookie's own age; a sign-in ends before it
_COOKIE_S = 30 * 86_400
#: what needs no sign-in: the sign-in page, what it is drawn with, and whether the server lives
_OPEN = ("assets.file", "auth.sign_in_form", "auth.sign_in", "bench.healthz", None)
_COMPRESSED = [
    "text/html", "text/css", "text/javascript", "application/javascript", "application/json",
    "image/svg+xml", "application/manifest+json", "text/csv", "text/plain",
]  # fmt: skip
_BROTLI_LEVEL, _GZIP_LEVEL = 4, 5
_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
    "font-src 'self'; connect-src 'self'; manifest-src 'self'; form-action 'self'; "
    "base-uri 'none'; frame-ancestors 'none'"
)
_HEADERS = {
    "Content-Security-Policy": _POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
}


class _App(Flask):
    """Flask for plain functions: no view is a coroutine, so none is looked for at each call."""

    jinja_environment = template_tools.Environment

    def ensure_sync(self, func: Callable[..., Any]) -> Callable[..., Any]:
        """The function itself."""
        return func


def create_app(
    store: Store,
    *,
    names: Names | None = None,
    is_behind_tls: bool = False,
    with_style_page: bool = False,
    testing: bool = False,
) -> Flask:
    """The application over one data folder.

    `names`: what requests may call this machine, its local ones where none are given;
    `is_behind_tls`: a server with TLS stands before this one, so cookies go over it alone.
    """
    app = _App(__name__, static_folder=None)
    app.jinja_options = template_tools.options()
    app.session_interface = Cookies()
    app.config.update(
        SECRET_KEY=_secret(store.folder),
        STORE=store,
        NAMES=names or Names(),
        TESTING=testing,
        MAX_CONTENT_LENGTH=MAX_BODY,
        MAX_FORM_MEMORY_SIZE=MAX_BODY,
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Lax",
        SESSION_COOKIE_SECURE=is_behind_tls,
        SESSION_COOKIE_NAME="__Host-hale_rail" if is_behind_tls else "hale_rail",
        SESSION_REFRESH_EACH_REQUEST=False,
        PERMANENT_SESSION_LIFETIME=_COOKIE_S,
        WTF_CSRF_TIME_LIMIT=None,
        WTF_CSRF_SSL_STRICT=False,
        COMPRESS_MIMETYPES=_COMPRESSED,
        COMPRESS_ALGORITHM=["br", "gzip"],
        COMPRESS_STREAMS=False,
        COMPRESS_BR_LEVEL=_BROTLI_LEVEL,
        COMPRESS_LEVEL=_GZIP_LEVEL,
    )
    app.before_request(_only_here)
    app.before_request(_only_signed_in)
    app.before_request(_allow_photos)
    Csrf(app)
    errors.install(app)
    app.register_blueprint(assets.blueprint)
    for blueprint in shown.SCREENS:
        app.register_blueprint(blueprint)
    if with_style_page:
        app.register_blueprint(style.blueprint)
    app.after_request(_secure)
    Compress(app)
    template_tools.install(app)
    app.wsgi_app = NamedOnly(app.wsgi_app)  # type: ignore[method-assign]
    return app


def _only_here() -> None:
    """Refuse a request that came by another name than this machine's own, or by none."""
    names: Names = current_app.config["NAMES"]
    code = names.refusal(request.headers.get("Host"))
    if code:
        abort(code)


def _only_signed_in() -> ResponseReturnValue | None:
    """Where a passphrase is set, only who signed in goes on; the entries are this bench's."""
    if request.endpoint in _OPEN:
        return None
    if sessions.is_signed_in():
        sessions.sign_log_entries()
        return None
    if request.method == "GET" and "HX-Request" not in request.headers:
        after = request.full_path if request.query_string else request.path
        return redirect(url_for("auth.sign_in_form", after=None if after == "/" else after), 303)
    return sign_in_page(after=request.path if request.method == "GET" else "", code=401)


def _allow_photos() -> None:
    """Only photos, drawn maps, lists and wave records may send more than text."""
    if request.method != "POST":
        return
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
    if current_app.config["SESSION_COOKIE_SECURE"]:
        response.headers["Strict-Transport-Security"] = "max-age=31536000"
    return response


def _secret(folder: Path) -> bytes:
    """The key that signs sessions, kept beside the data so that open tabs outlive a restart."""
    path = folder / "secret.key"
    if path.exists() and len(key := path.read_bytes()) == _KEY_BYTES:
        return key
    key = secrets.token_bytes(_KEY_BYTES)
    write_for_good(path, key)
    return key
