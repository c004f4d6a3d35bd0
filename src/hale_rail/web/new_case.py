"""Opening a case: pattern or template, what is known, parts pasted with a preview."""

from __future__ import annotations

from flask import Blueprint, current_app, redirect, render_template, request
from flask.typing import ResponseReturnValue

from hale_rail.actions import casebook, sheetwork
from hale_rail.actions.casebook import NewCase
from hale_rail.actions.sheetwork import Preview
from hale_rail.core.rails.judge import Tolerance
from hale_rail.core.recap.demand import School
from hale_rail.core.supply.sheet import Topology
from hale_rail.errors import InputError
from hale_rail.web import addresses

blueprint = Blueprint("new_case", __name__, url_prefix="/cases/new")


@blueprint.get("")
def page() -> ResponseReturnValue:
    store = current_app.config["STORE"]
    workshop = casebook.workshop(store)
    typed = NewCase(
        casebook.suggest_number(store), "", "", "", "template:offline flyback", "",
        workshop["school"], workshop["tolerance"],
    )  # fmt: skip
    return _form(typed, {}, None)


@blueprint.post("/preview")
def preview() -> ResponseReturnValue:
    typed = _typed()
    found, problem = _preview(typed)
    if request.headers.get("HX-Target") == "preview":
        return render_template("new_case/_preview.html", preview=found, list_problem=problem)
    return _form(typed, {"parts": problem} if problem else {}, found)


@blueprint.post("")
def create() -> ResponseReturnValue:
    typed = _typed()
    wrong = casebook.check_fields(typed)
    found, problem = _preview(typed)
    if problem:
        wrong["parts"] = problem
    elif found and found.problems and "leave_out" not in request.form:
        wrong["parts"] = (
            f"{len(found.problems)} of the lines below cannot be used. Mend them, or tick to "
            "leave them out; they stay in the case's log."
        )
    if not wrong:
        try:
            number = casebook.open_new(current_app.config["STORE"], typed)
            return redirect(addresses.view(number), 303)
        except InputError as error:
            wrong["number"] = str(error)
    return _form(typed, wrong, found), 422


def _typed() -> NewCase:
    form = request.form
    return NewCase(
        *(form.get(name, "") for name in ("number", "machine", "symptom", "before", "start",
                                          "parts", "school", "tolerance"))
    )  # fmt: skip


def _preview(typed: NewCase) -> tuple[Preview | None, str]:
    if not typed.parts.strip():
        return None, ""
    try:
        sheet = casebook.starting_sheet(current_app.config["STORE"], typed.start)
        return sheetwork.preview(sheet, typed.parts), ""
    except InputError as error:
        return None, str(error)


def _form(typed: NewCase, wrong: dict[str, str], found: Preview | None) -> str:
    return render_template(
        "new_case/page.html",
        typed=typed,
        wrong=wrong,
        preview=found,
        list_problem="",
        patterns=casebook.patterns(current_app.config["STORE"]),
        topologies=list(Topology),
        schools=list(School),
        tolerances=list(Tolerance),
    )
