"""The bench: open cases and what each needs next."""

from __future__ import annotations

import math

from flask import Blueprint, current_app, render_template, request
from flask.typing import ResponseReturnValue

from hale_rail.actions import casebook
from hale_rail.web import addresses

blueprint = Blueprint("bench", __name__)


@blueprint.get("/")
def page() -> ResponseReturnValue:
    query = request.args.get("q", "").strip()
    number = max(1, request.args.get("page", 1, type=addresses.whole))
    closed = request.args.get("closed", 0, type=addresses.whole) == 1
    lines, total = casebook.bench(
        current_app.config["STORE"], query, is_open=not closed, page=number
    )
    template = (
        "bench/_list.html" if request.headers.get("HX-Target") == "cases" else "bench/page.html"
    )
    return render_template(
        template,
        lines=lines,
        total=total,
        query=query,
        closed=closed,
        number=number,
        pages=max(1, math.ceil(total / casebook.PAGE)),
    )


@blueprint.get("/healthz")
def healthz() -> ResponseReturnValue:
    usable = current_app.config["STORE"].is_usable()
    return {"status": "ok" if usable else "store unusable"}, 200 if usable else 503
