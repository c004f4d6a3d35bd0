"""Where is it: photos of boards, places on them, marks; as pictures, a sheet, SVG and CSV."""

from __future__ import annotations

from io import BytesIO

from flask import Response, jsonify, render_template, request, send_file
from flask.typing import ResponseReturnValue

from hale_rail.actions.places import boards, marks, places
from hale_rail.case.file import CaseFile
from hale_rail.case.places import places as known
from hale_rail.case.places.pictures import crop, picture
from hale_rail.core.errors import at_field
from hale_rail.core.places.place import Place
from hale_rail.errors import NotFoundError
from hale_rail.formats.photos import MAX_BYTES
from hale_rail.formats.places.places_csv import write_places
from hale_rail.stages.frame import log
from hale_rail.stages.places import where
from hale_rail.stages.stage import PageQuery
from hale_rail.web.form_base import FormState
from hale_rail.web.frame.case_page import (
    case_of,
    page_query,
    redirect_to_stage,
    rerender_on_error,
    show_stage,
    store,
)
from hale_rail.web.frame.stage_routes import Onward, stage_blueprint
from hale_rail.web.places.forms import (
    BoardPhotoForm,
    CornersForm,
    LayPartsForm,
    MarkForm,
    MarkOffForm,
    MeasureForm,
    PlaceForm,
    RowForm,
    ShowBoardForm,
    TakeOffForm,
    ViewForm,
)
from hale_rail.web.places.photo_drawing import rings_json
from hale_rail.web.places.svg_file import placement_svg
from hale_rail.web.uploads import file_response, needed_text, sent_bytes

blueprint = stage_blueprint(where.STAGE)
#: a picture is named by what it is made of, so it never changes; it is this workshop's alone
_FOR_GOOD = "private, max-age=31536000, immutable"
#: a side of a crop, in mm
_MOST_CROP_MM = 200.0


@blueprint.get("/photos/<string(length=64):sha256>/<string(length=16):key>/<name>.jpg")
def board_picture(number: str, sha256: str, key: str, name: str) -> ResponseReturnValue:
    """A photo of a board, straightened: the small whole or a tile."""
    path = picture(case_of(number), sha256, key, f"{name}.jpg")
    response = send_file(path, mimetype="image/jpeg")
    response.headers["Cache-Control"] = _FOR_GOOD
    return response


@blueprint.get(
    "/photos/<string(length=64):sha256>/<string(length=16):key>/crop/"
    "<int(signed=True):x>/<int(signed=True):y>/<int:side>.jpg"
)
def board_crop(number: str, sha256: str, key: str, x: int, y: int, side: int) -> Response:
    """A square round a place of a board, told in tenths of a millimetre."""
    side_mm = min(max(side / 10, 1.0), _MOST_CROP_MM)
    if max(abs(x), abs(y)) > 100_000:
        raise NotFoundError("There is no such place on a board.")
    data = crop(case_of(number), sha256, key, (x / 10, y / 10), side_mm)
    response = send_file(BytesIO(data), mimetype="image/jpeg")
    response.headers["Cache-Control"] = _FOR_GOOD
    return response


@blueprint.form("board-photo", BoardPhotoForm)
def add_photo(number: str, form: BoardPhotoForm) -> Onward:
    """Add a photo of a board; the first of a board is shown at once, a later one is laid over."""
    name, data = sent_bytes("photo", "photo of the board", MAX_BYTES)
    photo_id = boards.add_photo(
        store(), number, form.board.data, form.seen_side, form.width.value, name, data
    )
    return Onward(form.at.data, by=str(photo_id))


@blueprint.form("show-board", ShowBoardForm)
def show_board(number: str, form: ShowBoardForm) -> Onward:
    """Say which board a photo of the unit shows."""
    photo_id = form.photo.data
    boards.show_board(store(), number, photo_id, form.board.data, form.seen_side, form.width.value)
    return Onward(form.at.data, by=str(photo_id))


def rerender_laying(typed: FormState, code: int) -> ResponseReturnValue:
    """Show the photo that is being laid over again, with what was pressed."""
    wanted = PageQuery(by=request.form.get("photo", "")[:20], load=where.LAY)
    number = (request.view_args or {})["number"]
    return show_stage(number, where.STAGE, wanted, typed, code)


@blueprint.post("/do/lay-corners")
@rerender_on_error(rerender_laying)
def lay_corners(number: str) -> ResponseReturnValue:
    """Lay a photo over by the board's corners."""
    form = CornersForm.parsed()
    boards.lay_by_corners(
        store(), number, form.photo.data, form.corners, form.height.value, form.shown_side
    )
    return _to_photo(number, form)


@blueprint.post("/do/lay-parts")
@rerender_on_error(rerender_laying)
def lay_parts(number: str) -> ResponseReturnValue:
    """Lay a photo over by parts that have a place."""
    form = LayPartsForm.parsed()
    boards.lay_by_parts(store(), number, form.photo.data, form.seen, form.shown_side)
    return _to_photo(number, form)


@blueprint.post("/do/lay-last")
@rerender_on_error(rerender_laying)
def lay_last(number: str) -> ResponseReturnValue:
    """Lay a photo over as the last one of its side lies."""
    form = ViewForm.parsed()
    boards.lay_as_last(store(), number, form.photo.data)
    return _to_photo(number, form)


def _to_photo(number: str, form: ViewForm) -> ResponseReturnValue:
    return redirect_to_stage(number, where.STAGE, "", None, str(form.photo.data))


@blueprint.form("forget-board", ViewForm)
def forget_board(number: str, form: ViewForm) -> Onward:
    """Say that a photo shows no board after all."""
    boards.forget_board(store(), number, form.photo.data)
    return Onward(form.at.data)


@blueprint.form("measure-board", MeasureForm)
def measure(number: str, form: MeasureForm) -> Onward:
    """Say how large a board is."""
    boards.measure(store(), number, form.board.data, form.width.value, form.height.value)
    return Onward(form.at.data, by=form.by.data)


@blueprint.form("place-at", PlaceForm)
def place_at(number: str, form: PlaceForm) -> Onward:
    """Place a part by its millimetres."""
    place = Place(form.board.data, form.seen_side, form.x.value, form.y.value)
    places.place_part(store(), number, form.part.data, place)
    return Onward(str(form.part.data), by=form.by.data)


@blueprint.form("place-off", TakeOffForm)
def take_off(number: str, form: TakeOffForm) -> Onward:
    """Take a part's place back."""
    places.take_off(store(), number, form.part.data)
    return Onward(by=form.by.data)


def answer_problem(typed: FormState, code: int) -> ResponseReturnValue:
    """Tell the photo's script what is wrong; what was in hand stays there."""
    return jsonify({"problem": next(iter(typed.problems.values()), "")}), code


def _answer(number: str, by: str, said: str) -> ResponseReturnValue:
    """The drawing over the photo as it is now."""
    wanted = PageQuery(by=by, load=request.form.get("load", ""), find=request.form.get("find", ""))
    newest = log.newest(store(), number)
    page = where.page(case_of(number), wanted)
    return jsonify({**rings_json(number, page, said), "newest": newest})


@blueprint.post("/do/place")
@rerender_on_error(answer_problem)
def place(number: str) -> ResponseReturnValue:
    """Place the part in hand where the photo was pressed."""
    form = PlaceForm.parsed()
    spot = Place(form.board.data, form.seen_side, form.x.value, form.y.value)
    places.place_part(store(), number, form.part.data, spot)
    return _answer(number, form.by.data, "")


@blueprint.post("/do/place-back")
@rerender_on_error(answer_problem)
def place_back(number: str) -> ResponseReturnValue:
    """Take the place back that was given last."""
    form = TakeOffForm.parsed()
    places.take_off(store(), number, form.part.data)
    return _answer(number, form.by.data, "")


@blueprint.post("/do/place-row")
@rerender_on_error(answer_problem)
def place_row(number: str) -> ResponseReturnValue:
    """Place a row of parts evenly between two presses."""
    form = RowForm.parsed()
    ends = ((form.x1.value, form.y1.value), (form.x2.value, form.y2.value))
    ids = places.place_row(store(), number, form.refs.data, form.board.data, form.seen_side, ends)
    return _answer(number, form.by.data, f"{len(ids)} placed.")


@blueprint.post("/do/draw-mark")
@rerender_on_error(answer_problem)
def draw_mark(number: str) -> ResponseReturnValue:
    """Draw a mark on the photo that is shown."""
    form = MarkForm.parsed()
    ends = ((form.x1.value, form.y1.value), (form.x2.value, form.y2.value))
    is_plain = form.by.data.startswith(where.PHOTO)
    marks.draw_mark(
        store(), number, form.photo.data, form.drawn_shape, ends, form.words.data,
        in_pixels=is_plain,
    )  # fmt: skip
    return _answer(number, form.by.data, "")


@blueprint.form("mark-off", MarkOffForm)
def mark_off(number: str, form: MarkOffForm) -> Onward:
    """Take a mark off."""
    marks.take_mark_off(store(), number, form.key.data)
    return Onward(form.at.data, by=form.by.data)


@blueprint.form("places-file", ViewForm)
def take_list(number: str, form: ViewForm) -> Onward:
    """Take places from a table, all or none."""
    text = needed_text("places", "table of places")
    with at_field("places"):
        places.take_list(store(), number, text)
    return Onward(by=form.by.data)


@blueprint.get("/where.csv")
def as_csv(number: str) -> ResponseReturnValue:
    """Every place as a table."""
    case = case_of(number)
    rows = [(known.names(case)[i], place) for i, place in known.places(case).items()]
    return file_response(write_places(rows), "text/csv", f"{number}-places.csv")


@blueprint.get("/where.svg")
def as_svg(number: str) -> ResponseReturnValue:
    """The photo that is asked for with its rings, as a drawing of its own."""
    case, page = _asked(number)
    text = placement_svg(case, page)
    return file_response(text, "image/svg+xml", f"{number}-places.svg")


@blueprint.get("/where/sheet")
def sheet(number: str) -> ResponseReturnValue:
    """The placement sheet as it is printed: each board with its rings, and the list."""
    case = case_of(number)
    tabs = where.page(case, page_query()).tabs
    pages = [where.page(case, PageQuery(by=tab.by)) for tab in tabs]
    return render_template(
        "places/sheet.html", case=case, number=number, pages=[p for p in pages if not p.is_laying]
    )


def _asked(number: str) -> tuple[CaseFile, where.WherePage]:
    case = case_of(number)
    page = where.page(case, page_query())
    if page.board is None:
        raise NotFoundError("This unit has no board yet.")
    return case, page
