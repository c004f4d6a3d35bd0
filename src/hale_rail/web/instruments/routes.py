"""The workshop's instruments: added, asked with one press, assigned; families described."""

from __future__ import annotations

from flask import Blueprint, redirect, render_template, url_for
from flask.typing import ResponseReturnValue
from wtforms import SelectMultipleField
from wtforms.validators import Length
from wtforms.widgets import TextArea

from hale_rail.actions.instruments import capturing, instruments
from hale_rail.errors import InstrumentError
from hale_rail.stages.instruments import instruments as shown
from hale_rail.web.form_base import Form, FormState, PlacedField, TextField, WholeField, at_most
from hale_rail.web.frame.case_page import NOTHING_TYPED, rerender_on_error, store

blueprint = Blueprint("instruments", __name__, url_prefix="/workshop/instruments")


class AddForm(Form):
    """An instrument by its address."""

    name = TextField(validators=[at_most(40)])
    address = TextField(validators=[at_most(200)])
    family = PlacedField(validators=[Length(max=40)])


class OneForm(Form):
    """One instrument of the list."""

    instrument = WholeField()


class AssignForm(OneForm):
    """What an instrument takes."""

    procedures = SelectMultipleField(validate_choice=False)


class FamilyForm(Form):
    """A family in TOML."""

    code = TextField(validators=[at_most(40)])
    text = TextField(widget=TextArea(), validators=[Length(max=65_536)])


def _page(
    typed: FormState = NOTHING_TYPED,
    code: int = 200,
    number: int = 0,
    text: str = "",
    failed: str = "",
) -> ResponseReturnValue:
    page = shown.page(store())
    return render_template(
        "instruments/page.html", page=page, typed=typed, answered_by=number, answer=text,
        failed=failed, words=shown.procedure_words, sample=shown.SAMPLE,
    ), code  # fmt: skip


@blueprint.get("")
def page() -> ResponseReturnValue:
    """Instruments and families as they are."""
    return _page()


@blueprint.post("/add")
@rerender_on_error(_page)
def add() -> ResponseReturnValue:
    """Add an instrument."""
    form = AddForm.parsed()
    instruments.add(store(), form.name.data, form.address.data, form.family.data)
    return redirect(url_for("instruments.page"), 303)


@blueprint.post("/ask")
@rerender_on_error(_page)
def ask() -> ResponseReturnValue:
    """Ask an instrument who it is; what it answers, or does instead, is shown."""
    which = OneForm.parsed().instrument.data
    try:
        return _page(number=which, text=capturing.ask_who(store(), which))
    except InstrumentError as error:
        return _page(number=which, failed=str(error))


@blueprint.post("/assign")
@rerender_on_error(_page)
def assign() -> ResponseReturnValue:
    """Say what an instrument takes."""
    form = AssignForm.parsed()
    instruments.assign(store(), form.instrument.data, form.procedures.data or [])
    return redirect(url_for("instruments.page"), 303)


@blueprint.post("/remove")
@rerender_on_error(_page)
def remove() -> ResponseReturnValue:
    """Take an instrument off the list."""
    instruments.remove(store(), OneForm.parsed().instrument.data)
    return redirect(url_for("instruments.page"), 303)


@blueprint.post("/family")
@rerender_on_error(_page)
def family() -> ResponseReturnValue:
    """Describe a family."""
    form = FamilyForm.parsed()
    instruments.add_family(store(), form.code.data, form.text.data)
    return redirect(url_for("instruments.page"), 303)
