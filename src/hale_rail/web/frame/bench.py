"""The bench: open cases and what each needs next."""

from __future__ import annotations

import math

from flask import Blueprint, render_template, request
from flask.typing import ResponseReturnValue

from hale_rail.core.safety.energy import ENERGIES
from hale_rail.stages.frame import bench
from hale_rail.store.cases import MOST_FOUND, CasePlace
from hale_rail.web.addresses import whole
from hale_rail.web.frame.case_page import store

_KEPT = {kept.code: kept for kept in CasePlace}
blueprint = Blueprint("bench", __name__)


@blueprint.get("/")
def page() -> ResponseReturnValue:
    """The cases on the bench, or those handed back."""
    query = request.args.get("q", "").strip()
    number = max(1, request.args.get("page", 1, type=whole))
    kept = _KEPT.get(request.args.get("kept", ""), CasePlace.BENCH)
    lines, total = bench.bench(store(), query, kept, page=number)
    is_list = request.headers.get("HX-Target") == "cases"
    return render_template(
        "frame/bench/_list.html" if is_list else "frame/bench/page.html",
        lines=lines,
        first=() if is_list or query else bench.first(store()),
        is_new=not is_list and not total and bench.is_new(store()),
        total=total,
        most=MOST_FOUND,
        query=query,
        kept=kept,
        shelves=tuple(CasePlace),
        number=number,
        pages=max(1, math.ceil(total / bench.PAGE)),
        energies=ENERGIES,
        backup_trouble=store().trouble,
    )


@blueprint.get("/healthz")
def healthz() -> ResponseReturnValue:
    """Whether the store answers."""
    usable = store().is_usable()
    return {"status": "ok" if usable else "store unusable"}, 200 if usable else 503
