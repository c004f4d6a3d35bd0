"""Look over, cold checks, capacitors: findings by code, photos; readings are taken by the tray."""

from __future__ import annotations

from functools import partial

from flask import Blueprint, request, send_file
from flask.typing import ResponseReturnValue
from werkzeug.datastructures import FileStorage

from hale_rail.actions.parts import looks, photos
from hale_rail.formats.photos import MAX_BYTES
from hale_rail.stages.parts import capacitors, cold, look
from hale_rail.web.frame.case_page import (
    page_query,
    posted_stage,
    redirect_to_stage,
    rerender_on_error,
    rerender_stage,
    show_stage,
    store,
)
from hale_rail.web.frame.stage_routes import stage_blueprint
from hale_rail.web.parts.forms import LookForm, PhotoForm

blueprint: Blueprint = stage_blueprint(look.STAGE)
cold_blueprint = stage_blueprint(cold.STAGE)
capacitors_blueprint = stage_blueprint(capacitors.STAGE)


@cold_blueprint.get("")
def case_page(number: str) -> ResponseReturnValue:
    """A case's bare address: its line map."""
    return show_stage(number, cold.STAGE, page_query())


@blueprint.post("/do/look", endpoint="look")
@rerender_on_error(rerender_stage)
def say_seen(number: str) -> ResponseReturnValue:
    """Record what is seen at a part."""
    form = LookForm.parsed()
    looks.look(store(), number, form.part.data, (form.codes.data).split())
    return redirect_to_stage(number, posted_stage(), form.at.data)


@blueprint.post("/do/rest-sound", endpoint="rest-sound")
@rerender_on_error(rerender_stage)
def rest_sound(number: str) -> ResponseReturnValue:
    """Say of what was not looked at that it looks sound."""
    looks.rest_sound(store(), number)
    return redirect_to_stage(number, posted_stage())


@blueprint.post("/do/photo")
@rerender_on_error(rerender_stage)
def photo(number: str) -> ResponseReturnValue:
    """Add photos to a part or the unit; what is not a photo is refused by name."""
    form = PhotoForm.parsed()
    uploads = request.files.getlist("photos")
    files = [(upload.filename or "", partial(_bytes_of, upload)) for upload in uploads]
    photos.add(store(), number, form.part.data or None, files, form.caption.data)
    return redirect_to_stage(number, posted_stage(), form.at.data)


def _bytes_of(upload: FileStorage) -> bytes:
    """What was sent, one byte more than may be at most; it is not held after that."""
    try:
        return bytes(upload.read(MAX_BYTES + 1))
    finally:
        upload.close()


@blueprint.get("/photos/<string(length=64):sha256>.jpg")
def photo_file(number: str, sha256: str) -> ResponseReturnValue:
    """A photo or its thumbnail; always sent as the JPEG it was re-encoded to."""
    thumb = request.args.get("thumb") == "1"
    path = photos.file_of(store(), number, sha256, thumb=thumb)
    response = send_file(path, mimetype="image/jpeg")
    # named by the hash of its bytes, so it never changes; it is this workshop's alone
    response.headers["Cache-Control"] = "private, max-age=31536000, immutable"
    response.headers["Content-Disposition"] = f'inline; filename="{number}-{sha256[:8]}.jpg"'
    return response
