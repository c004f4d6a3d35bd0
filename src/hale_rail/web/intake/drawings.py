"""Drawings of a case and of its type of unit: attached, proven, looked at."""

from __future__ import annotations

from flask import Blueprint, send_file
from flask.typing import ResponseReturnValue

from hale_rail.actions.intake import drawings
from hale_rail.stages.intake import intake
from hale_rail.store.documents import PDF
from hale_rail.web.frame.case_page import (
    redirect_to_stage,
    rerender_on_error,
    rerender_stage,
    store,
)
from hale_rail.web.intake.forms import DrawingForm, ProveForm
from hale_rail.web.uploads import sent_bytes

blueprint = Blueprint("drawings", __name__, url_prefix="/cases/<number>")


@blueprint.post("/do/drawing")
@rerender_on_error(rerender_stage)
def drawing(number: str) -> ResponseReturnValue:
    """Attach a PDF or a picture."""
    form = DrawingForm.parsed()
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
    return redirect_to_stage(number, intake.STAGE)


@blueprint.post("/do/prove")
@rerender_on_error(rerender_stage)
def prove(number: str) -> ResponseReturnValue:
    """Note a connection that was measured against a drawing."""
    form = ProveForm.parsed()
    drawings.prove(
        store(),
        number,
        form.document.data,
        form.one_end.data,
        form.other_end.data,
        form.joined.data != "no",
        form.ohms.data,
    )
    return redirect_to_stage(number, intake.STAGE)


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
