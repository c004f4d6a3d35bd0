"""The frame of a case's pages: header, stages, the stage's own view, panel, tray and guard."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial
from typing import Any, TypeVar

from flask import Response, current_app, g, make_response, redirect, render_template, request
from flask.typing import ResponseReturnValue
from msgspec import Struct
from werkzeug.local import LocalProxy

import hale_rail.stages as stages
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.instruments.capturing import capture_of
from hale_rail.case.safety.energy import charge_words, energy
from hale_rail.case.waits import waits_for
from hale_rail.errors import NotFoundError
from hale_rail.stages.frame import log
from hale_rail.stages.frame.bench import keep_line
from hale_rail.stages.frame.next_step import next_step, side_list
from hale_rail.stages.frame.panel import panel_of
from hale_rail.stages.frame.tray import (
    before_meter,
    is_refused,
    lay_tray,
    needs_guard,
    result_of,
    tray_point,
)
from hale_rail.stages.parts import cold
from hale_rail.stages.practice import practice
from hale_rail.stages.safety import guard
from hale_rail.stages.stage import PageQuery, Stage
from hale_rail.store.database import Store
from hale_rail.web import addresses
from hale_rail.web.form_base import FormError, FormState

_NUMBER_LENGTH = 20
NOTHING_TYPED = FormState()
Route = TypeVar("Route", bound=Callable[..., ResponseReturnValue])


def store() -> Store:
    """The data folder that this application serves."""
    store: Store = current_app.config["STORE"]
    return store


def case_of(number: str) -> CaseFile:
    """The case of an address; raises NotFoundError."""
    if len(number) > _NUMBER_LENGTH:
        raise NotFoundError("There is no such case.")
    return open_case(store(), number)


def page_query() -> PageQuery:
    """What the address asks of a page."""
    args = request.args
    return PageQuery(
        args.get("at", ""),
        args.get("saved", type=addresses.whole),
        args.get("load", ""),
        args.get("by", ""),
        args.get("find", "")[:80],
    )


def is_fragment() -> bool:
    """True when htmx asks for the part of the page that changes."""
    return "HX-Request" in request.headers


class Frame(Struct, frozen=True):
    """Where the page's forms are posted from: the case, the stage, and the point in the tray."""

    number: str
    stage_key: str
    point_key: str


def show_stage(
    number: str,
    stage: Stage,
    wanted: PageQuery,
    typed: FormState = NOTHING_TYPED,
    code: int = 200,
    push: str = "",
    **more: Any,
) -> ResponseReturnValue:
    """A stage's page, or for htmx the frame alone; `push` is the address it then has.

    The answer to a press, which has an address to be pushed, is lean: what takes long to compute
    and stands beside the work, or is a drawing of it, is asked for by the page itself.
    """
    newest = log.newest(store(), number)  # first: what comes in while the page is laid is news
    case = case_of(number)
    is_lean = bool(push)
    template = "frame/_case.html" if is_fragment() else "frame/page.html"
    response = make_response(
        render_template(
            template, **_context(case, stage, wanted, typed, is_lean=is_lean), newest=newest, **more
        ),
        code,
    )
    if push:
        response.headers["HX-Push-Url"] = push
    else:
        _keep_line_behind(response, case)
    return response


def _keep_line_behind(response: Response, case: CaseFile) -> None:
    """Keep the case's line once the answer is out: who looks never waits for who writes."""
    response.call_on_close(partial(keep_line, case))


def show_beside(number: str, stage: Stage) -> ResponseReturnValue:
    """What a lean answer leaves to be asked for: the side list, the next step, a drawing."""
    case = case_of(number)
    wanted = page_query()
    drawn = {}
    if stage.is_drawing:
        point = tray_point(case, stage, wanted)
        drawn = {"page": stage.page(case, wanted), "panel": panel_of(case, point)}
    page = render_template(
        "frame/_beside.html", case=case, stage=stage, side=side_list(case), step=next_step(case),
        **drawn,
    )  # fmt: skip
    response = make_response(page)
    _keep_line_behind(response, case)
    return response


def _context(
    case: CaseFile, stage: Stage, wanted: PageQuery, typed: FormState, *, is_lean: bool
) -> Mapping[str, Any]:
    """What the frame and the stage's own view show."""
    is_kept = is_lean and stage.is_drawing and posted_stage() is stage
    # computed first: the tray may have a moment later what this waits for
    page = None if is_kept else stage.page(case, wanted)
    point = tray_point(case, stage, wanted)
    is_guarded, refused = needs_guard(case, stage), is_refused(case, stage, point)
    store = None if is_guarded else before_meter(case, stage, point)
    point, back = (store, point) if store else (point, None)
    g.frame = Frame(case.number, stage.key, point.key if point else "")
    return {
        "case": case,
        "own": case.case,
        "number": case.number,
        "stage": stage,
        "page": page,
        "is_lean": is_lean,
        "is_kept": is_kept,
        "is_folded": "unfolded" not in request.args,
        "side": () if is_lean else side_list(case),
        "step": LocalProxy(lambda: next_step(case)),  # computed only when a template uses it
        "energy_state": energy(case),
        "charged": charge_words(case),
        "point": point,
        "panel": panel_of(case, point),
        "tray": (
            lay_tray(case, stage, wanted, point, back)
            if stage.has_tray and point and not is_guarded and not refused
            else None
        ),
        "said": result_of(case, wanted.saved) if is_guarded or refused else None,
        "guard": guard.guard_page(case) if is_guarded else None,
        "beside_guard": guard.guard_page(case) if refused else None,
        "is_asked": is_guarded or bool(wanted.at),
        "typed": typed,
        "waits": waits_for(case),
        "practice": practice.line(case, point.part_id if point else None),
        "capture": capture_of(case, point),
    }


def redirect_to_stage(
    number: str, stage: Stage, at: str = "", saved: int | None = None, by: str = ""
) -> ResponseReturnValue:
    """After a change: htmx gets the new page's part at once, a plain form is sent on."""
    target = addresses.stage(number, stage.key, at, saved, by)
    if is_fragment():
        return show_stage(number, stage, PageQuery(at, saved, "", by), push=target)
    return redirect(target, 303)


def posted_stage() -> Stage:
    """The stage that a form was posted from."""
    return stages.stage(request.form.get("view", "")) or cold.STAGE


def rerender_on_error(
    rerender: Callable[[FormState, int], ResponseReturnValue],
) -> Callable[[Route], Route]:
    """Name what shows the page again, with what was typed, when a form's route refuses it."""

    def mark(route: Route) -> Route:
        route.rerender = rerender  # type: ignore[attr-defined]
        return route

    return mark


def rerender_stage(typed: FormState, code: int) -> ResponseReturnValue:
    """Show the case's page again with what was typed and what is wrong with it."""
    number = (request.view_args or {})["number"]
    wanted = PageQuery(at=request.form.get("at", ""), by=request.form.get("by", ""))
    return show_stage(number, posted_stage(), wanted, typed, code)


def form_state_of(error: Exception, is_conflict: bool) -> FormState:
    """What was sent to the route that raised an error."""
    name = (request.endpoint or "").rpartition(".")[2].replace("_", "-")
    if isinstance(error, FormError):
        problems = error.problems
    else:
        problems = {getattr(error, "field", ""): str(error)}
    return FormState(name, request.form.to_dict(), problems, is_conflict)
