"""Intake: the case's own fields, its sheet, and the pattern it is kept as."""

from __future__ import annotations

from flask import redirect, request
from flask.typing import ResponseReturnValue

from hale_rail.actions.intake import case_place, cases, sheets
from hale_rail.errors import InputError
from hale_rail.formats.units.pasted_parts import Preview, beside
from hale_rail.stages.intake import intake
from hale_rail.stages.parts import cold
from hale_rail.stages.stage import PageQuery
from hale_rail.web import addresses
from hale_rail.web.form_base import CaseForm, FormError, FormState
from hale_rail.web.frame.case_page import (
    case_of,
    posted_stage,
    redirect_to_stage,
    rerender_on_error,
    show_stage,
    store,
)
from hale_rail.web.frame.stage_routes import Onward, stage_blueprint
from hale_rail.web.intake.forms import EditForm, PartsForm, PatternForm, RenameForm, UnitForm

blueprint = stage_blueprint(intake.STAGE)
#: fields of the form that are not the case's own
_NOT_OF_CASE = ("at", "by", "version")


@blueprint.form("edit", EditForm)
def edit(number: str, form: EditForm) -> Onward:
    """Change the case's own fields; a second tab's older copy is refused with its text kept."""
    sent = {field.name: field.data for field in form if field.name in request.form}
    sent = {name: text for name, text in sent.items() if name not in _NOT_OF_CASE}
    cases.edit(store(), number, form.version.data, **sent)
    return Onward(form.at.data, stage=posted_stage())


@blueprint.form("unit", UnitForm)
def describe_unit(number: str, form: UnitForm) -> None:
    """Say when the unit was made, what it was opened for, and whether it is its own load."""
    sheets.describe_unit(
        store(),
        number,
        form.year.data,
        form.purpose.data,
        is_self_loaded=bool(form.is_self_loaded.data),
    )


@blueprint.form("rename", RenameForm)
def rename(number: str, form: RenameForm) -> Onward | ResponseReturnValue:
    """Give the case another number."""
    new = case_place.rename(store(), number, form.number.data)
    return redirect(addresses.stage(new, intake.STAGE.key), 303)


@blueprint.form("put-away", CaseForm)
def put_away(number: str, _: CaseForm) -> None:
    """Put the case away from the bench."""
    case_place.put_away(store(), number)


@blueprint.form("take-up", CaseForm)
def take_up(number: str, _: CaseForm) -> Onward:
    """Take the case to the bench again."""
    case_place.take_up(store(), number)
    return Onward(stage=posted_stage())


def rerender_parts(typed: FormState, code: int) -> ResponseReturnValue:
    """Show the page again with the list and what was understood of it."""
    number = (request.view_args or {})["number"]
    return show_stage(
        number, intake.STAGE, PageQuery(), typed, code, preview=_preview(number, typed)
    )


def _preview(number: str, typed: FormState) -> Preview | None:
    try:
        return beside(case_of(number).sheet, str(typed.value("parts", "parts")))
    except InputError:
        return None


@blueprint.post("/do/parts")
@rerender_on_error(rerender_parts)
def parts(number: str) -> ResponseReturnValue:
    """Preview or add a pasted list to the case's sheet."""
    form = PartsForm.parsed()
    text = form.parts.data
    preview = beside(case_of(number).sheet, text)
    if request.form.get("do") != "add":
        typed = FormState("parts", request.form.to_dict())
        return show_stage(number, intake.STAGE, PageQuery(), typed, preview=preview)
    if not (preview.parts or preview.rails):
        raise FormError({"parts": "There is no part or rail in this list."})
    if preview.problems and not form.leave_out.data:
        raise FormError({"parts": "Mend the lines marked below, or tick to leave them out."})
    sheets.add_parts(store(), number, text)
    return redirect_to_stage(number, cold.STAGE)


@blueprint.form("pattern", PatternForm)
def pattern(number: str, form: PatternForm) -> None:
    """Keep the case's sheet as a pattern of the workshop."""
    sheets.keep_pattern(store(), number, form.name.data)
