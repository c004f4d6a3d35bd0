"""The ripple lab: records in and out, and windows of them for the screen."""

from __future__ import annotations

import math
from collections.abc import Iterator
from pathlib import Path

from flask import Response, jsonify, request
from flask.typing import ResponseReturnValue

from hale_rail.actions.instruments import capturing
from hale_rail.actions.ripple import waves as actions
from hale_rail.case.ripple.waves import MOST_COLUMNS, WaveRecord, split_of, wave_records
from hale_rail.core.ripple.bands import BANDS, Split
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.records.wave_view import wave_rows, window_json
from hale_rail.stages.ripple import ripple
from hale_rail.store import waves
from hale_rail.web.frame.case_page import (
    case_of,
    store,
)
from hale_rail.web.frame.stage_routes import Onward, stage_blueprint
from hale_rail.web.ripple.forms import AsideForm, WaveForm

_CHUNK = 1 << 20
blueprint = stage_blueprint(ripple.STAGE)


@blueprint.form("wave", WaveForm)
def wave(number: str, form: WaveForm) -> Onward:
    """Take a record in."""
    fields = form.description()
    upload = request.files.get("wave")
    if upload is None or not upload.filename:
        raise InputError("Choose a file: CSV of an oscilloscope, or WAV.", field="wave")
    record = actions.take(store(), number, form.rail.data, upload.filename, upload.stream, fields)
    return Onward(by=str(record))


@blueprint.form("wave-capture", WaveForm)
def capture(number: str, form: WaveForm) -> Onward:
    """Take a record from the oscilloscope on the line, or of the simulated unit."""
    record = capturing.capture_record(store(), number, form.rail.data, form.description())
    return Onward(by=str(record))


@blueprint.form("wave-said", WaveForm)
def described(number: str, form: WaveForm) -> Onward:
    """Say again how a record is read and how it was taken."""
    actions.say(store(), number, form.record.data, form.description())
    return Onward(by=str(form.record.data))


@blueprint.form("wave-aside", AsideForm)
def aside(number: str, form: AsideForm) -> None:
    """Put a record aside."""
    actions.put_aside(store(), number, form.record.data, form.reason.data)


@blueprint.get("/waves/<int:record>/view.json")
def view(number: str, record: int) -> ResponseReturnValue:
    """A window of a record, no more than the screen can show."""
    split = _split(number, record)[1]
    args = request.args
    begin, end = (args.get(name, default, type=float) for name, default in (("from", 0.0),
                  ("to", split.wave.length_s)))  # fmt: skip
    if not (begin is not None and end is not None and math.isfinite(begin + end)):
        raise NotFoundError("There is no such window.")
    columns = max(1, min(args.get("px", 1200, type=int), MOST_COLUMNS))
    bands = [name for name in args.get("bands", "").split(",") if name in BANDS]
    return jsonify(window_json(split, begin, end, columns, bands))


@blueprint.get("/waves/<int:record>/wave.csv")
def as_csv(number: str, record: int) -> ResponseReturnValue:
    """The record's seconds and volts."""
    wave_record, split = _split(number, record)
    name = f"{number}-{wave_record.row.rail.replace(' ', '')}-{record}.csv"
    headers = {"Content-Disposition": f'attachment; filename="{_plain(name)}"'}
    return Response(wave_rows(split), mimetype="text/csv", headers=headers)


@blueprint.get("/waves/<int:record>/original")
def original(number: str, record: int) -> ResponseReturnValue:
    """The file as it was imported; handed over, never shown by us."""
    row = _record(number, record).row
    path = waves.path_of(store().folder, row.sha256)
    if not path.exists():
        raise NotFoundError("The record's file is missing from the data folder.")
    kind = "wav" if row.name.lower().endswith(".wav") else "csv"
    headers = {"Content-Disposition": f'attachment; filename="record-{record}.{kind}"'}
    return Response(_chunks(path), mimetype="application/octet-stream", headers=headers)


def _chunks(path: Path) -> Iterator[bytes]:
    """A file piece by piece, open only while it is read."""
    with path.open("rb") as file:
        while chunk := file.read(_CHUNK):
            yield chunk


def _plain(name: str) -> str:
    """A file's name in letters that every system takes."""
    return name.replace("−", "-").encode("ascii", "replace").decode().replace("?", "_")


def _record(number: str, record: int) -> WaveRecord:
    wave_record = next((r for r in wave_records(case_of(number)) if r.id == record), None)
    if wave_record is None:
        raise NotFoundError("There is no such record in this case.")
    return wave_record


def _split(number: str, record: int) -> tuple[WaveRecord, Split]:
    wave_record = _record(number, record)
    split = split_of(case_of(number), wave_record)
    if split is None:
        raise NotFoundError("This record is still being looked at.")
    return wave_record, split
