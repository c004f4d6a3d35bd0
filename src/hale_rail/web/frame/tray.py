"""The tray: readings saved and struck out, and the echo while one is typed."""

from __future__ import annotations

from flask import render_template, request
from flask.typing import ResponseReturnValue

from hale_rail.actions import readings
from hale_rail.actions.instruments import capturing
from hale_rail.actions.safety import power
from hale_rail.core.procedures import Point, parse_point
from hale_rail.errors import InputError, NotFoundError
from hale_rail.stages.frame.tray import after_saving
from hale_rail.stages.stage import Stage
from hale_rail.web.frame.case_page import (
    case_of,
    posted_stage,
    store,
)
from hale_rail.web.frame.forms import CaptureForm, ReadForm, StrikeForm
from hale_rail.web.frame.stage_routes import Onward, StageBlueprint

blueprint = StageBlueprint("tray")


@blueprint.get("/echo")
def echo(number: str) -> ResponseReturnValue:
    """What a text means at a point, while it is typed."""
    text = request.args.get("text", "")
    try:
        meant = readings.understood(case_of(number), parse_point(request.args.get("at", "")), text)
        return render_template("frame/_echo.html", understood=meant.echo, problem="")
    except (InputError, NotFoundError) as error:
        problem = str(error) if text.strip() else ""
        return render_template("frame/_echo.html", understood="", problem=problem)


@blueprint.form("read", ReadForm)
def read(number: str, form: ReadForm) -> Onward:
    """Save the tray's reading, then move the tray on."""
    point, stage = parse_point(form.at.data), posted_stage()
    if form.unplugged.data:
        readings.understood(case_of(number), point, form.text.data)
        power.remove_power_if_on(store(), number)
    saved = readings.save_reading(store(), number, point, form.text.data, form.seen.data)
    if form.back.data:
        return Onward(form.back.data, saved.reading_id, stage=stage)
    return _onward(stage, point, saved)


@blueprint.form("capture", CaptureForm)
def capture(number: str, form: CaptureForm) -> Onward:
    """Capture the reading of the tray's point, then move the tray on."""
    point, stage = parse_point(form.at.data), posted_stage()
    confirmed = bool(form.confirmed.data)
    saved = capturing.capture(store(), number, point, confirmed=confirmed)
    return _onward(stage, point, saved)


def _onward(stage: Stage, point: Point, saved: readings.Saved) -> Onward:
    """The tray at its next open point."""
    following = after_saving(saved.file, stage, point)
    key = following.key if following else ""
    return Onward(key, saved.reading_id, point.target.line if not key else "", stage)


@blueprint.form("strike", StrikeForm)
def strike(number: str, form: StrikeForm) -> Onward:
    """Put a reading aside; the tray then stands at its point."""
    struck = readings.strike(store(), number, form.reading.data, form.reason.data)
    return Onward(struck.point.key)
