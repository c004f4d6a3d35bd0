"""The panel: decisions about a part, its marking corrected, its board's mark."""

from __future__ import annotations

from flask import Blueprint, request
from flask.typing import ResponseReturnValue

import hale_rail.stages as stages
from hale_rail.actions.intake import sheets
from hale_rail.actions.parts import decisions
from hale_rail.actions.power.machine_behaviour import say_did
from hale_rail.actions.rails import rails
from hale_rail.stages.parts import cold
from hale_rail.web.frame.case_page import (
    posted_stage,
    redirect_to_stage,
    rerender_on_error,
    rerender_stage,
    show_beside,
    store,
)
from hale_rail.web.parts.forms import BoardMarkForm, CorrectForm, DecideForm
from hale_rail.web.power.forms import DidForm
from hale_rail.web.rails.forms import MoveRailForm, RailForm, RemoveRailForm

blueprint = Blueprint("panel", __name__, url_prefix="/cases/<number>")


@blueprint.get("/beside")
def beside(number: str) -> ResponseReturnValue:
    """The side list and the next step of a stage's page."""
    return show_beside(number, stages.stage(request.args.get("view", "")) or cold.STAGE)


@blueprint.post("/do/decide")
@rerender_on_error(rerender_stage)
def decide(number: str) -> ResponseReturnValue:
    """Say what is done with a part."""
    form = DecideForm.parsed()
    decisions.decide(store(), number, form.part.data, form.kind.data, form.reason.data)
    return redirect_to_stage(number, posted_stage(), form.at.data, by=form.by.data)


@blueprint.post("/do/did")
@rerender_on_error(rerender_stage)
def did(number: str) -> ResponseReturnValue:
    """Say what the machine did when power came last."""
    form = DidForm.parsed()
    say_did(store(), number, form.did.data, form.times.data)
    return redirect_to_stage(number, posted_stage(), form.at.data, by=form.by.data)


@blueprint.post("/do/board-mark", endpoint="board-mark")
@rerender_on_error(rerender_stage)
def board_mark(number: str) -> ResponseReturnValue:
    """Say what the board prints at a polarised part, and the original part that proved it."""
    form = BoardMarkForm.parsed()
    decisions.mark_board(store(), number, form.board.data, form.mark.data, form.proven_on.data)
    return redirect_to_stage(number, posted_stage(), form.at.data)


@blueprint.post("/do/correct")
@rerender_on_error(rerender_stage)
def correct(number: str) -> ResponseReturnValue:
    """Correct a part's marking on the sheet, or take it off."""
    form = CorrectForm.parsed()
    if request.form.get("do") == "remove":
        sheets.remove_part(store(), number, form.part.data)
        return redirect_to_stage(number, posted_stage())
    sheets.correct_part(store(), number, form.part.data, form.was.data, form.text.data)
    return redirect_to_stage(number, posted_stage(), form.at.data)


@blueprint.post("/do/rail")
@rerender_on_error(rerender_stage)
def rail(number: str) -> ResponseReturnValue:
    """Correct a rail's marking on the sheet."""
    form = RailForm.parsed()
    rails.correct_rail(store(), number, form.rail.data, form.was.data, form.text.data)
    return redirect_to_stage(number, posted_stage(), form.at.data)


@blueprint.post("/do/move-rail", endpoint="move-rail")
@rerender_on_error(rerender_stage)
def move_rail(number: str) -> ResponseReturnValue:
    """Move a rail one place in the list."""
    form = MoveRailForm.parsed()
    rails.move_rail(store(), number, form.rail.data, form.way.data)
    return redirect_to_stage(number, posted_stage(), form.at.data)


@blueprint.post("/do/remove-rail", endpoint="remove-rail")
@rerender_on_error(rerender_stage)
def remove_rail(number: str) -> ResponseReturnValue:
    """Take a rail off the sheet."""
    rails.remove_rail(store(), number, RemoveRailForm.parsed().rail.data)
    return redirect_to_stage(number, posted_stage())
