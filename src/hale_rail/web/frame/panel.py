"""The panel: decisions about a part, its marking corrected, its board's mark."""

from __future__ import annotations

from flask import request
from flask.typing import ResponseReturnValue

import hale_rail.stages as stages
from hale_rail.actions.intake import sheets
from hale_rail.actions.parts import decisions
from hale_rail.actions.power.machine_behaviour import say_did
from hale_rail.actions.rails import rails
from hale_rail.stages.parts import cold
from hale_rail.web.frame.case_page import (
    show_beside,
    store,
)
from hale_rail.web.frame.stage_routes import Onward, StageBlueprint
from hale_rail.web.parts.forms import BoardMarkForm, CorrectForm, DecideForm
from hale_rail.web.power.forms import DidForm
from hale_rail.web.rails.forms import MoveRailForm, RailForm, RemoveRailForm

blueprint = StageBlueprint("panel")


@blueprint.get("/beside")
def beside(number: str) -> ResponseReturnValue:
    """The side list and the next step of a stage's page."""
    return show_beside(number, stages.stage(request.args.get("view", "")) or cold.STAGE)


@blueprint.form("decide", DecideForm)
def decide(number: str, form: DecideForm) -> Onward:
    """Say what is done with a part."""
    decisions.decide(store(), number, form.part.data, form.kind.data, form.reason.data)
    return Onward(form.at.data, by=form.by.data)


@blueprint.form("did", DidForm)
def did(number: str, form: DidForm) -> Onward:
    """Say what the machine did when power came last."""
    say_did(store(), number, form.did.data, form.times.data)
    return Onward(form.at.data, by=form.by.data)


@blueprint.form("board-mark", BoardMarkForm)
def board_mark(number: str, form: BoardMarkForm) -> Onward:
    """Say what the board prints at a polarised part, and the original part that proved it."""
    decisions.mark_board(store(), number, form.board.data, form.mark.data, form.proven_on.data)
    return Onward(form.at.data)


@blueprint.form("correct", CorrectForm)
def correct(number: str, form: CorrectForm) -> Onward | None:
    """Correct a part's marking on the sheet, or take it off."""
    if request.form.get("do") == "remove":
        sheets.remove_part(store(), number, form.part.data)
        return None
    sheets.correct_part(store(), number, form.part.data, form.was.data, form.text.data)
    return Onward(form.at.data)


@blueprint.form("rail", RailForm)
def rail(number: str, form: RailForm) -> Onward:
    """Correct a rail's marking on the sheet."""
    rails.correct_rail(store(), number, form.rail.data, form.was.data, form.text.data)
    return Onward(form.at.data)


@blueprint.form("move-rail", MoveRailForm)
def move_rail(number: str, form: MoveRailForm) -> Onward:
    """Move a rail one place in the list."""
    rails.move_rail(store(), number, form.rail.data, form.way.data)
    return Onward(form.at.data)


@blueprint.form("remove-rail", RemoveRailForm)
def remove_rail(number: str, form: RemoveRailForm) -> None:
    """Take a rail off the sheet."""
    rails.remove_rail(store(), number, form.rail.data)
