"""What goes wrong: a form laid anew with what was typed, or a friendly page; never a traceback."""

from __future__ import annotations

import logging

from flask import Flask, current_app, make_response, render_template, request
from flask.typing import ResponseReturnValue
from flask_wtf.csrf import CSRFError
from werkzeug.exceptions import HTTPException

from hale_rail.errors import (
    ConflictError,
    GuardError,
    HaleRailError,
    InputError,
    InstrumentError,
    NotFoundError,
    StoreError,
)
from hale_rail.web.frame import typed_of

_LOG = logging.getLogger("hale_rail")
_TEXTS = {
    400: ("That request was not understood", "Go back and try again."),
    403: ("Not from here", "This page can only be opened on the machine that serves it."),
    404: ("There is nothing here", "The address may be mistyped, or the case has another number."),
    405: ("That cannot be done here", "Go back and use the page's own buttons."),
    409: ("Somebody saved first", "Go back, reload, and look at what was saved."),
    413: ("Too large", "Paste at most 400 lines, or send fewer photos, at a time."),
    500: ("Something broke", "What was saved before is safe. Go back and try again."),
    503: ("The data cannot be reached", "What was saved before is safe. Try again in a moment."),
}
_CODES: tuple[tuple[type[HaleRailError], int], ...] = (
    (NotFoundError, 404),
    (ConflictError, 409),
    (GuardError, 422),
    (InputError, 400),
    (InstrumentError, 422),
    (StoreError, 503),
)


def install(app: Flask) -> None:
    """Answer HTTP errors, our own errors, and anything unforeseen."""
    app.register_error_handler(CSRFError, _expired)
    app.register_error_handler(HTTPException, _http)
    for refused in (InputError, GuardError, ConflictError, InstrumentError):
        app.register_error_handler(refused, _refused)
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


def _refused(error: HaleRailError) -> ResponseReturnValue:
    """A form that cannot be used: its page laid anew, with what was typed and what is wrong."""
    view = current_app.view_functions.get(request.endpoint or "")
    relay = getattr(view, "relay", None)
    if request.method != "POST" or relay is None:
        return _ours(error)
    is_conflict = isinstance(error, ConflictError)
    code = 409 if is_conflict else 422
    try:
        answer: ResponseReturnValue = relay(typed_of(error, is_conflict), code)
    except HaleRailError as other:  # the page itself is not there
        return _ours(other)
    return answer


def _expired(_: CSRFError) -> ResponseReturnValue:
    return page(400, "The page was open since before a restart. Go back, reload, and save again.")


def _http(error: HTTPException) -> ResponseReturnValue:
    return page(error.code or 500)


def _ours(error: HaleRailError) -> ResponseReturnValue:
    code = next((code for kind, code in _CODES if isinstance(error, kind)), 500)
    return page(code, str(error))


def _unforeseen(_: Exception) -> ResponseReturnValue:
    _LOG.exception("unforeseen error at %s", request.path)
    return page(500)
