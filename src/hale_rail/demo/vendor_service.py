"""A stand-in for vendors' services, for testing the refresh: slow, failing, empty or malformed.

A small application of its own, on a port of its own. Its page chooses how each vendor answers;
stock and prices move a little with every answer, as they do.
"""

from __future__ import annotations

import json
import random
import threading
import time
from collections.abc import Mapping, Sequence
from typing import Any

from flask import Flask, Response, redirect, render_template_string, request

MODES = {
    "live": "answers",
    "slow": "answers after eight seconds",
    "failing": "answers 503",
    "silent": "never answers",
    "empty": "answers without a part",
    "malformed": "answers half a JSON",
    "strange": "answers with prices that are none",
}
_SLOW_S, _SILENT_S = 8.0, 60.0
_PAGE = """<!doctype html><title>Stand-in vendors</title>
<h1>Stand-in vendors</h1>
<p>What each answers when Hale Rail asks for its live stock and prices.</p>
{% for name, mode in vendors.items() %}
<form method="post"><p><b>{{ name }}</b>
<input type="hidden" name="vendor" value="{{ name }}">
{% for code, words in modes.items() %}
<button name="mode" value="{{ code }}"{% if code == mode %} disabled{% endif %}>{{ words }}</button>
{% endfor %}</p></form>
{% endfor %}"""


def create_service(catalogues: Mapping[str, Sequence[Mapping[str, str]]], seed: int = 7) -> Flask:
    """The service over vendors' catalogues, rows by vendor's key; every vendor answers at first."""
    app = Flask(__name__)
    modes = dict.fromkeys(catalogues, "live")
    moved = random.Random(seed)
    lock = threading.Lock()

    @app.get("/")
    def page() -> str:
        return render_template_string(_PAGE, vendors=modes, modes=MODES)

    @app.post("/")
    def choose() -> Any:
        name, mode = request.form.get("vendor", ""), request.form.get("mode", "")
        if name in modes and mode in MODES:
            modes[name] = mode
        return redirect("/", 303)

    @app.get("/<name>/parts.json")
    def parts(name: str) -> Response:
        if name not in catalogues:
            return Response("no such vendor", 404)
        mode = modes[name]
        if mode in ("slow", "silent"):
            time.sleep(_SLOW_S if mode == "slow" else _SILENT_S)
        if mode == "failing":
            return Response("out of order", 503)
        with lock:
            rows = [_moved(row, moved) for row in catalogues[name]]
        if mode == "strange":
            rows = [{**row, "price_1": "on request"} for row in rows]
        parts = {"currency": "EUR", "parts": [] if mode == "empty" else rows}
        text = json.dumps(parts)
        return Response(
            text[: len(text) // 2] if mode == "malformed" else text, mimetype="application/json"
        )

    return app


def _moved(row: Mapping[str, str], moved: random.Random) -> dict[str, str]:
    """A part with its stock of this moment."""
    result = dict(row)
    if result.get("available"):
        result["available"] = str(max(0, int(result["available"]) + moved.randint(-3, 3)))
    return result
