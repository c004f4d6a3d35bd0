"""Files that a form sends, and files that a page hands over."""

from __future__ import annotations

from flask import Response, request

from hale_rail.core.errors import at_field
from hale_rail.errors import InputError
from hale_rail.formats.tables.texts import decoded


def sent_bytes(field: str, what: str, most: int) -> tuple[str, bytes]:
    """A file's name and up to one byte more than `most` of it; InputError where none is chosen."""
    upload = request.files.get(field)
    if upload is None or not upload.filename:
        raise InputError(f"Choose a {what}.", field=field)
    return upload.filename, upload.read(most + 1)


def sent_text(field: str, what: str) -> str:
    """The text of an uploaded file, "" where none was chosen; raises InputError for no text."""
    upload = request.files.get(field)
    if upload is None or not upload.filename:
        return ""
    with at_field(field):
        return decoded(upload.read(), what)


def needed_text(field: str, what: str) -> str:
    """The text of an uploaded file; raises InputError where none was chosen or it is empty."""
    text = sent_text(field, what)
    if not text.strip():
        raise InputError(f"Choose a {what}.", field=field)
    return text


def file_response(text: str, kind: str, name: str) -> Response:
    """A text handed over as a file."""
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(text, mimetype=kind, headers=headers)
