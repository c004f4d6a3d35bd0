"""Every main view is checked by the usual rules of accessibility, in both themes."""

from __future__ import annotations

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page

VIEWS = (
    "/", "/cases/new", "/workshop", "/cases/LW-031", "/cases/LW-031/safe", "/cases/LW-031/rails",
    "/cases/LW-031/rails?by=trim:%2B5+V", "/cases/LW-031/ripple", "/cases/LW-022/ripple",
    "/cases/LW-031/first-power", "/cases/LW-009/first-power",
    "/cases/LW-031/diagnosis", "/cases/LW-031/recap", "/cases/LW-014", "/cases/LW-014/look",
    "/cases/LW-014/capacitors", "/cases/LW-014/log", "/cases/LW-014/intake",
    "/cases/LW-022/shorts", "/cases/LW-022/isolate", "/cases/LW-022/map", "/cases/LW-022/trace",
    "/cases/LW-003/trace", "/cases/LW-022/intake", "/cases/LW-009/hand-back",
    "/cases/LW-009/report", "/cases/LW-014/recap", "/cases/LW-014/position",
    "/cases/LW-014/rework", "/parts", "/order", "/order/labels?case=LW-014",
    "/order/bench/LW-014", "/cases/LW-009/machine", "/cases/LW-014/machine",
    "/cases/LW-038/harness", "/cases/LW-014/harness", "/cases/LW-038/continuity",
    "/cases/LW-014/continuity", "/cases/LW-009/soak", "/cases/LW-014/soak",
    "/cases/LW-038/report", "/cases/LW-014/hand-back", "/ledger", "/practice",
    "/practice/PX-002", "/practice/PX-004", "/cases/PX-004", "/workshop/instruments",
)  # fmt: skip


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_no_view_breaks_a_rule(desk: Page, address: str, theme: str) -> None:
    """Labels, contrast, order of headings, roles and names."""
    scheme = "dark" if theme == "dark" else "light"
    desk.emulate_media(color_scheme=scheme, reduced_motion="reduce")  # no colour half way
    for view in VIEWS:
        desk.goto(f"{address}{view}")
        found = Axe().run(desk).response
        assert found["passes"], view
        assert [(v["id"], v["nodes"][0]["html"]) for v in found["violations"]] == [], view
