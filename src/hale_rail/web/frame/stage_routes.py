"""The blueprint of a stage: its page's address; what is done there is added by its own screen."""

from __future__ import annotations

from flask import Blueprint
from flask.typing import ResponseReturnValue

from hale_rail.stages.stage import Stage
from hale_rail.web.frame.case_page import page_query, show_stage


def stage_blueprint(stage: Stage) -> Blueprint:
    """A blueprint with the stage's page."""
    blueprint = Blueprint(stage.key.replace("-", "_"), __name__, url_prefix="/cases/<number>")

    @blueprint.get(f"/{stage.key}")
    def page(number: str) -> ResponseReturnValue:
        return show_stage(number, stage, page_query())

    return blueprint
