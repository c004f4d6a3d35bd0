"""Drawings of a case and of its type of unit: attached, proven, looked at."""

from __future__ import annotations

from flask import send_file
from flask.typing import ResponseReturnValue

from hale_rail.actions.intake import drawings
from hale_rail.stages.intake import intake
from hale_rail.store.documents import PDF
from hale_rail.web.frame.case_page import (
    store,
)
from hale_rail.web.frame.stage_routes import Onward, StageBlueprint
from hale_rail.web.intake.forms import DrawingForm, ProveForm
from hale_rail.web.uploads import sent_bytes

blueprint = StageBlueprint("drawings")


@blueprint.form("drawing", DrawingForm)
def drawing(number: str, form: DrawingForm) -> Onward:
    """Attach a PDF or a picture."""
    file_name, data = sent_bytes("document", "PDF or picture", drawings.MAX_BYTES)
    drawings.attach(
        store(),
        number,
        data,
        file_name,
        form.name.data,
        form.revision.data,
        of_type=form.kept.data == "type",
    )
    return Onward(stage=intake.STAGE)


@blueprint.form("prove", ProveForm)
def prove(number: str, form: ProveForm) -> Onward:
    """Note a connection that was measured against a drawing."""
    drawings.prove(
        store(),
        number,
        form.document.data,
        form.one_end.data,
        form.other_end.data,
        form.joined.data != "no",
        form.ohms.data,
    )
    return Onward(stage=intake.STAGE)


@blueprint.get("/documents/<int:document>")
def file(number: str, document: int) -> ResponseReturnValue:
    """The drawing itself, as what it was found to be; a PDF is handed over, never shown by us."""
    path, current_document = drawings.file_of(store(), number, document)
    is_pdf = current_document.media_type == PDF
    ending = "pdf" if is_pdf else "jpg"
    response = send_file(path, mimetype=current_document.media_type, max_age=0)
    how = "attachment" if is_pdf else "inline"
    response.headers["Content-Disposition"] = f'{how}; filename="drawing-{document}.{ending}"'
    return response
