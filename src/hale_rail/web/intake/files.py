"""Units and readings as files: out of a case or a pattern, and in."""

from __future__ import annotations

import io
from tempfile import TemporaryFile
from typing import IO

from flask import Blueprint, redirect, request, send_file
from flask.typing import ResponseReturnValue

from hale_rail.actions.imports import import_readings, plan_readings
from hale_rail.actions.intake import files
from hale_rail.actions.workshop import bundles
from hale_rail.case.reading_rows import reading_rows
from hale_rail.core.errors import at_field
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.readings.readings_csv import read_readings, write_readings
from hale_rail.formats.units.unit_json import write_unit
from hale_rail.stages.intake import intake
from hale_rail.stages.stage import PageQuery
from hale_rail.stages.trial import look_at
from hale_rail.store import sheets
from hale_rail.web import addresses
from hale_rail.web.form_base import Form, FormState
from hale_rail.web.frame.case_page import (
    case_of,
    redirect_to_stage,
    rerender_on_error,
    rerender_stage,
    show_stage,
    store,
)
from hale_rail.web.intake import new_case
from hale_rail.web.intake.forms import FileCaseForm, TakeReadingsForm
from hale_rail.web.uploads import file_response, needed_text
from hale_rail.web.workshop import routes as workshop

blueprint = Blueprint("files", __name__)
_CASE = "/cases/<number>"
#: a bundle up to this size is handed over from memory
_IN_MEMORY = 32 * 1024 * 1024


@blueprint.get(f"{_CASE}/unit.json")
def unit(number: str) -> ResponseReturnValue:
    """The case's sheet."""
    return file_response(
        write_unit(case_of(number).sheet), "application/json", f"{number}-unit.json"
    )


@blueprint.get(f"{_CASE}/readings.csv")
def readings(number: str) -> ResponseReturnValue:
    """The case's readings."""
    text = write_readings(reading_rows(case_of(number)))
    return file_response(text, "text/csv", f"{number}-readings.csv")


@blueprint.post(f"{_CASE}/do/take-unit")
@rerender_on_error(rerender_stage)
def take_unit(number: str) -> ResponseReturnValue:
    """Take a file's parts and rails into the case's sheet."""
    files.take_sheet(store(), number, needed_text("unit", "UNIT.json"))
    return redirect_to_stage(number, intake.STAGE)


@blueprint.post(f"{_CASE}/do/take-readings")
@rerender_on_error(rerender_stage)
def take_readings(number: str) -> ResponseReturnValue:
    """Take a file's readings into the case; bad rows are told, or left out on purpose."""
    form = TakeReadingsForm.parsed()
    text = needed_text("readings", "READINGS.csv")
    with at_field("readings"):
        rows, wrong = read_readings(text)
    plan = plan_readings(case_of(number), rows)
    problems = sorted([*wrong, *plan.problems], key=lambda problem: problem.line)
    if problems and not form.leave_out.data:
        typed = FormState("take-readings")
        return show_stage(number, intake.STAGE, PageQuery(), typed, 422, row_problems=problems)
    import_readings(store(), number, plan)
    return redirect_to_stage(number, intake.STAGE)


@blueprint.post("/cases/new/from-file")
@rerender_on_error(new_case.rerender_file)
def from_file() -> ResponseReturnValue:
    """Open a case from a file."""
    form = FileCaseForm.parsed()
    text = needed_text("unit", "UNIT.json")
    number = files.open_from_file(
        store(), form.file_number.data, text, form.file_machine.data, form.file_symptom.data
    )
    return redirect(addresses.stage(number), 303)


@blueprint.get(f"{_CASE}/bundle.zip")
def bundle(number: str) -> ResponseReturnValue:
    """The whole case as a bundle."""
    case = case_of(number)
    made: IO[bytes] = TemporaryFile()  # noqa: SIM115  the response closes it once it is sent
    bundles.export(store(), case.number, made)
    if made.tell() <= _IN_MEMORY:
        made.seek(0)
        with made:
            made = io.BytesIO(made.read())
    made.seek(0)
    return send_file(
        made, mimetype="application/zip", as_attachment=True, download_name=f"{case.number}.zip"
    )


@blueprint.post("/cases/new/from-bundle")
@rerender_on_error(new_case.rerender_bundle)
def from_bundle() -> ResponseReturnValue:
    """Take a whole case in from a bundle."""
    Form.parsed()
    upload = request.files.get("bundle")
    if upload is None or not upload.filename:
        raise InputError("Choose a bundle: a ZIP that was exported from a workshop.")
    return new_case.show_imported(bundles.take_in(store(), upload.stream, look_at))


@blueprint.get("/workshop/patterns/<int:pattern>.json")
def pattern(pattern: int) -> ResponseReturnValue:
    """A pattern of the workshop."""
    connection = store().read()
    if pattern not in [p.id for p in sheets.patterns(connection)]:
        raise NotFoundError("There is no such pattern.")
    text = write_unit(sheets.load(connection, pattern))
    return file_response(text, "application/json", f"pattern-{pattern}.json")


@blueprint.post("/workshop/patterns")
@rerender_on_error(workshop.rerender_pattern)
def take_pattern() -> ResponseReturnValue:
    """Keep a file's sheet as a pattern."""
    files.pattern_from_file(store(), needed_text("unit", "UNIT.json"))
    return redirect(f"{addresses.workshop()}?saved=patterns#patterns", 303)
