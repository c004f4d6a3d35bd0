"""In the machine, and the pages beside it: harness and continuity."""

from __future__ import annotations

from flask.typing import ResponseReturnValue

from hale_rail.actions.bring_up import continuity as lists_done
from hale_rail.actions.bring_up import machine as done
from hale_rail.case.bring_up.continuity import list_of
from hale_rail.case.bring_up.harness import harness as harness_facts
from hale_rail.core.bring_up.continuity import part_of
from hale_rail.errors import NotFoundError
from hale_rail.formats.readings.machine_lists import pairs_csv
from hale_rail.formats.workshop.harness_csv import wiring_csv
from hale_rail.stages.bring_up import continuity, harness, machine
from hale_rail.stages.bring_up.continuity import shape_of
from hale_rail.stages.stage import Stage
from hale_rail.web.bring_up import forms
from hale_rail.web.form_base import CaseForm
from hale_rail.web.frame.case_page import (
    case_of,
    posted_stage,
    redirect_to_stage,
    rerender_on_error,
    rerender_stage,
    store,
)
from hale_rail.web.frame.stage_routes import stage_blueprint
from hale_rail.web.uploads import file_response, sent_text

blueprint = stage_blueprint(machine.STAGE)
harness_blueprint = stage_blueprint(harness.STAGE)
continuity_blueprint = stage_blueprint(continuity.STAGE)
#: what its templates call
TOOLS = {"shape_of_pair": shape_of, "part_of": part_of}


def _then(number: str, stage: Stage, form: CaseForm) -> ResponseReturnValue:
    return redirect_to_stage(number, stage, at=form.at.data, by=form.by.data)


@harness_blueprint.post("/do/harness", endpoint="harness")
@rerender_on_error(rerender_stage)
def plan(number: str) -> ResponseReturnValue:
    """Keep the two ends of a harness."""
    form = forms.HarnessForm.parsed()
    done.plan_harness(
        store(), number, form.source.data, form.target.data, form.length.value,
        form.side.data,
    )  # fmt: skip
    return redirect_to_stage(number, harness.STAGE)


@harness_blueprint.post("/do/colour")
@rerender_on_error(rerender_stage)
def colour(number: str) -> ResponseReturnValue:
    """Record the colour of a wire that was found."""
    form = forms.ColourForm.parsed()
    done.say_colour(store(), number, form.pin.data, form.colour.data)
    return _then(number, harness.STAGE, form)


@harness_blueprint.get("/harness.csv")
def wiring(number: str) -> ResponseReturnValue:
    """The wiring table."""
    facts = harness_facts(case_of(number))
    if facts.plan is None:
        raise NotFoundError("This case has no harness yet.")
    return file_response(wiring_csv(facts.plan), "text/csv", f"{number}-harness.csv")


@continuity_blueprint.post("/do/list", endpoint="list")
@rerender_on_error(rerender_stage)
def take_list(number: str) -> ResponseReturnValue:
    """Take a list of connections in."""
    form = forms.ListForm.parsed()
    pairs = sent_text("file", "list") or form.pairs.data
    key = lists_done.take_list(
        store(), number, form.name.data, form.board.data, pairs, form.drawing.data
    )
    return redirect_to_stage(number, continuity.STAGE, by=key)


@continuity_blueprint.post("/do/list-copy", endpoint="list-copy")
@rerender_on_error(rerender_stage)
def copy_list(number: str) -> ResponseReturnValue:
    """Copy a list of another case."""
    form = forms.CopyListForm.parsed()
    key = lists_done.copy_list(store(), number, form.note.data, form.board.data)
    return redirect_to_stage(number, continuity.STAGE, by=key)


@continuity_blueprint.post("/do/list-off", endpoint="list-off")
@rerender_on_error(rerender_stage)
def drop_list(number: str) -> ResponseReturnValue:
    """Take a list off."""
    form = forms.MarkForm.parsed()
    lists_done.drop_list(store(), number, form.key.data)
    return redirect_to_stage(number, continuity.STAGE)


@continuity_blueprint.post("/do/pair")
@rerender_on_error(rerender_stage)
def pair(number: str) -> ResponseReturnValue:
    """Say what came of a pair."""
    form = forms.MarkForm.parsed()
    lists_done.mark_pair(
        store(), number, form.key.data, form.pair.data, form.what.data,
        form.note.data, form.partner.data,
    )  # fmt: skip
    return redirect_to_stage(number, continuity.STAGE, by=form.key.data)


@continuity_blueprint.post("/do/whose-list", endpoint="whose-list")
@rerender_on_error(rerender_stage)
def whose_list(number: str) -> ResponseReturnValue:
    """Say whether a list is of the board in hand."""
    form = forms.MarkForm.parsed()
    key = form.key.data
    lists_done.say_whose(store(), number, key, form.what.data)
    return redirect_to_stage(number, continuity.STAGE, by=key)


@continuity_blueprint.get("/continuity/<key>.csv")
def list_csv(number: str, key: str) -> ResponseReturnValue:
    """A list as a file."""
    facts = list_of(case_of(number), key)
    if facts is None:
        raise NotFoundError("There is no such list in this case.")
    text = pairs_csv(pair.pair for pair in facts.pairs)
    return file_response(text, "text/csv", f"{number}-list.csv")


@blueprint.post("/do/chip")
@rerender_on_error(rerender_stage)
def chip(number: str) -> ResponseReturnValue:
    """Name a chip's supply pin, or take it off."""
    form = forms.ChipForm.parsed()
    done.name_chip(store(), number, form.chip.data, form.rail.data)
    return redirect_to_stage(number, machine.STAGE)


@blueprint.post("/do/sign")
@rerender_on_error(rerender_stage)
def sign(number: str) -> ResponseReturnValue:
    """Say whether a sign of life is there."""
    form = forms.SignForm.parsed()
    seen, note = form.seen.data, form.note.data
    done.say_sign(store(), number, form.sign.data, seen, note)
    return _then(number, machine.STAGE, form)


@blueprint.post("/do/layout")
@rerender_on_error(rerender_stage)
def layout(number: str) -> ResponseReturnValue:
    """Keep the table of a memory's chips."""
    form = forms.LayoutForm.parsed()
    done.keep_layout(store(), number, form.table.data)
    return _then(number, machine.STAGE, form)


@blueprint.post("/do/memory")
@rerender_on_error(rerender_stage)
def memory(number: str) -> ResponseReturnValue:
    """Add one place of a memory test."""
    form = forms.MemoryForm.parsed()
    done.add_memory(store(), number, form.bank.data, *form.words())
    return _then(number, machine.STAGE, form)


@blueprint.post("/do/swap")
@rerender_on_error(rerender_stage)
def swap(number: str) -> ResponseReturnValue:
    """Record a swap with its result."""
    form = forms.SwapForm.parsed()
    done.add_swap(
        store(), number, form.one.data, form.other.data, form.moved.data,
        form.why.data,
    )  # fmt: skip
    return _then(number, machine.STAGE, form)


@blueprint.post("/do/event")
@rerender_on_error(rerender_stage)
def event(number: str) -> ResponseReturnValue:
    """Record what happened to a rail."""
    form = forms.EventForm.parsed()
    done.add_event(store(), number, form.rail.data, form.event.data, form.peak_v.value)
    return _then(number, machine.STAGE, form)


@blueprint.post("/do/regulator")
@rerender_on_error(rerender_stage)
def regulator(number: str) -> ResponseReturnValue:
    """Reckon a linear regulator."""
    form = forms.RegulatorForm.parsed()
    done.reckon_regulator(store(), number, form.ref.data, form.body())
    return _then(number, machine.STAGE, form)


@blueprint.post("/do/back", endpoint="back")
@rerender_on_error(rerender_stage)
def take_back(number: str) -> ResponseReturnValue:
    """Take back what was said of the board."""
    form = forms.TakeBackForm.parsed()
    done.take_back(store(), number, form.kind.data, form.key.data)
    return _then(number, posted_stage(), form)
