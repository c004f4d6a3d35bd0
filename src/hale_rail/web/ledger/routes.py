"""The ledger over all cases that were handed back."""

from __future__ import annotations

from flask import Blueprint, render_template, request
from flask.typing import ResponseReturnValue

from hale_rail.stages.ledger import ledger
from hale_rail.web.frame.case_page import store

blueprint = Blueprint("ledger", __name__)


@blueprint.get("/ledger")
def page() -> ResponseReturnValue:
    """Survival by age, families, roles, types; what found faults; hours by stage."""
    args = request.args
    shown = ledger.page(store(), args.get("kind", ""), args.get("group", ""))
    return render_template("ledger/page.html", page=shown, name_of=ledger.name_of)
