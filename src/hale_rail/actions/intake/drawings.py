"""Attaching drawings to a case or its type of unit, and proving them on the board."""

from __future__ import annotations

from pathlib import Path

from hale_rail.actions.change import changing
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.intake.drawings import Drawing, drawings
from hale_rail.core.errors import at_field
from hale_rail.core.intake.drawings import Check
from hale_rail.core.quantities import Unit, read, show
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.photos import encode_photo
from hale_rail.store import documents, unit_types
from hale_rail.store.database import Store
from hale_rail.store.documents import DOCUMENTS, DRAWING_CHECKS, JPEG, PDF, Checked, Document

MAX_BYTES = 20 * 1024 * 1024
_PDF_START = b"%PDF-"


def attach(
    store: Store,
    number: str,
    data: bytes,
    file_name: str,
    name: str = "",
    revision: str = "",
    *,
    of_type: bool = False,
    at: str | None = None,
) -> None:
    """Keep a PDF or a picture as a document of the case, or of its type of unit.

    What it is goes by its bytes, never by its name; pictures are re-encoded. Raises InputError.
    """
    if len(data) > MAX_BYTES:
        raise InputError(f"{file_name} is larger than {MAX_BYTES >> 20} MB.", field="document")
    is_pdf = data.startswith(_PDF_START)
    kept, media = (data, PDF) if is_pdf else (_picture(data, file_name), JPEG)
    sha256 = documents.put_file(store.folder, kept, media)
    title = name.strip() or Path(file_name).stem[:60] or "Drawing"
    with changing(store, number, at) as change:
        case = change.file.case
        if of_type and case.unit_type_id is None:
            text = "This case has no type of unit yet: choose one above, or keep it with the case."
            raise InputError(text, field="document")
        log_id = change.log("edited", f"Drawing {title} {revision.strip()}".strip())
        unit_type = case.unit_type_id if of_type else None
        new = Document(case.id, title, revision.strip(), media, sha256, unit_type)
        change.append(DOCUMENTS, log_id, new)
        if unit_type is not None:
            unit_types.count_change(change.connection, unit_type)


def _picture(data: bytes, name: str) -> bytes:
    try:
        return encode_photo(data, name).full
    except InputError as error:
        raise InputError(f"{name} is neither a PDF nor a picture.", field="document") from error


def prove(
    store: Store,
    number: str,
    document_id: int,
    one_end: str,
    other_end: str,
    is_drawn_joined: bool,
    ohms: str,
    at: str | None = None,
) -> Check:
    """Record a connection that was measured against a drawing; returns it with its agreement.

    Raises NotFoundError for no such drawing, InputError for what cannot be read.
    """
    ends = one_end.strip(), other_end.strip()
    if not all(ends) or ends[0].casefold() == ends[1].casefold():
        raise InputError(
            "Name two ends that can be seen, such as P1 pin 3 and C14 +.", field="ends"
        )
    with at_field("ohms"):
        ohm = read(ohms, Unit.OHM).value
    check = Check(*ends, is_drawn_joined, ohm)
    drawing = _drawing(open_case(store, number), document_id)
    joined_words = "as drawn" if check.agrees else "not as drawn"
    words = f"{drawing.name}: {ends[0]} to {ends[1]} {show(ohm, Unit.OHM)}, {joined_words}"
    with changing(store, number, at) as change:
        log_id = change.log("edited", words)
        case = change.file.case
        row = Checked(document_id, case.id, case.number, *ends, check.is_drawn_joined, check.ohm)
        change.append(DRAWING_CHECKS, log_id, row)
        if drawing.document.unit_type_id is not None:
            unit_types.count_change(change.connection, drawing.document.unit_type_id)
    return check


def file_of(store: Store, number: str, document_id: int) -> tuple[Path, Document]:
    """The file of a case's document; raises NotFoundError when there is none."""
    document = _drawing(open_case(store, number), document_id).document
    path = documents.path_of(store.folder, document.sha256, document.media_type)
    if not path.exists():
        raise NotFoundError("The drawing's file is missing from the data folder.")
    return path, document


def _drawing(case: CaseFile, document_id: int) -> Drawing:
    drawing = next((d for d in drawings(case) if d.document.id == document_id), None)
    if drawing is None:
        raise NotFoundError("There is no such drawing in this case.")
    return drawing
