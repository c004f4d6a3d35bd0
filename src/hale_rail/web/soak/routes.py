"""The soak: how long, rows typed, pasted, captured or from a file, rows put aside."""

from __future__ import annotations

import time

from flask import request
from flask.typing import ResponseReturnValue

from hale_rail.actions.instruments import capturing
from hale_rail.actions.soak import soaks as soaked
from hale_rail.case.soak.soaks import soak_events
from hale_rail.errors import InputError
from hale_rail.formats.readings.soak_csv import log_csv, moment_text, read_log
from hale_rail.stages.soak import soak
from hale_rail.store.soaks import SOAK_ROWS
from hale_rail.web.form_base import FormError
from hale_rail.web.frame.case_page import (
    case_of,
    store,
)
from hale_rail.web.frame.stage_routes import Onward, stage_blueprint
from hale_rail.web.soak import forms
from hale_rail.web.uploads import file_response, sent_text

blueprint = stage_blueprint(soak.STAGE)


@blueprint.form("soak-plan", forms.SoakPlanForm)
def plan_soak(number: str, form: forms.SoakPlanForm) -> None:
    """Say how long the soak is to run."""
    hours, warm = form.plan()
    soaked.plan_soak(store(), number, hours, warm, anew=bool(form.anew.data))


@blueprint.form("soak-row", forms.SoakRowForm)
def add_row(number: str, form: forms.SoakRowForm) -> None:
    """Append the volts of each rail at a moment."""
    keys = [rail.key for rail in case_of(number).sheet.rails]
    told = {name: {key: request.form.get(f"{name}-{place}", "")[:24] for place, key in
                   enumerate(keys)} for name in ("volts", "ripple")}  # fmt: skip
    rows = form.rows(told["volts"], told["ripple"])
    soaked.add_rows(store(), number, rows, events=form.events(rows))


@blueprint.form("soak-log", forms.SoakLogForm)
def add_log(number: str, form: forms.SoakLogForm) -> None:
    """Append a log's rows, pasted or from a file."""
    text = sent_text("file", "log") or form.log.data
    try:
        rows = read_log(text)
    except InputError as error:
        raise FormError({"log": str(error)}) from error
    soaked.add_log(store(), number, rows, form.rail.data, form.begins.value)


@blueprint.form("soak-capture", forms.SoakCaptureForm)
def capture_soak(number: str, form: forms.SoakCaptureForm) -> Onward:
    """Take a row from the meter on the line; the series goes on while its page stands."""
    series = soak.series_of(form.rail.data, form.every.data)
    capturing.capture_soak(store(), number, series.rail, time.time())
    return Onward(by=series.code)


@blueprint.form("soak-strike", forms.StrikeRowForm)
def strike_row(number: str, form: forms.StrikeRowForm) -> None:
    """Put a row aside."""
    if form.event.data:
        soaked.strike_event(store(), number, form.event.data)
    else:
        soaked.strike_row(store(), number, form.row.data)


@blueprint.get("/soak.csv")
def as_csv(number: str) -> ResponseReturnValue:
    """The soak's rows, as `hale-rail soak` reads them."""
    case = case_of(number)
    rows = [(row.rail, row.sample) for row in case.rows.active(SOAK_ROWS)]
    rows += [("", event.sample) for event in soak_events(case)]
    rows.sort(key=lambda row: row[1].at_s)
    text = log_csv((moment_text(sample.at_s), rail, sample) for rail, sample in rows)
    return file_response(text, "text/csv", f"{number}-soak.csv")
