"""Shorts: isolate, trace, and the map that a person draws; readings are taken by the tray."""

from __future__ import annotations

from flask import Response, jsonify, request, send_file
from flask.typing import ResponseReturnValue
from wtforms.validators import DataRequired, Length

from hale_rail.actions.places import map_start
from hale_rail.actions.shorts import boards
from hale_rail.actions.shorts.traces import take_trace
from hale_rail.case.shorts.boards import BoardOf, board_maps
from hale_rail.case.shorts.traces import trace_csv
from hale_rail.case.subjects import check_point
from hale_rail.core.errors import at_field
from hale_rail.core.procedures import BOARD_DROP, BOARD_OHMS, Point
from hale_rail.core.procedures.boards import Ends
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.boards.board_csv import read_board_csv, write_board_csv
from hale_rail.formats.boards.board_json import board_text
from hale_rail.formats.photos import MAX_BYTES
from hale_rail.stages.recap import recap
from hale_rail.stages.shorts import isolate, shorts, trace
from hale_rail.stages.shorts import map as map_stage
from hale_rail.store import photos
from hale_rail.web.form_base import CaseForm, FormState, PlacedField, TextField, WholeField
from hale_rail.web.frame.case_page import (
    case_of,
    rerender_on_error,
    store,
)
from hale_rail.web.frame.stage_routes import Onward, stage_blueprint
from hale_rail.web.uploads import file_response, needed_text, sent_bytes

shorts_blueprint = stage_blueprint(shorts.STAGE)
isolate_blueprint = stage_blueprint(isolate.STAGE)
trace_blueprint = stage_blueprint(trace.STAGE)
blueprint = stage_blueprint(map_stage.STAGE)


class RailOnlyForm(CaseForm):
    """Something done to a rail."""


class CloseTraceForm(CaseForm):
    """The rail whose short was found, and the line of a part that the sheet lacks."""

    drawn = ("close-trace",)

    line = TextField("Its line, as one would write it", validators=[Length(max=120)])


class ProbeForm(CaseForm):
    """Pads for the probes and, for a drop, for the clamps."""

    plus = TextField(validators=[DataRequired("Name the plus probe's pad."), Length(max=24)])
    minus = TextField(validators=[DataRequired("Name the minus probe's pad."), Length(max=24)])
    inject = TextField(validators=[Length(max=24)])
    drain = TextField(validators=[Length(max=24)])


class MapForm(CaseForm):
    """A map as drawn, as JSON, and the version that was drawn on."""

    body = PlacedField(validators=[Length(max=4_000_000, message="The map is too large.")])
    version = WholeField()


@isolate_blueprint.form("tree", RailOnlyForm)
def tree(number: str, form: RailOnlyForm) -> Onward:
    """Change what hangs on a rail."""
    columns = [request.form.getlist(name) for name in ("id", "name", "parent", "weight", "minutes")]
    if len({len(column) for column in columns}) != 1:
        raise InputError("That form was not understood. Reload the page.")
    rows = list(zip(*columns, strict=True))
    boards.save_tree(store(), number, form.by.data, rows)
    return Onward(by=form.by.data)


@trace_blueprint.form("probe", ProbeForm)
def probe(number: str, form: ProbeForm) -> Onward:
    """Put other pads than the proposed ones into the tray."""
    rail = form.by.data
    ends = Ends(
        rail,
        form.plus.data,
        form.minus.data,
        form.inject.data,
        form.drain.data,
    )
    point = Point(ends.target, BOARD_DROP if ends.inject else BOARD_OHMS)
    try:
        check_point(case_of(number), point)
    except NotFoundError as error:
        raise InputError("One of these pads is on no map of this rail.", field="plus") from error
    return Onward(point.key)


@trace_blueprint.form("close-trace", CloseTraceForm)
def close_trace(number: str, form: CloseTraceForm) -> Onward:
    """Put the part that shorts the rail on the recap list."""
    boards.close_trace(store(), number, form.by.data, form.line.data)
    return Onward(stage=recap.STAGE)


def rerender_drawing(typed: FormState, code: int) -> ResponseReturnValue:
    """Tell the drawing page what is wrong; it keeps what was drawn."""
    return jsonify({"problem": next(iter(typed.problems.values()), "")}), code


@blueprint.post("/do/map")
@rerender_on_error(rerender_drawing)
def draw(number: str) -> ResponseReturnValue:
    """Keep the map as it is drawn."""
    form = MapForm.parsed()
    version = boards.save_map(store(), number, form.by.data, form.body.data, form.version.data)
    return jsonify({"version": version})


@blueprint.form("map-file", RailOnlyForm)
def take_file(number: str, form: RailOnlyForm) -> Onward:
    """Take a map from a file, in place of the one that is drawn."""
    rail = form.by.data
    text = needed_text("map", "BOARD.json or CSV")
    with at_field("map"):
        if not text.lstrip("\ufeff \r\n\t").startswith("{"):
            text = board_text(read_board_csv(text))
        boards.save_map(store(), number, rail, text, is_new=True)
    return Onward(by=rail)


@blueprint.form("map-photo", RailOnlyForm)
def take_photo(number: str, form: RailOnlyForm) -> Onward:
    """Put a photo under the map."""
    rail = form.by.data
    boards.put_picture(store(), number, rail, *sent_bytes("photo", "photo of the board", MAX_BYTES))
    return Onward(by=rail)


@blueprint.form("map-places", RailOnlyForm)
def begin_map(number: str, form: RailOnlyForm) -> Onward:
    """Put the rail's placed parts on its map."""
    map_start.begin_map(store(), number, form.by.data)
    return Onward(by=form.by.data)


@blueprint.get("/board.json")
def as_json(number: str) -> ResponseReturnValue:
    """The map as BOARD.json."""
    return Response(board_text(_asked_map(number).map), mimetype="application/json")


@blueprint.get("/board.csv")
def as_csv(number: str) -> ResponseReturnValue:
    """The map as a table."""
    return file_response(write_board_csv(_asked_map(number).map), "text/csv", f"{number}-board.csv")


def _asked_map(number: str) -> BoardOf:
    """The map of the rail in the address; raises NotFoundError."""
    board = board_maps(case_of(number)).get(request.args.get("by", ""))
    if board is None:
        raise NotFoundError("No map of this rail is drawn.")
    return board


@trace_blueprint.form("trace-file", RailOnlyForm)
def take_readings(number: str, form: RailOnlyForm) -> Onward:
    """Take a file's readings on the map, all or none."""
    rail = form.by.data
    text = needed_text("trace", "READINGS.csv of a trace")
    with at_field("trace"):
        take_trace(store(), number, rail, text)
    return Onward(by=rail)


@trace_blueprint.get("/trace.csv")
def readings(number: str) -> ResponseReturnValue:
    """The readings on the map as a file."""
    text = trace_csv(case_of(number), request.args.get("by", ""))
    return file_response(text, "text/csv", f"{number}-trace.csv")


@blueprint.get("/board.jpg")
def picture(number: str) -> ResponseReturnValue:
    """The photo under the map; always sent as the JPEG it was re-encoded to."""
    photo = _asked_map(number).map.picture
    path = photos.path_of(store().folder, photo.sha256) if photo and photo.sha256 else None
    if path is None or not path.exists():
        raise NotFoundError("There is no photo under this map.")
    return send_file(path, mimetype="image/jpeg", max_age=0)
