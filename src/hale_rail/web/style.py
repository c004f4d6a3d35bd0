"""Development only: the design tokens and verdict shapes on one page."""

from __future__ import annotations

from flask import Blueprint, render_template
from flask.typing import ResponseReturnValue

blueprint = Blueprint("style", __name__)

STATES = ("unseen", "good", "worn", "failed", "unproven", "replaced")
COLOURS = ("paper", "panel", "ink", "muted", "rule", "accent", "live", *STATES[1:])


@blueprint.get("/style")
def page() -> ResponseReturnValue:
    return render_template("style/page.html", states=STATES, colours=COLOURS)
