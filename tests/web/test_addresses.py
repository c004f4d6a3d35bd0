"""An address written out by hand is the one that the router has."""

from __future__ import annotations

import pytest
from flask import request

from hale_rail.stages import BESIDE, STAGES
from hale_rail.web import addresses
from tests.conftest import Client


@pytest.mark.parametrize("key", [stage.key for stage in (*STAGES, *BESIDE)])
def test_a_stages_address(client: Client, key: str) -> None:
    at = "r+5 V@far~volts~machine"
    written = addresses.stage("LW.1", key, at, 7, "blanket", "dummy")
    with client.flask.application.test_request_context(written):
        assert request.view_args == {"number": "LW.1"}
        names = (f"{key.replace('-', '_')}.page", "cold.case_page")
        assert request.endpoint in names
        asked = {"at": at, "saved": "7", "by": "blanket", "load": "dummy"}
        assert request.args.to_dict() == asked


def test_where_forms_and_files_are(client: Client) -> None:
    app = client.flask.application
    posts = [rule for rule in app.url_map.iter_rules() if "/do/" in rule.rule]
    assert len(posts) > 12
    for rule in posts:
        name = rule.rule.rpartition("/")[2]
        with app.test_request_context(addresses.action("LW.1", name), method="POST"):
            assert (request.endpoint, request.view_args) == (rule.endpoint, {"number": "LW.1"})
    for path, endpoint in (
        (addresses.echo("LW.1", "1~esr~lifted"), "tray.echo"),
        (addresses.report("LW.1"), "hand_back.draft"),
        (addresses.report("LW.1", 3), "hand_back.issued_report"),
        (addresses.photo("LW.1", "0" * 64, True), "look.photo_file"),
    ):
        with app.test_request_context(path):
            assert request.endpoint == endpoint
    with client.get(addresses.static("css/tokens.css")) as stylesheet:
        assert stylesheet.mimetype == "text/css"


def test_every_form_that_posts_can_lay_its_page_anew(client: Client) -> None:
    """One handler answers what a form refuses; a route without it would lose what was typed."""
    app = client.flask.application
    posting = [rule for rule in app.url_map.iter_rules() if "POST" in (rule.methods or ())]
    assert len(posting) > 80
    only_look = ("new_case.preview", "new_case.symptoms", "harness.read_tables")
    for rule in posting:
        if rule.endpoint not in only_look:
            assert hasattr(app.view_functions[rule.endpoint], "rerender"), rule.endpoint
