"""The files that ship with the program: one digest over all of them stands in every address.

A file whose content changed has another address, so that a browser keeps what it has for a year and
never shows an old one; scripts and styles name one another by where they lie beside them.
"""

from __future__ import annotations

import hashlib
from functools import cache
from pathlib import Path, PurePosixPath

from flask import Blueprint, Response, abort, request
from flask.typing import ResponseReturnValue

FOLDER = Path(__file__).parent / "static"
_YEAR_S = 365 * 86_400
_DIGITS = 12
#: content types by file suffix: the machine's own table may differ or be empty
_KINDS = {
    ".css": "text/css",
    ".js": "text/javascript",
    ".md": "text/markdown",
    ".png": "image/png",
    ".svg": "image/svg+xml",
    ".webmanifest": "application/manifest+json",
    ".woff2": "font/woff2",
}
#: the stylesheets in one file
STYLES = "css/all.css"
#: stylesheets by component, in the order in which they are laid over one another
STYLESHEETS = (
    "fonts",
    "tokens",
    "theme",
    "base",
    "drawings",
    "verdicts",
    "bench",
    "frame",
    "panel",
    "line_map",
    "shorts",
    "places",
    "recap",
    "rails",
    "ripple",
    "power",
    "behind",
    "bring_up",
    "practice",
    "tray",
    "safety",
    "tables",
    "parts",
    "diagnosis",
    "forms",
    "report",
    "narrow",
    "print",
)
blueprint = Blueprint("assets", __name__)


class Assets:
    """The files as they are now, some hundred kilobytes in memory, and their digest."""

    def __init__(self) -> None:
        digest = hashlib.sha256()
        self.files: dict[str, bytes] = {}
        for path in sorted(path for path in FOLDER.rglob("*") if path.is_file()):
            name = path.relative_to(FOLDER).as_posix()
            self.files[name] = path.read_bytes()
            digest.update(name.encode())
            digest.update(self.files[name])
        self.digest = digest.hexdigest()[:_DIGITS]
        #: the scripts that the first one imports: fetched at once, not one after another
        self.modules = tuple(name for name in self.files if name.startswith("js/"))
        self.files[STYLES] = b"\n".join(self.files[f"css/{name}.css"] for name in STYLESHEETS)


@cache
def assets() -> Assets:
    """The files, looked at once: they change with the program only."""
    return Assets()


@blueprint.get("/static/<digest>/<path:name>")
def file(digest: str, name: str) -> ResponseReturnValue:
    """A file; one that is asked for by the digest of now is kept for good."""
    is_now = digest == assets().digest
    data, kind = assets().files.get(name), _KINDS.get(PurePosixPath(name).suffix)
    if data is None or kind is None:
        abort(404)
    response = Response(data, mimetype=kind)
    response.set_etag(assets().digest)
    response.make_conditional(request)
    response.headers["Cache-Control"] = (
        f"public, max-age={_YEAR_S}, immutable" if is_now else "no-cache"
    )
    return response
