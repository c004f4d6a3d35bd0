"""In the machine, and the pages beside it: harness, continuity, soak."""

from __future__ import annotations

import time

from flask import request
from flask.typing import ResponseReturnValue

from hale_rail.actions.bring_up import continuity as lists_done
from hale_rail.actions.bring_up import machine as done
from hale_rail.actions.instruments import capturing
from hale_rail.actions.soak import soaks as soaked
from hale_rail.case.bring_up.continuity import list_of
from hale_rail.case.bring_up.harness import harness as harness_facts
from hale_rail.case.soak.soaks import soak_events
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.harness_csv import wiring_csv
from hale_rail.formats.machine_lists import pairs_csv
from hale_rail.formats.soak_csv import log_csv, moment_text, read_log
from hale_rail.stages.bring_up import continuity, harness, machine
from hale_rail.stages.soak import soak
from hale_rail.stages.stage import Stage
from hale_rail.web.forms import machine as forms
from hale_rail.web.forms.base import CaseForm, FormError
from hale_rail.web.frame import case_of, posted_stage, relay_stage, relays, store, then
from hale_rail.web.screens.stage_screen import stage_blueprint
from hale_rail.web.uploads import file_response, sent_text

blueprint = stage_blueprint(machine.STAGE)
harness_blueprint = stage_blueprint(harness.STAGE)
continuity_blueprint = stage_blueprint(continuity.STAGE)
soak_blueprint = stage_blueprint(soak.STAGE)


def _then(number: str, stage: Stage, form: CaseForm) -> ResponseReturnValue:
    return then(number, stage, at=form.at.data or "", by=form.by.data or "")


@harness_blueprint.post("/do/harness", endpoint="harness")
@relays(relay_stage)
def plan(number: str) -> ResponseReturnValue:
    """Keep the two ends of a harness."""
    form = forms.HarnessForm.parsed()
    done.plan_harness(
        store(), number, form.source.data or "", form.target.data or "", form.length_m(),
        form.side.data or "",
    )  # fmt: skip
    return then(number, harness.STAGE)


@harness_blueprint.post("/do/colour")
@relays(relay_stage)
def colour(number: str) -> ResponseReturnValue:
    """Record the colour of a wire that was found."""
    form = forms.ColourForm.parsed()
    done.say_colour(store(), number, form.pin.data or "", form.colour.data or "")
    return _then(number, harness.STAGE, form)


@harness_blueprint.get("/harness.csv")
def wiring(number: str) -> ResponseReturnValue:
    """The wiring table."""
    facts = harness_facts(case_of(number))
    if facts.plan is None:
        raise NotFoundError("This case has no harness yet.")
    return file_response(wiring_csv(facts.plan), "text/csv", f"{number}-harness.csv")


@continuity_blueprint.post("/do/list", endpoint="list")
@relays(relay_stage)
def take_list(number: str) -> ResponseReturnValue:
    """Take a list of connections in."""
    form = forms.ListForm.parsed()
    pairs = sent_text("file", "list") or form.pairs.data or ""
    key = lists_done.take_list(
        store(), number, form.name.data or "", form.board.data or "", pairs, form.drawing.data
    )
    return then(number, continuity.STAGE, by=key)


@continuity_blueprint.post("/do/list-copy", endpoint="list-copy")
@relays(relay_stage)
def copy_list(number: str) -> ResponseReturnValue:
    """Copy a list of another case."""
    form = forms.CopyListForm.parsed()
    key = lists_done.copy_list(store(), number, form.note.data or 0, form.board.data or "")
    return then(number, continuity.STAGE, by=key)


@continuity_blueprint.post("/do/list-off", endpoint="list-off")
@relays(relay_stage)
def drop_list(number: str) -> ResponseReturnValue:
    """Take a list off."""
    form = forms.MarkForm.parsed()
    lists_done.drop_list(store(), number, form.key.data or "")
    return then(number, continuity.STAGE)


@continuity_blueprint.post("/do/pair")
@relays(relay_stage)
def pair(number: str) -> ResponseReturnValue:
    """Say what came of a pair."""
    form = forms.MarkForm.parsed()
    lists_done.mark_pair(
        store(), number, form.key.data or "", form.pair.data or 0, form.what.data or "",
        form.note.data or "", form.partner.data or "",
    )  # fmt: skip
    return then(number, continuity.STAGE, by=form.key.data or "")


@continuity_blueprint.post("/do/whose-list", endpoint="whose-list")
@relays(relay_stage)
def whose_list(number: str) -> ResponseReturnValue:
    """Say whether a list is of the board in hand."""
    form = forms.MarkForm.parsed()
    key = form.key.data or ""
    lists_done.say_whose(store(), number, key, form.what.data or "")
    return then(number, continuity.STAGE, by=key)


@continuity_blueprint.get("/continuity/<key>.csv")
def list_csv(number: str, key: str) -> ResponseReturnValue:
    """A list as a file."""
    found = list_of(case_of(number), key)
    if found is None:
        raise NotFoundError("There is no such list in this case.")
    text = pairs_csv(pair.pair for pair in found.pairs)
    return file_response(text, "text/csv", f"{number}-list.csv")


@blueprint.post("/do/chip")
@relays(relay_stage)
def chip(number: str) -> ResponseReturnValue:
    """Name a chip's supply pin, or take it off."""
    form = forms.ChipForm.parsed()
    done.name_chip(store(), number, form.chip.data or "", form.rail.data or "")
    return then(number, machine.STAGE)


@blueprint.post("/do/sign")
@relays(relay_stage)
def sign(number: str) -> ResponseReturnValue:
    """Say whether a sign of life is there."""
    form = forms.SignForm.parsed()
    seen, note = form.seen.data or "", form.note.data or ""
    done.say_sign(store(), number, form.sign.data or "", seen, note)
    return _then(number, machine.STAGE, form)


@blueprint.post("/do/layout")
@relays(relay_stage)
def layout(number: str) -> ResponseReturnValue:
    """Keep the table of a memory's chips."""
    form = forms.LayoutForm.parsed()
    done.keep_layout(store(), number, form.table.data or "")
    return _then(number, machine.STAGE, form)


@blueprint.post("/do/memory")
@relays(relay_stage)
def memory(number: str) -> ResponseReturnValue:
    """Add one place of a memory test."""
    form = forms.MemoryForm.parsed()
    done.add_memory(store(), number, form.bank.data or "", *form.words())
    return _then(number, machine.STAGE, form)


@blueprint.post("/do/swap")
@relays(relay_stage)
def swap(number: str) -> ResponseReturnValue:
    """Record a swap with its result."""
    form = forms.SwapForm.parsed()
    done.add_swap(
        store(), number, form.one.data or "", form.other.data or "", form.moved.data or "",
        form.why.data or "",
    )  # fmt: skip
    return _then(number, machine.STAGE, form)


@blueprint.post("/do/event")
@relays(relay_stage)
def event(number: str) -> ResponseReturnValue:
    """Record what happened to a rail."""
    form = forms.EventForm.parsed()
    done.add_event(store(), number, form.rail.data or "", form.event.data or "", form.peak())
    return _then(number, machine.STAGE, form)


@blueprint.post("/do/regulator")
@relays(relay_stage)
def regulator(number: str) -> ResponseReturnValue:
    """Reckon a linear regulator."""
    form = forms.RegulatorForm.parsed()
    done.reckon_regulator(store(), number, form.ref.data or "", form.body())
    return _then(number, machine.STAGE, form)


@blueprint.post("/do/back", endpoint="back")
@relays(relay_stage)
def take_back(number: str) -> ResponseReturnValue:
    """Take back what was said of the board."""
    form = forms.TakeBackForm.parsed()
    done.take_back(store(), number, form.kind.data or "", form.key.data or "")
    return _then(number, posted_stage(), form)


@soak_blueprint.post("/do/soak-plan", endpoint="soak-plan")
@relays(relay_stage)
def plan_soak(number: str) -> ResponseReturnValue:
    """Say how long the soak is to run."""
    form = forms.SoakPlanForm.parsed()
    hours, warm = form.plan()
    soaked.plan_soak(store(), number, hours, warm, anew=bool(form.anew.data))
    return then(number, soak.STAGE)


@soak_blueprint.post("/do/soak-row", endpoint="soak-row")
@relays(relay_stage)
def add_row(number: str) -> ResponseReturnValue:
    """Append the volts of each rail at a moment."""
    form = forms.SoakRowForm.parsed()
    keys = [rail.key for rail in case_of(number).sheet.rails]
    told = {name: {key: request.form.get(f"{name}-{place}", "")[:24] for place, key in
                   enumerate(keys)} for name in ("volts", "ripple")}  # fmt: skip
    rows = form.rows(told["volts"], told["ripple"])
    soaked.add_rows(store(), number, rows, events=form.events(rows))
    return then(number, soak.STAGE)


@soak_blueprint.post("/do/soak-log", endpoint="soak-log")
@relays(relay_stage)
def add_log(number: str) -> ResponseReturnValue:
    """Append a log's rows, pasted or from a file."""
    form = forms.SoakLogForm.parsed()
    text = sent_text("file", "log") or form.log.data or ""
    try:
        rows = read_log(text)
    except InputError as error:
        raise FormError({"log": str(error)}) from error
    soaked.add_log(store(), number, rows, form.rail.data or "", form.begins_s())
    return then(number, soak.STAGE)


@soak_blueprint.post("/do/soak-capture", endpoint="soak-capture")
@relays(relay_stage)
def capture_soak(number: str) -> ResponseReturnValue:
    """Take a row from the meter on the line; the series goes on while its page stands."""
    form = forms.SoakCaptureForm.parsed()
    series = soak.series_of(form.rail.data or "", form.every.data or "")
    capturing.capture_soak(store(), number, series.rail, time.time())
    return then(number, soak.STAGE, by=series.code)


@soak_blueprint.post("/do/soak-strike", endpoint="soak-strike")
@relays(relay_stage)
def strike_row(number: str) -> ResponseReturnValue:
    """Put a row aside."""
    form = forms.StrikeRowForm.parsed()
    if form.event.data:
        soaked.strike_event(store(), number, form.event.data)
    else:
        soaked.strike_row(store(), number, form.row.data or 0)
    return then(number, soak.STAGE)


@soak_blueprint.get("/soak.csv")
def as_csv(number: str) -> ResponseReturnValue:
    """The soak's rows, as `hale-rail soak` reads them."""
    case = case_of(number)
    rows = [(row.rail, row.sample) for row in case.rows.soak_rows]
    rows += [("", event.sample) for event in soak_events(case)]
    rows.sort(key=lambda row: row[1].at_s)
    text = log_csv((moment_text(sample.at_s), rail, sample) for rail, sample in rows)
    return file_response(text, "text/csv", f"{number}-soak.csv")
