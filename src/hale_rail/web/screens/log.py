"""The log, and notes added to it."""

from __future__ import annotations

from flask.typing import ResponseReturnValue

from hale_rail.actions import decisions
from hale_rail.stages import log
from hale_rail.web.forms.bench import NoteForm
from hale_rail.web.frame import relay_stage, relays, store, then
from hale_rail.web.screens.stage_screen import stage_blueprint

blueprint = stage_blueprint(log.STAGE)


@blueprint.post("/do/note")
@relays(relay_stage)
def note(number: str) -> ResponseReturnValue:
    """Add a line of one's own."""
    decisions.note(store(), number, NoteForm.parsed().text.data)
    return then(number, log.STAGE)
