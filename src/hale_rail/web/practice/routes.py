"""Practice: units that are not there, on the pages of any other case."""

from __future__ import annotations

import secrets

from flask import Blueprint, redirect, render_template, request
from flask.typing import ResponseReturnValue
from wtforms.validators import Length

from hale_rail.actions.practice import practice
from hale_rail.core.supply.sheet import Topology
from hale_rail.errors import InputError, NotFoundError
from hale_rail.stages.practice import practice as shown
from hale_rail.stages.practice.practice import DIFFICULTIES
from hale_rail.store.practice import Practised
from hale_rail.web import addresses
from hale_rail.web.form_base import (
    CaseForm,
    ChoiceField,
    Form,
    FormState,
    PlacedField,
    TextField,
    WholeField,
    choices,
)
from hale_rail.web.frame.case_page import (
    NOTHING_TYPED,
    case_of,
    posted_stage,
    redirect_to_stage,
    rerender_on_error,
    rerender_stage,
    store,
)
from hale_rail.web.frame.forms import CaptureForm

blueprint = Blueprint("practice", __name__)
_SEEDS = 100_000


class StartForm(Form):
    """A graded case by its place, or a drawn unit."""

    graded = WholeField(absent=None)
    topology = ChoiceField("Supply", choices=choices(*((t.code, t.words) for t in Topology)))
    difficulty = ChoiceField("Difficulty", choices=choices(*DIFFICULTIES.items()))
    seed = TextField("Seed", validators=[Length(max=10, message="At most 10 figures.")])


class EndForm(Form):
    """The fault that was found."""

    named = PlacedField(validators=[Length(max=40)])


class LookAtForm(CaseForm):
    """A part to look at."""

    part = WholeField()


class ByHandForm(CaseForm):
    """A test that the hand takes."""

    test = PlacedField(validators=[Length(max=40)])


def _page(typed: FormState = NOTHING_TYPED, code: int = 200) -> ResponseReturnValue:
    return render_template("practice/page.html", page=shown.page(store()), typed=typed), code


@blueprint.get("/practice")
def page() -> ResponseReturnValue:
    """Graded cases, drawn ones, and what came of those that are over."""
    return _page()


@blueprint.post("/practice/start")
@rerender_on_error(_page)
def start() -> ResponseReturnValue:
    """Bring a unit to the bench."""
    form = StartForm.parsed()
    text = (form.seed.data).strip()
    if text and not (text.isascii() and text.isdecimal()):
        raise InputError("A seed is a whole number, such as 42; empty draws one.", field="seed")
    seed = int(text) if text else secrets.randbelow(_SEEDS)
    graded = form.graded.data
    unit = Practised(graded, form.topology.data, form.difficulty.data, 0 if graded else seed)
    return redirect(addresses.stage(practice.start(store(), unit), "diagnosis"), 303)


def _end(number: str, typed: FormState = NOTHING_TYPED, code: int = 200) -> ResponseReturnValue:
    page = shown.end_page(case_of(number))
    if page is None:
        raise NotFoundError("That is not a case of practice.")
    return render_template("practice/end.html", page=page, typed=typed), code


@blueprint.get("/practice/<number>")
def end(number: str) -> ResponseReturnValue:
    """The fault to be named; once it is, both paths."""
    return _end(number)


def _rerender_end(typed: FormState, code: int) -> ResponseReturnValue:
    return _end((request.view_args or {}).get("number", ""), typed, code)


@blueprint.post("/practice/<number>/end")
@rerender_on_error(_rerender_end)
def name_fault(number: str) -> ResponseReturnValue:
    """Name the fault and end the practice."""
    practice.end(store(), number, EndForm.parsed().named.data)
    return redirect(addresses.practice(number), 303)


@blueprint.post("/cases/<number>/do/look-at")
@rerender_on_error(rerender_stage)
def look_at(number: str) -> ResponseReturnValue:
    """Look at a part of a simulated unit."""
    form = LookAtForm.parsed()
    practice.look_at(store(), number, form.part.data)
    return redirect_to_stage(number, posted_stage(), form.at.data)


@blueprint.post("/cases/<number>/do/by-hand")
@rerender_on_error(rerender_stage)
def by_hand(number: str) -> ResponseReturnValue:
    """Take a test that no meter's figure answers."""
    form = ByHandForm.parsed()
    practice.by_hand(store(), number, form.test.data)
    return redirect_to_stage(number, posted_stage(), form.at.data)


@blueprint.post("/cases/<number>/do/bleed")
@rerender_on_error(rerender_stage)
def bleed(number: str) -> ResponseReturnValue:
    """Bleed every store of a simulated unit."""
    form = CaptureForm.parsed()
    practice.bleed(store(), number)
    return redirect_to_stage(number, posted_stage(), form.at.data)
