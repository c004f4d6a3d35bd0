"""Look over, cold checks, capacitors: findings by code, photos; readings are taken by the tray."""

from __future__ import annotations

from functools import partial

from flask import request, send_file
from flask.typing import ResponseReturnValue
from werkzeug.datastructures import FileStorage

from hale_rail.actions.parts import looks, photos
from hale_rail.formats.photos import MAX_BYTES
from hale_rail.stages.parts import capacitors, cold, look
from hale_rail.stages.places import where
from hale_rail.web.form_base import CaseForm
from hale_rail.web.frame.case_page import (
    page_query,
    posted_stage,
    show_stage,
    store,
)
from hale_rail.web.frame.stage_routes import Onward, stage_blueprint
from hale_rail.web.parts.forms import LookForm, PhotoForm

blueprint = stage_blueprint(look.STAGE)
cold_blueprint = stage_blueprint(cold.STAGE)
capacitors_blueprint = stage_blueprint(capacitors.STAGE)


@cold_blueprint.get("")
def case_page(number: str) -> ResponseReturnValue:
    """A case's bare address: its line map."""
    return show_stage(number, cold.STAGE, page_query())


@blueprint.form("look", LookForm)
def say_seen(number: str, form: LookForm) -> Onward:
    """Record what is seen at a part."""
    looks.look(store(), number, form.part.data, (form.codes.data).split())
    stage = posted_stage()
    at = str(form.part.data) if stage is where.STAGE else form.at.data
    return Onward(at, by=form.by.data, stage=stage)


@blueprint.form("rest-sound", CaseForm)
def rest_sound(number: str, _: CaseForm) -> Onward:
    """Say of what was not looked at that it looks sound."""
    looks.rest_sound(store(), number)
    return Onward(stage=posted_stage())


@blueprint.form("photo", PhotoForm)
def photo(number: str, form: PhotoForm) -> Onward:
    """Add photos to a part or the unit; what is not a photo is refused by name."""
    uploads = request.files.getlist("photos")
    files = [(upload.filename or "", partial(_bytes_of, upload)) for upload in uploads]
    photos.add(store(), number, form.part.data or None, files, form.caption.data)
    return Onward(form.at.data, stage=posted_stage())


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
