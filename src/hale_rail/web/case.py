"""The case page in its views, the report, and the recap list as CSV."""

from __future__ import annotations

from flask import (
    Blueprint,
    Response,
    abort,
    current_app,
    make_response,
    render_template,
    request,
    send_file,
)
from flask.typing import ResponseReturnValue

from hale_rail.actions import photos
from hale_rail.actions import report as reporting
from hale_rail.actions.diagnose import of_case
from hale_rail.actions.dossier import open_case
from hale_rail.core.rails.judge import Load, Tolerance
from hale_rail.core.recap.demand import School
from hale_rail.core.supply.inspection import inspection_round, toggled
from hale_rail.formats.recap_csv import write_recap
from hale_rail.web import addresses
from hale_rail.web.desk import Desk, lay, show_reading
from hale_rail.web.svg.line_map import draw_map

blueprint = Blueprint("case", __name__, url_prefix="/cases/<number>")


@blueprint.get("")
def map_view(number: str) -> ResponseReturnValue:
    return show_case(_asked(number, "map"))


@blueprint.get("/<any(safe, look, diagnosis, capacitors, recap, rails, shorts, log, intake):view>")
def view(number: str, view: str) -> ResponseReturnValue:
    return show_case(_asked(number, view))


@blueprint.get("/report")
def report(number: str) -> ResponseReturnValue:
    dossier = open_case(current_app.config["STORE"], number)
    return render_template(
        "report/page.html",
        d=dossier,
        report=reporting.report(dossier),
        drawing=draw_map(dossier, None, linked=False),
        show_reading=show_reading,
    )


@blueprint.get("/photos/<string(length=64):sha256>.jpg")
def photo(number: str, sha256: str) -> ResponseReturnValue:
    """A photo or its thumbnail; always sent as the JPEG it was re-encoded to."""
    thumb = request.args.get("thumb") == "1"
    path = photos.file_of(current_app.config["STORE"], number, sha256, thumb=thumb)
    response = send_file(path, mimetype="image/jpeg", max_age=86_400)
    response.headers["Content-Disposition"] = f'inline; filename="{number}-{sha256[:8]}.jpg"'
    return response


@blueprint.get("/recap.csv")
def recap_csv(number: str) -> ResponseReturnValue:
    dossier = open_case(current_app.config["STORE"], number)
    school = _school(dossier.school)
    return Response(
        write_recap(dossier.recap(school)),
        mimetype="text/csv",
        headers={"Content-Disposition": f'attachment; filename="{dossier.case.number}-recap.csv"'},
    )


def show_case(desk: Desk, code: int = 200, push: str = "") -> ResponseReturnValue:
    """Draw a case page, or for htmx the part of it that changes."""
    is_fragment = "HX-Request" in request.headers
    response = make_response(
        render_template(
            "case/_case.html" if is_fragment else "case/page.html",
            desk=desk,
            d=desk.dossier,
            diagnosis=of_case(desk.dossier) if desk.view == "diagnosis" else None,
            stops=inspection_round(desk.dossier.sheet) if desk.view == "look" else (),
            beliefs=("ruled out", "unlikely", "likely"),
            drawing=draw_map(desk.dossier, desk.facts) if desk.view == "map" else "",
            views=addresses.VIEWS,
            schools=list(School),
            school=_school(desk.dossier.school),
            loads=list(Load),
            tolerances=list(Tolerance),
            show_reading=show_reading,
            toggled=toggled,
        ),
        code,
    )
    if push:
        response.headers["HX-Push-Url"] = push
    return response


def _asked(number: str, view: str) -> Desk:
    args = request.args
    if len(number) > 20:
        abort(404)
    return lay(
        number,
        view,
        args.get("at", ""),
        args.get("said", type=addresses.whole),
        load=args.get("load", ""),
    )


def _school(usual: School) -> School:
    """The school asked for in the address, for a look at another; else the case's own."""
    asked = request.values.get("by", "")
    return next((school for school in School if school.value == asked), usual)
