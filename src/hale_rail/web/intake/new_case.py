"""Opening a case: pattern or template, what is known, parts pasted with a preview."""

from __future__ import annotations

from flask import Blueprint, redirect, render_template, request
from flask.typing import ResponseReturnValue
from wtforms.fields.choices import SelectChoice

from hale_rail.actions.intake import cases
from hale_rail.actions.intake.cases import AS_PATTERN, NewCase
from hale_rail.actions.workshop.bundles import ImportedCase
from hale_rail.case.workshop.workshop import workshop
from hale_rail.core.diagnosis.knowledge import Symptom
from hale_rail.core.supply.sheet import Topology
from hale_rail.errors import InputError
from hale_rail.formats.knowledge import knowledge_for
from hale_rail.formats.units.pasted_parts import TAKES, Preview, Take, merged
from hale_rail.stages.frame.bench import suggest_number
from hale_rail.store import sheets, unit_types
from hale_rail.web import addresses
from hale_rail.web.form_base import FormError, FormState
from hale_rail.web.frame.case_page import rerender_on_error, store
from hale_rail.web.intake.forms import FileCaseForm, NewCaseForm

#: what the choice of a clash is called, before its designator
_TAKE = "take-"
blueprint = Blueprint("new_case", __name__, url_prefix="/cases/new")


@blueprint.get("")
def page() -> ResponseReturnValue:
    """The empty form, with the workshop's usual choices."""
    return _page(_usual_form())


def _usual_form() -> NewCaseForm:
    usual = workshop(store())
    return NewCaseForm(
        formdata=None,
        number=suggest_number(store()),
        start=f"template:{Topology.FLYBACK.code}",
        unit_type=AS_PATTERN,
        school=usual.school.code,
        tolerance=usual.tolerance.value,
    )


def rerender(typed: FormState, code: int) -> ResponseReturnValue:
    """The form with what was typed and what is wrong with it."""
    form = NewCaseForm()
    for name, text in typed.problems.items():
        if name in form:
            form[name].errors = [text]
    preview, problem = _preview(form)
    return _page(form, preview, problem or typed.problems.get("", "")), code


def rerender_file(typed: FormState, code: int) -> ResponseReturnValue:
    """The page with what was typed beside the file, and what is wrong with it."""
    form = FileCaseForm()
    for name, text in typed.problems.items():
        own = name if name in form else f"file_{name}"
        if own in form:
            form[own].errors = [text]
    return _page(_usual_form(), file_form=form), code


def rerender_bundle(typed: FormState, code: int) -> ResponseReturnValue:
    """The page with what is wrong with a bundle."""
    problem = next(iter(typed.problems.values()), "")
    return _page(_usual_form(), bundle_problem=problem), code


def show_imported(case: ImportedCase) -> ResponseReturnValue:
    """The page with what came of a bundle."""
    return _page(_usual_form(), case=case)


@blueprint.post("/preview")
def preview() -> ResponseReturnValue:
    """What is understood of the pasted list, without opening anything."""
    form = NewCaseForm()
    preview, problem = _preview(form)
    if request.headers.get("HX-Target") == "preview":
        return render_template(
            "intake/new_case/_preview.html",
            preview=preview,
            list_problem=problem,
            dropped=_dropped(preview),
        )
    return _page(form, preview, problem)


@blueprint.post("/symptoms")
def symptoms() -> ResponseReturnValue:
    """The symptoms that the typed one may mean, to be ticked."""
    form = NewCaseForm()
    return render_template(
        "intake/new_case/_symptoms.html", meant=_meant(form), said=form.symptoms.data
    )


def _meant(form: NewCaseForm) -> tuple[Symptom, ...]:
    try:
        start = cases.starting_sheet(store(), form.start.data or "")
    except InputError:
        return ()
    return knowledge_for(start.sheet.topology).suggested(form.symptom.data or "")


@blueprint.post("")
@rerender_on_error(rerender)
def create() -> ResponseReturnValue:
    """Open the case; lines that cannot be used are mended first, or left out on purpose."""
    form = NewCaseForm.parsed()
    preview, problem = _preview(form)
    if problem:
        raise FormError({"parts": problem})
    if preview and preview.problems and not form.leave_out.data:
        raise FormError(
            {
                "parts": f"{len(preview.problems)} of the lines below cannot be used. Mend them, "
                "or tick to leave them out; they stay in the case's log."
            }
        )
    number = cases.open_new(store(), _typed(form))
    return redirect(addresses.stage(number), 303)


def _typed(form: NewCaseForm) -> NewCase:
    return NewCase(
        number=form.number.data,
        machine=form.machine.data,
        symptom=form.symptom.data,
        before=form.before.data,
        start=form.start.data or "",
        parts=form.parts.data,
        school=form.school.data,
        tolerance=form.tolerance.data,
        unit_type=form.unit_type.data,
        takes=_takes(),
        year=form.year.data,
        dropped=tuple(request.form.getlist("drop")),
        lost_rails=tuple(request.form.getlist("drop-rail")),
        symptoms=tuple(s.id for s in _meant(form) if s.id in (form.symptoms.data or ())),
    )


def _takes() -> dict[str, Take]:
    """What was chosen for each part that the start has on another line."""
    return {
        name.removeprefix(_TAKE): TAKES[value]
        for name, value in request.form.items()
        if name.startswith(_TAKE) and value in TAKES
    }


def _dropped(preview: Preview | None) -> set[str]:
    """What is ticked of the start's parts and rails; all or none by one press."""
    if preview is None:
        return set()
    press = request.form.get("rest", "")
    if press == "drop":
        return {p.ref for p in preview.unnamed} | {rail.key for rail in preview.unnamed_rails}
    ticked = request.form.getlist("drop") + request.form.getlist("drop-rail")
    return set() if press == "keep" else set(ticked)


def _preview(form: NewCaseForm) -> tuple[Preview | None, str]:
    text = form.parts.data
    if not text.strip():
        return None, ""
    try:
        start = cases.starting_sheet(store(), form.start.data or "")
        return merged(start.sheet, text, _takes()), ""
    except InputError as error:
        return None, str(error)


def _page(
    form: NewCaseForm,
    preview: Preview | None = None,
    problem: str = "",
    file_form: FileCaseForm | None = None,
    bundle_problem: str = "",
    case: ImportedCase | None = None,
) -> str:
    connection = store().read()
    form.unit_type.choices = [
        SelectChoice(AS_PATTERN, "units of the pattern it starts from"),
        SelectChoice("", "no other unit"),
        *(SelectChoice(str(t.id), t.name) for t in unit_types.listed(connection)),
    ]
    return render_template(
        "intake/new_case/page.html",
        form=form,
        bundle_problem=bundle_problem,
        taken=case,
        file_form=file_form or FileCaseForm(formdata=None, file_number=suggest_number(store())),
        preview=preview,
        dropped=_dropped(preview),
        list_problem=problem,
        meant=_meant(form),
        said=form.symptoms.data or (),
        patterns=sheets.patterns(connection),
        topologies=tuple(Topology),
    )
