"""One part, now: asked outside any case, and taken into one."""

from __future__ import annotations

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from hale_rail.actions.ask import asking
from hale_rail.case.ask.places import AskedPlace
from hale_rail.formats.ask.words import EXAMPLES
from hale_rail.stages.ask import ask
from hale_rail.web import addresses
from hale_rail.web.form_base import FormState
from hale_rail.web.frame.case_page import rerender_on_error, store

blueprint = Blueprint("ask", __name__)
_LONGEST = 200
_NOTHING = FormState()


@blueprint.get("/ask")
def page() -> ResponseReturnValue:
    """The field, the last answer large, and the ones before."""
    return _page()


@blueprint.get("/ask/now")
def now() -> ResponseReturnValue:
    """The answer while the question is typed; nothing for an empty one."""
    text = request.args.get("text", "")[:_LONGEST]
    shown = ask.answered(store(), text, follows=True) if text.strip() else None
    return render_template("ask/_now.html", one=shown)


def rerender(typed: FormState, code: int) -> ResponseReturnValue:
    """The page with what was typed, and what is wrong with it."""
    return _page(typed), code


@blueprint.post("/ask")
@rerender_on_error(rerender)
def put() -> ResponseReturnValue:
    """Ask, and keep the question."""
    asking.ask(store(), request.form.get("text", ""))
    return redirect(url_for("ask.page"), 303)


@blueprint.post("/ask/take")
@rerender_on_error(rerender)
def take() -> ResponseReturnValue:
    """Take what was asked into a case; where it has several places, they are shown to choose."""
    form = request.form
    number = form.get("case", "")
    taken = asking.take_into(store(), number, form.get("text", ""), form.get("place", ""))
    if taken.choices:
        return _page(FormState("take", form.to_dict()), taken.choices)
    saved = taken.saved.reading_id if taken.saved else None
    return redirect(addresses.stage(number, taken.stage_key, taken.point_key, saved), 303)


def _page(typed: FormState = _NOTHING, choices: tuple[AskedPlace, ...] = ()) -> str:
    return render_template(
        "ask/page.html", page=ask.page(store()), typed=typed, choices=choices, examples=EXAMPLES
    )
