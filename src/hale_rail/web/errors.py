"""Friendly answers for what goes wrong; never a traceback."""

from __future__ import annotations

import logging

from flask import Flask, make_response, render_template, request
from flask.typing import ResponseReturnValue
from flask_wtf.csrf import CSRFError
from werkzeug.exceptions import HTTPException

from hale_rail.errors import ConflictError, HaleRailError, InputError, NotFoundError

_LOG = logging.getLogger("hale_rail")
_TEXTS = {
    400: ("That request was not understood", "Go back and try again."),
    403: ("Not from here", "This page can only be opened on the machine that serves it."),
    404: ("There is nothing here", "The address may be mistyped, or the case has another number."),
    405: ("That cannot be done here", "Go back and use the page's own buttons."),
    409: ("Somebody saved first", "Go back, reload, and look at what was saved."),
    413: ("Too large", "Paste at most 400 lines, or send fewer photos, at a time."),
    500: ("Something broke", "What was saved before is safe. Go back and try again."),
}


def install(app: Flask) -> None:
    """Answer HTTP errors, our own errors, and anything unforeseen."""
    app.register_error_handler(CSRFError, _expired)
    app.register_error_handler(HTTPException, _http)
    app.register_error_handler(HaleRailError, _ours)
    app.register_error_handler(Exception, _unforeseen)


def page(code: int, text: str = "") -> ResponseReturnValue:
    """An error page, or for htmx its fragment in place of the page's body."""
    title, usual = _TEXTS.get(code, _TEXTS[500 if code >= 500 else 400])
    is_fragment = "HX-Request" in request.headers
    template = "error/_error.html" if is_fragment else "error/page.html"
    response = make_response(
        render_template(template, code=code, title=title, text=text or usual), code
    )
    if is_fragment:
        response.headers["HX-Retarget"] = "main"
        response.headers["HX-Reswap"] = "innerHTML"
    return response


def _expired(error: CSRFError) -> ResponseReturnValue:
    return page(400, "The page was open since before a restart. Go back, reload, and save again.")


def _http(error: HTTPException) -> ResponseReturnValue:
    return page(error.code or 500)


def _ours(error: HaleRailError) -> ResponseReturnValue:
    if isinstance(error, NotFoundError):
        return page(404, str(error))
    if isinstance(error, ConflictError):
        return page(409, str(error))
    return page(400 if isinstance(error, InputError) else 500, str(error))


def _unforeseen(error: Exception) -> ResponseReturnValue:
    _LOG.exception("unforeseen error at %s", request.path)
    return page(500)
