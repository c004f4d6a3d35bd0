"""Cold checks on the line map; also what a case's bare address shows."""

from __future__ import annotations

from flask.typing import ResponseReturnValue

from hale_rail.stages.parts import cold
from hale_rail.web.frame import asked, show_stage
from hale_rail.web.screens.stage_screen import stage_blueprint

blueprint = stage_blueprint(cold.STAGE)


@blueprint.get("")
def case_page(number: str) -> ResponseReturnValue:
    """The case: its line map."""
    return show_stage(number, cold.STAGE, asked())
