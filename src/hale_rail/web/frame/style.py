"""Development only: the design tokens and verdict shapes on one page."""

from __future__ import annotations

from flask import Blueprint, render_template
from flask.typing import ResponseReturnValue

from hale_rail.core.parts.states import PartState
from hale_rail.core.safety.energy import Energy

blueprint = Blueprint("style", __name__)
_COLOURS = ("paper", "panel", "ink", "muted", "rule", "accent", "live")


@blueprint.get("/style")
def page() -> ResponseReturnValue:
    """Verdicts, energy states, colours and buttons."""
    states = tuple(PartState)
    colours = (*_COLOURS, *(state.value for state in states if state is not PartState.UNSEEN))
    return render_template(
        "frame/style/page.html", states=states, energies=tuple(Energy), colours=colours
    )
