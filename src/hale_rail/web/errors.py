"""Errors: a form shown again with what was typed, or a friendly page; never a traceback."""

from __future__ import annotations

import logging

from flask import Flask, current_app, g, make_response, render_template, request
from flask.typing import ResponseReturnValue
from flask_wtf.csrf import CSRFError
from werkzeug.exceptions import HTTPException

from hale_rail.errors import (
    ConflictError,
    GuardError,
    HaleRailError,
    InputError,
    InstrumentError,
    LockedError,
    NotFoundError,
    StoreError,
)
from hale_rail.store import backup_files
from hale_rail.store.error_mapping import translated
from hale_rail.web.frame.case_page import form_state_of, store

_LOG = logging.getLogger("hale_rail")
_TEXTS = {
    400: ("That request was not understood", "Go back and try again."),
    403: ("Not under this name", "This server answers to its own names only: see serve --name."),
    404: ("There is nothing here", "The address may be mistyped, or the case has another number."),
    405: ("That cannot be done here", "Go back and use the page's own buttons."),
    409: ("Somebody saved first", "Go back, reload, and look at what was saved."),
    413: ("Too large", "Paste at most 400 lines, or send photos of 60 MB at most, at a time."),
    500: ("Something broke", "What was saved before is safe. Go back and try again."),
    503: ("Not saved", "What was saved before is safe. Try again in a moment."),
}
_NOT_KEPT = 503
_PRESS_AGAIN = "Not saved: see above. Press again once that is put right."
_CODES: tuple[tuple[type[HaleRailError], int], ...] = (
    (NotFoundError, 404),
    (ConflictError, 409),
    (GuardError, 422),
    (InputError, 400),
    (InstrumentError, 422),
    (StoreError, _NOT_KEPT),
)


def install(app: Flask) -> None:
    """Answer HTTP errors, our own errors, and anything unforeseen."""
    app.register_error_handler(CSRFError, _expired)
    app.register_error_handler(HTTPException, _http)
    for refused in (InputError, GuardError, ConflictError, InstrumentError):
        app.register_error_handler(refused, _refused)
    app.register_error_handler(StoreError, _not_kept)
    app.register_error_handler(HaleRailError, _ours)
    app.register_error_handler(Exception, _unforeseen)


def page(code: int, text: str = "", title: str = "") -> ResponseReturnValue:
    """An error page, or for htmx its fragment in place of the page's body.

    What was typed stands on it, to be sent again as it is.
    """
    usual_title, usual = _TEXTS.get(code, _TEXTS[500 if code >= 500 else 400])
    is_fragment = "HX-Request" in request.headers
    template = "error/_error.html" if is_fragment else "error/page.html"
    response = make_response(
        render_template(
            template, code=code, title=title or usual_title, text=text or usual,
            sent=_sent() if code >= 500 else (),
        ),
        code,
    )  # fmt: skip
    if is_fragment:
        response.headers["HX-Retarget"] = "main"
        response.headers["HX-Reswap"] = "innerHTML"
    return response


def _sent() -> tuple[tuple[str, str], ...]:
    """What a form sent, but for its own token; what came beside it as a file is chosen again.

    What was typed to sign in is never shown again.
    """
    if request.method != "POST" or request.endpoint == "auth.sign_in":
        return ()
    try:
        fields = request.form.items(multi=True)
    except OSError:  # there was no room to take it in
        return ()
    return tuple((name, text) for name, text in fields if name != "csrf_token")


def _refused(error: HaleRailError) -> ResponseReturnValue:
    """A form that cannot be used: its page shown again, with what was typed and what is wrong."""
    is_conflict = isinstance(error, ConflictError)
    try:
        laid = _shown_again(error, 409 if is_conflict else 422, is_conflict)
    except HaleRailError as other:  # the page itself is not there
        return _ours(other)
    return _ours(error) if laid is None else laid


def _not_kept(error: StoreError) -> ResponseReturnValue:
    """The data folder is at fault: the page shown again as it was typed, with a line above it."""
    g.trouble = str(error)
    try:
        laid = _shown_again(StoreError(_PRESS_AGAIN), _NOT_KEPT)
    except (HaleRailError, OSError):  # the page cannot be read either
        laid = None
    answer = make_response(_ours(error) if laid is None else laid)
    if isinstance(error, LockedError):
        answer.headers["Retry-After"] = "1"
    return answer


def _shown_again(
    error: HaleRailError, code: int, is_conflict: bool = False
) -> ResponseReturnValue | None:
    """The page of the form that was sent, as it was typed; None where none is named."""
    view = current_app.view_functions.get(request.endpoint or "")
    rerender = getattr(view, "rerender", None)
    if request.method != "POST" or rerender is None:
        return None
    laid: ResponseReturnValue = rerender(form_state_of(error, is_conflict), code)
    return laid


def _expired(_: CSRFError) -> ResponseReturnValue:
    return page(400, "The page was open since before a restart. Go back, reload, and save again.")


def _http(error: HTTPException) -> ResponseReturnValue:
    return page(error.code or 500)


def _ours(error: HaleRailError) -> ResponseReturnValue:
    code = next((code for kind, code in _CODES if isinstance(error, kind)), 500)
    is_looking = code == _NOT_KEPT and request.method != "POST"
    return page(code, str(error), "The data cannot be reached" if is_looking else "")


def _unforeseen(error: Exception) -> ResponseReturnValue:
    ours = translated(error, backup_files.remedy(store().folder))
    if ours is not None:
        return _not_kept(ours)
    _LOG.exception("unforeseen error at %s", request.path)
    return page(500)
