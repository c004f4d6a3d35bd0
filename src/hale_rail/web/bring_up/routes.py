"""The pages beside the machine: harness, continuity, rail events and regulators."""

from __future__ import annotations

from flask import render_template, request
from flask.typing import ResponseReturnValue

from hale_rail.actions.bring_up import continuity as lists_done
from hale_rail.actions.bring_up import machine as done
from hale_rail.case.bring_up.continuity import list_of
from hale_rail.case.bring_up.harness import harness as harness_facts
from hale_rail.core.bring_up.continuity import part_of
from hale_rail.errors import NotFoundError
from hale_rail.formats.readings.machine_lists import pairs_csv
from hale_rail.formats.workshop.harness_csv import wiring_csv
from hale_rail.stages.bring_up import aftermath, continuity, harness
from hale_rail.stages.bring_up.continuity import shape_of
from hale_rail.stages.bring_up.harness_rows import RowPress, end_tables
from hale_rail.web.bring_up import forms
from hale_rail.web.form_base import FormState
from hale_rail.web.frame.case_page import (
    case_of,
    store,
)
from hale_rail.web.frame.stage_routes import Onward, stage_blueprint
from hale_rail.web.uploads import file_response, sent_text

blueprint = stage_blueprint(aftermath.STAGE)
harness_blueprint = stage_blueprint(harness.STAGE)
continuity_blueprint = stage_blueprint(continuity.STAGE)
#: what its templates call
TOOLS = {"shape_of_pair": shape_of, "part_of": part_of, "end_tables": end_tables}


@harness_blueprint.form("harness", forms.HarnessForm)
def plan(number: str, form: forms.HarnessForm) -> None:
    """Keep the two ends of a harness."""
    done.plan_harness(
        store(), number, form.source.data, form.target.data, form.length.value,
        form.side.data,
    )  # fmt: skip


@harness_blueprint.post("/harness/read")
def read_tables(number: str) -> ResponseReturnValue:
    """Both tables as they are after a press at one of their rows; nothing is kept yet."""
    case_of(number)
    what, _, row = request.form.get("press", "").partition(":")
    end, _, place = (row or request.form.get("open", "")).partition(":")
    sent = request.form.items()
    cells = {name[4:]: text for name, text in sent if name.startswith("row-")}
    read = end_tables(request.form, RowPress(what, end, place, cells))
    return render_template(
        "bring_up/harness/_read.html", read=read, number=number, typed=FormState(),
        taken=what == "take",
    )  # fmt: skip


@harness_blueprint.form("colour", forms.ColourForm)
def colour(number: str, form: forms.ColourForm) -> Onward:
    """Record the colour of a wire that was found."""
    done.say_colour(store(), number, form.pin.data, form.colour.data)
    return Onward(form.at.data, by=form.by.data)


@harness_blueprint.get("/harness.csv")
def wiring(number: str) -> ResponseReturnValue:
    """The wiring table."""
    facts = harness_facts(case_of(number))
    if facts.plan is None:
        raise NotFoundError("This case has no harness yet.")
    return file_response(wiring_csv(facts.plan), "text/csv", f"{number}-harness.csv")


@continuity_blueprint.form("list", forms.ListForm)
def take_list(number: str, form: forms.ListForm) -> Onward:
    """Take a list of connections in."""
    pairs = sent_text("file", "list") or form.pairs.data
    key = lists_done.take_list(
        store(), number, form.name.data, form.board.data, pairs, form.drawing.data
    )
    return Onward(by=key)


@continuity_blueprint.form("list-copy", forms.CopyListForm)
def copy_list(number: str, form: forms.CopyListForm) -> Onward:
    """Copy a list of another case."""
    key = lists_done.copy_list(store(), number, form.note.data, form.board.data)
    return Onward(by=key)


@continuity_blueprint.form("list-off", forms.MarkForm)
def drop_list(number: str, form: forms.MarkForm) -> None:
    """Take a list off."""
    lists_done.drop_list(store(), number, form.key.data)


@continuity_blueprint.form("pair", forms.MarkForm)
def pair(number: str, form: forms.MarkForm) -> Onward:
    """Say what came of a pair."""
    lists_done.mark_pair(
        store(), number, form.key.data, form.pair.data, form.what.data,
        form.note.data, form.partner.data,
    )  # fmt: skip
    return Onward(by=form.key.data)


@continuity_blueprint.form("whose-list", forms.MarkForm)
def whose_list(number: str, form: forms.MarkForm) -> Onward:
    """Say whether a list is of the board in hand."""
    key = form.key.data
    lists_done.say_whose(store(), number, key, form.what.data)
    return Onward(by=key)


@continuity_blueprint.get("/continuity/<key>.csv")
def list_csv(number: str, key: str) -> ResponseReturnValue:
    """A list as a file."""
    facts = list_of(case_of(number), key)
    if facts is None:
        raise NotFoundError("There is no such list in this case.")
    text = pairs_csv(pair.pair for pair in facts.pairs)
    return file_response(text, "text/csv", f"{number}-list.csv")


@blueprint.form("event", forms.EventForm)
def event(number: str, form: forms.EventForm) -> Onward:
    """Record what happened to a rail."""
    done.add_event(store(), number, form.rail.data, form.event.data, form.peak_v.value)
    return Onward(form.at.data, by=form.by.data)


@blueprint.form("regulator", forms.RegulatorForm)
def regulator(number: str, form: forms.RegulatorForm) -> Onward:
    """Reckon a linear regulator."""
    done.reckon_regulator(store(), number, form.ref.data, form.body())
    return Onward(form.at.data, by=form.by.data)


@blueprint.form("back", forms.TakeBackForm)
def take_back(number: str, form: forms.TakeBackForm) -> Onward:
    """Take back what was said of the board."""
    done.take_back(store(), number, form.kind.data, form.key.data)
    return Onward(form.at.data, by=form.by.data)
