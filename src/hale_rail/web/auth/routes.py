"""signing in and out, and the name of this bench."""

from __future__ import annotations

import json
import threading
import time
from urllib.parse import urlsplit

from flask import (
    Blueprint,
    current_app,
    make_response,
    redirect,
    render_template,
    request,
    url_for,
)  # fmt: skip
from flask.typing import ResponseReturnValue

from hale_rail.core.quantities import show_duration
from hale_rail.store import passphrase
from hale_rail.web import addresses
from hale_rail.web.auth import sessions
from hale_rail.web.auth.forms import BenchForm, SignInForm
from hale_rail.web.auth.login_throttle import LoginThrottle
from hale_rail.web.form_base import FormState
from hale_rail.web.frame.case_page import NOTHING_TYPED, rerender_on_error, store

blueprint = Blueprint("auth", __name__)
_MOST_KEPT = 400_000
#: parts of a page that are requested while someone types
_ASIDE = ("echo", "preview", "cases")
_THROTTLE, _ONE = "hale_rail_login_throttle", threading.Lock()
#: how long a sign-in waits for another one, in seconds
_PATIENCE_S = 5.0
_CLOCK = (
    "The passphrase is right, but the clock of the workshop’s computer stands before the moment it "
    "was set. Set that clock, or set the passphrase again."
)


@blueprint.get("/sign-in")
def sign_in_form() -> ResponseReturnValue:
    """The passphrase, and who is there."""
    if sessions.is_signed_in():
        return redirect(_local(request.args.get("after", "")), 303)
    return sign_in_page(after=request.args.get("after", ""))


def sign_in_page(after: str = "", code: int = 200) -> ResponseReturnValue:
    """The sign-in page; what a form sent meanwhile is kept on it."""
    form = SignInForm(formdata=None, after=after, bench=sessions.name(), kept=_sent())
    return _page(form, code)


def _page(form: SignInForm, code: int, wait_s: float = 0.0) -> ResponseReturnValue:
    is_fragment = "HX-Request" in request.headers
    response = make_response(
        render_template(
            "auth/_sign_in.html" if is_fragment else "auth/sign_in.html", form=form, wait_s=wait_s,
            is_plain=not request.is_secure and not current_app.config["NAMES"].is_local,
        ), code,
    )  # fmt: skip
    if is_fragment and request.headers.get("HX-Target") in _ASIDE:
        response.headers["HX-Reswap"] = "none"  # what is being typed stays
    elif is_fragment:
        response.headers["HX-Retarget"] = "main"
        response.headers["HX-Reswap"] = "innerHTML"
    if wait_s:
        response.headers["Retry-After"] = str(int(wait_s) + 1)
    return response


def _sent() -> str:
    """What a form sent after its session had ended, as JSON; "" for none."""
    if request.method != "POST" or not _is_from_here():
        return ""
    fields = [(k, v) for k, v in request.form.items(multi=True) if k != "csrf_token"]
    text = json.dumps([request.path, fields])
    return text if len(text) <= _MOST_KEPT else ""


def _is_from_here() -> bool:
    """True for a form of a page of this server, so that no other page can leave one there."""
    return urlsplit(request.headers.get("Origin", "")).netloc == request.host


def _rerender_sign_in(_: FormState, code: int) -> ResponseReturnValue:
    """The sign-in page with what was typed."""
    return _page(SignInForm(), code)


@blueprint.post("/sign-in")
@rerender_on_error(_rerender_sign_in)
def sign_in() -> ResponseReturnValue:
    """Let a bench in that knows the passphrase; wrong ones wait longer and longer."""
    form = SignInForm()
    if not sessions.is_passphrase_set():
        return redirect(addresses.bench(), 303)
    address, now_s = request.remote_addr or "", time.time()
    throttle: LoginThrottle = current_app.extensions.setdefault(_THROTTLE, LoginThrottle())
    if wait_s := throttle.wait_s(address, now_s):
        form.phrase.errors = [f"Too many wrong ones. Try again in {show_duration(wait_s)}."]
        return _page(form, 429, wait_s)
    if not form.validate():
        return _page(form, 422)
    if not _ONE.acquire(timeout=_PATIENCE_S):
        form.phrase.errors = ["Several benches are signing in. Press again."]
        return _page(form, 429, 1.0)
    try:
        is_right = passphrase.is_right(store().folder, form.phrase.data or "")
    finally:
        _ONE.release()
    if not is_right:
        throttle.wrong(address, now_s)
        form.phrase.errors = ["That is not the passphrase."]
        return _page(form, 403)
    throttle.right(address)
    if sessions.is_clock_behind():
        form.phrase.errors = [_CLOCK]
        return _page(form, 503)
    sessions.sign_in(form.bench.data or "")
    return _after(form)


def _after(form: SignInForm) -> ResponseReturnValue:
    """Where a bench goes that was let in: to what it had typed, or where it wanted to go."""
    kept = _kept(form.kept.data)
    if kept is None:
        return redirect(_local(form.after.data), 303)
    return render_template("auth/kept.html", path=kept[0], sent=kept[1])


def _kept(text: str) -> tuple[str, list[tuple[str, str]]] | None:
    try:
        path, fields = json.loads(text)
        sent = [(str(name), str(value)) for name, value in fields]
    except (ValueError, TypeError, RecursionError):
        return None
    return (path, sent) if isinstance(path, str) and _local(path) == path else None


def _local(path: str) -> str:
    """A path of this server; the bench where it is none."""
    try:
        parts = urlsplit(path)
    except ValueError:
        return addresses.bench()
    is_ours = path.startswith("/") and not path.startswith(("//", "/\\")) and not parts.netloc
    return path if is_ours and path.isprintable() else addresses.bench()


def _own(typed: FormState = NOTHING_TYPED, code: int = 200) -> ResponseReturnValue:
    form = BenchForm() if typed.form else BenchForm(formdata=None, bench=sessions.name())
    for name, text in typed.problems.items():
        if name in form:
            form[name].errors = [text]
    return render_template("auth/bench.html", form=form), code


@blueprint.get("/this-bench")
def bench_name() -> ResponseReturnValue:
    """The name of this bench, which goes with each of its entries."""
    return _own()


@blueprint.post("/this-bench")
@rerender_on_error(_own)
def rename() -> ResponseReturnValue:
    """Name this bench."""
    sessions.rename(BenchForm.parsed().bench.data or "")
    return redirect(addresses.bench(), 303)


@blueprint.post("/sign-out")
@rerender_on_error(_own)
def sign_out() -> ResponseReturnValue:
    """End this bench's session."""
    sessions.sign_out()
    is_set = sessions.is_passphrase_set()
    return redirect(url_for("auth.sign_in_form") if is_set else addresses.bench(), 303)
