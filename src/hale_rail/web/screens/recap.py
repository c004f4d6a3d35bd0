"""Recap: the list by school, as a page and as a file."""

from __future__ import annotations

from flask import Response, request
from flask.typing import ResponseReturnValue

from hale_rail.case.recap import others, recap_lines
from hale_rail.core.recap.demand import SCHOOLS
from hale_rail.formats.recap_csv import write_recap
from hale_rail.stages import recap
from hale_rail.web.frame import case_of
from hale_rail.web.screens.stage_screen import stage_blueprint

blueprint = stage_blueprint(recap.STAGE)


@blueprint.get("/recap.csv")
def as_csv(number: str) -> ResponseReturnValue:
    """The list of the school asked for, else of the case's own."""
    case = case_of(number)
    school = SCHOOLS.get(request.args.get("by", ""), case.school)
    return Response(
        write_recap(recap_lines(case, school), others(case)),
        mimetype="text/csv",
        headers={"Content-Disposition": f'attachment; filename="{case.number}-recap.csv"'},
    )
