"""What is done to a case from its page: every change of state, each a POST."""

from __future__ import annotations

from flask import Blueprint, current_app, redirect, render_template, request
from flask.typing import ResponseReturnValue

from hale_rail.actions import casebook, photos, sheetwork
from hale_rail.actions import diagnose as diagnosing
from hale_rail.actions import record as acts
from hale_rail.actions.dossier import open_case
from hale_rail.core.safety.energy import Energy
from hale_rail.core.supply.points import Point, Quantity, parse_key
from hale_rail.errors import ConflictError, GuardError, InputError
from hale_rail.formats.photos import MAX_BYTES
from hale_rail.store.database import Store
from hale_rail.web import addresses
from hale_rail.web.case import show_case
from hale_rail.web.desk import after_saving, lay

blueprint = Blueprint("record", __name__, url_prefix="/cases/<number>")


@blueprint.get("/echo")
def echo(number: str) -> ResponseReturnValue:
    """What a text means at a point, while it is typed."""
    text = request.args.get("text", "")
    try:
        typed = acts.understood(
            open_case(_store(), number), parse_key(request.args.get("at", "")), text
        )
        return render_template("case/_echo.html", understood=typed.echo, problem="")
    except InputError as error:
        problem = str(error) if text.strip() else ""
        return render_template("case/_echo.html", understood="", problem=problem)


@blueprint.post("/read")
def read(number: str) -> ResponseReturnValue:
    """Save the tray's reading, then move the tray on."""
    at, text, view = _field("at"), _field("text"), _view()
    try:
        point = parse_key(at)
        if point.quantity is Quantity.STORE and "unplugged" in request.form:
            _unplugged(number, point, text)
        seen = request.form.get("seen", type=addresses.whole)
        if point.quantity is Quantity.LOOK and seen and not text:
            acts.strike(_store(), number, seen, "taken back")
            return _then(number, view, at=at)
        saved = acts.save_reading(_store(), number, point, text, seen)
    except (InputError, GuardError) as error:
        return show_case(lay(number, view, at, typed=text, problem=str(error)), 422)
    except ConflictError as error:
        desk = lay(number, view, at, typed=text, problem=str(error), is_conflict=True)
        return show_case(desk, 409)
    following = after_saving(open_case(_store(), number), view, point)
    return _then(number, view, at=following.key, said=saved.reading_id)


def _unplugged(number: str, point: Point, text: str) -> None:
    """Log the plug as out, when that is news and the reading beside it can be understood."""
    dossier = open_case(_store(), number)
    acts.understood(dossier, point, text)
    if dossier.energy.energy in (Energy.UNKNOWN, Energy.LIVE):
        acts.remove_power(_store(), number)


@blueprint.post("/strike")
def strike(number: str) -> ResponseReturnValue:
    view, at = _view(), _field("at")
    try:
        reading_id = request.form.get("reading", 0, type=addresses.whole)
        acts.strike(_store(), number, reading_id, _field("reason"))
    except InputError as error:
        return show_case(lay(number, view, at, problem=str(error)), 422)
    return _then(number, view, at=at)


@blueprint.post("/power")
def power(number: str) -> ResponseReturnValue:
    view = _view()
    try:
        if _field("event") == "removed":
            acts.remove_power(_store(), number)
        else:
            acts.apply_power(_store(), number, _field("source"))
    except InputError as error:
        return show_case(lay(number, view, problem=str(error)), 422)
    return _then(number, view)


@blueprint.post("/guard")
def guard(number: str) -> ResponseReturnValue:
    """Pass the guard with a written reason."""
    view, at, reason = _view(), _field("at"), _field("reason")
    try:
        acts.pass_guard(_store(), number, reason)
    except InputError as error:
        form = {"reason": reason, "reason_problem": str(error)}
        return show_case(lay(number, view, at, form=form), 422)
    return _then(number, view, at=at)


@blueprint.post("/decide")
def decide(number: str) -> ResponseReturnValue:
    view, at = _view(), _field("at")
    try:
        station = request.form.get("station", 0, type=addresses.whole)
        acts.decide(_store(), number, station, _field("kind"), _field("reason"))
    except InputError as error:
        form = {"decide_problem": str(error), "reason": _field("reason")}
        return show_case(lay(number, view, at, form=form), 422)
    return _then(number, view, at=at)


@blueprint.post("/board-mark")
def board_mark(number: str) -> ResponseReturnValue:
    """What the board prints at a polarised part, and the original part that proved it."""
    view, at, proof = _view(), _field("at"), _field("proven_on")
    try:
        acts.mark_board(_store(), number, _field("board"), _field("mark"), proof)
    except InputError as error:
        form = {"mark_problem": str(error), "mark": _field("mark"), "proven_on": proof}
        return show_case(lay(number, view, at, form=form), 422)
    return _then(number, view, at=at)


@blueprint.post("/photo")
def photo(number: str) -> ResponseReturnValue:
    """Add photos to a station or the unit; what is no photo is refused by name."""
    view, at = _view(), _field("at")
    station = request.form.get("station", type=addresses.whole)
    files = []
    for upload in request.files.getlist("photos"):
        files.append((upload.filename or "", upload.read(MAX_BYTES + 1)))
        upload.close()
    try:
        photos.add(_store(), number, station, files, _field("caption"))
    except InputError as error:
        return show_case(lay(number, view, at, form={"photo_problem": str(error)}), 422)
    return _then(number, view, at=at)


@blueprint.post("/find")
def find(number: str) -> ResponseReturnValue:
    """Say a symptom, a test's result or a belief in the diagnosis, or take it back."""
    try:
        diagnosing.say(_store(), number, _field("kind"), _field("key"), _field("value"))
    except InputError as error:
        return show_case(lay(number, "diagnosis", problem=str(error)), 422)
    return _then(number, "diagnosis")


@blueprint.post("/note")
def note(number: str) -> ResponseReturnValue:
    text = _field("text")
    try:
        acts.note(_store(), number, text)
    except InputError as error:
        form = {"note": text, "note_problem": str(error)}
        return show_case(lay(number, "log", form=form), 422)
    return _then(number, "log")


@blueprint.post("/edit")
def edit(number: str) -> ResponseReturnValue:
    """Change the case's own fields; a second tab's older copy is refused with its text kept."""
    view, form = _view(), dict(request.form.items())
    closing = {"close": True, "reopen": False}.get(_field("closing"))
    try:
        casebook.edit(
            _store(), number, request.form.get("version", 0, type=addresses.whole),
            machine=form.get("machine"), symptom=form.get("symptom"), before=form.get("before"),
            school=form.get("school"), tolerance=form.get("tolerance"), is_closed=closing,
        )  # fmt: skip
    except InputError as error:
        return show_case(lay(number, view, form=form, problem=str(error)), 422)
    except ConflictError as error:
        return show_case(lay(number, view, form=form, problem=str(error), is_conflict=True), 409)
    return _then(number, view, at=_field("at"))


@blueprint.post("/parts")
def parts(number: str) -> ResponseReturnValue:
    """Preview or add a pasted list to the case's sheet."""
    text = request.form.get("parts", "")
    form = {"parts": text}
    try:
        found = sheetwork.beside(open_case(_store(), number).sheet, text)
    except InputError as error:
        form["parts_problem"] = str(error)
        return show_case(lay(number, "intake", form=form), 422)
    adding = _field("do") == "add"
    if (
        adding
        and (found.stations or found.rails)
        and (not found.problems or "leave_out" in request.form)
    ):
        sheetwork.add_parts(_store(), number, text)
        return _then(number, "map")
    if adding:
        form["parts_problem"] = "Mend the lines marked below, or tick to leave them out."
    return show_case(lay(number, "intake", form=form, preview=found), 422 if adding else 200)


@blueprint.post("/correct")
def correct(number: str) -> ResponseReturnValue:
    """Correct a part's marking on the sheet, or take it off."""
    view, at, text = _view(), _field("at"), _field("text")
    station = request.form.get("station", 0, type=addresses.whole)
    try:
        if _field("do") == "remove-rail":
            sheetwork.remove_rail(_store(), number, _field("rail"))
            return _then(number, view)
        if _field("do") == "remove":
            sheetwork.remove_part(_store(), number, station)
            return _then(number, view)
        sheetwork.correct_part(_store(), number, station, _field("was"), text)
    except (InputError, ConflictError) as error:
        form = {"marked": text, "marked_problem": str(error)}
        code = 409 if isinstance(error, ConflictError) else 422
        return show_case(lay(number, view, at, form=form), code)
    return _then(number, view, at=at)


@blueprint.post("/pattern")
def pattern(number: str) -> ResponseReturnValue:
    """Keep the case's sheet as a pattern of the workshop."""
    name = _field("name")
    try:
        sheetwork.keep_pattern(_store(), number, name)
    except InputError as error:
        form = {"pattern": name, "pattern_problem": str(error)}
        return show_case(lay(number, "intake", form=form), 422)
    return _then(number, "intake")


def _then(number: str, view: str, at: str = "", said: int | None = None) -> ResponseReturnValue:
    """After a change: htmx gets the new page's part at once, a plain form is sent on."""
    target = addresses.view(number, view, at, said, _field("by"))
    if "HX-Request" in request.headers:
        return show_case(lay(number, view, at, said), push=target)
    return redirect(target, 303)


def _store() -> Store:
    store: Store = current_app.config["STORE"]
    return store


def _field(name: str) -> str:
    return request.form.get(name, "").strip()


def _view() -> str:
    name = _field("view")
    return name if name in addresses.VIEWS else "map"
