"""The log, notes added to it, and what other benches have added since a page was laid."""

from __future__ import annotations

from flask import request
from flask.typing import ResponseReturnValue

from hale_rail.actions.parts import decisions
from hale_rail.stages.frame import log
from hale_rail.web import addresses
from hale_rail.web.frame.case_page import (
    store,
)
from hale_rail.web.frame.forms import NoteForm
from hale_rail.web.frame.stage_routes import stage_blueprint

blueprint = stage_blueprint(log.STAGE)


@blueprint.form("note", NoteForm)
def note(number: str, form: NoteForm) -> None:
    """Add a line of one's own."""
    decisions.note(store(), number, form.text.data)


@blueprint.get("/news")
def news(number: str) -> ResponseReturnValue:
    """Entries after the one that a page knows, for a page that asks every other moment."""
    after = request.args.get("after", 0, type=addresses.whole)
    entries, count = log.news(store(), number, after)
    if not entries:
        return "", 204
    told = [{"text": entry.text, "bench": entry.bench} for entry in entries]
    return {"newest": entries[-1].id, "count": count, "entries": told}
