"""Hand back: the report, issued and kept; the case closed or taken to the bench again."""

from __future__ import annotations

from contextlib import suppress
from functools import partial

from flask import Response, render_template, request
from flask.typing import ResponseReturnValue
from wtforms import (
    RadioField,
)

from hale_rail import clock
from hale_rail.actions.report import closing
from hale_rail.case.file import CaseFile
from hale_rail.case.history import issued_reports
from hale_rail.case.places.pictures import crop
from hale_rail.case.report.report import Report, report
from hale_rail.case.report.report_blocks import blocks, plain_map
from hale_rail.case.report.report_figures import PAGE_S, wait_for_records
from hale_rail.core.report.document import DocumentCrop, longest
from hale_rail.errors import NotFoundError
from hale_rail.formats.codec import from_text
from hale_rail.formats.report_pdf import report_pdf
from hale_rail.stages.report import hand_back
from hale_rail.store import photos, sheets
from hale_rail.web.assets import FOLDER
from hale_rail.web.form_base import CaseForm, TextField, WholeField
from hale_rail.web.frame.case_page import (
    case_of,
    store,
)
from hale_rail.web.frame.stage_routes import stage_blueprint
from hale_rail.web.intake.forms import _AT_MOST

#: of each table, list or row of photos so many stand on the screen; paper has all
SCREEN_ROWS = 40
blueprint = stage_blueprint(hand_back.STAGE)


class HandBackForm(CaseForm):
    """How a unit goes back."""

    drawn = ("hand-back",)

    version = WholeField()
    outcome = RadioField("It goes back", validate_choice=False)
    why = TextField("Why it goes back as repaired all the same", validators=[_AT_MOST])


class ReopenForm(CaseForm):
    """A case to be taken to the bench again."""

    version = WholeField()


@blueprint.form("hand-back", HandBackForm)
def close(number: str, form: HandBackForm) -> None:
    """Issue the report and hand the case back."""
    closing.hand_back(
        store(),
        number,
        form.version.data,
        form.outcome.data or "",
        why=form.why.data,
    )


@blueprint.form("reopen", ReopenForm)
def reopen(number: str, form: ReopenForm) -> None:
    """Take the case to the bench again."""
    closing.reopen(store(), number, form.version.data)


@blueprint.get("/report")
def draft(number: str) -> ResponseReturnValue:
    """The newest issued report of a case handed back, else the report as it would be issued."""
    case = case_of(number)
    return _page(case, *_newest(case))


@blueprint.get("/report/<int:issued>")
def issued_report(number: str, issued: int) -> ResponseReturnValue:
    """A report as it was issued."""
    case = case_of(number)
    return _page(case, _issued(case, issued), issued)


@blueprint.get("/report.pdf")
def draft_pdf(number: str) -> ResponseReturnValue:
    """The same as the page, as a PDF."""
    case = case_of(number)
    return _pdf(case, _newest(case)[0])


@blueprint.get("/report/<int:issued>.pdf")
def issued_pdf(number: str, issued: int) -> ResponseReturnValue:
    """A report as it was issued, as a PDF."""
    case = case_of(number)
    return _pdf(case, _issued(case, issued))


def _newest(case: CaseFile) -> tuple[Report, int | None]:
    """The newest issued report of a case handed back with its id, else the draft."""
    if case.case.closed_at and issued_reports(case):
        newest = issued_reports(case)[0]
        return from_text(newest.body, Report), newest.id
    wait_for_records(case, PAGE_S)
    return report(case), None


def _issued(case: CaseFile, issued: int) -> Report:
    report = next((r for r in issued_reports(case) if r.id == issued), None)
    if report is None:
        raise NotFoundError(f"{case.number} has no such report.")
    return from_text(report.body, Report)


def _page(case: CaseFile, shown: Report, issued: int | None = None) -> ResponseReturnValue:
    sheet = sheets.load(store().read(), case.case.sheet_id, shown.sheet_version)
    titles, whole = blocks(shown), request.args.get("whole") == "1"
    return render_template(
        "report/page.html", number=case.number, report=shown, sheet=sheet, issued=issued,
        report_blocks=titles, whole=whole, screen_rows=SCREEN_ROWS,
        is_cut=not whole and longest(titles) > SCREEN_ROWS,
    )  # fmt: skip


def _cut(case: CaseFile, shown: DocumentCrop) -> bytes | None:
    """A crop of a report, None where its photo is gone."""
    at = (shown.x_mm, shown.y_mm)
    with suppress(NotFoundError):
        return crop(case, shown.sha256, shown.key, at, shown.side_mm)
    return None


def _pdf(case: CaseFile, shown: Report) -> ResponseReturnValue:
    fonts = FOLDER / "fonts"
    folder = store().folder
    moment = shown.closed_at or clock.now()
    sheet = sheets.load(store().read(), case.case.sheet_id, shown.sheet_version)
    made = report_pdf(
        blocks(shown), fonts, lambda sha256: photos.path_of(folder, sha256), moment,
        plain_map(shown, sheet), partial(_cut, case),
    )  # fmt: skip
    name = f'inline; filename="{case.number}-report.pdf"'
    return Response(made, mimetype="application/pdf", headers={"Content-Disposition": name})
