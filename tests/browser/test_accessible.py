"""Every main view by the usual rules of accessibility, in both themes, at 200 %, without motion."""

from __future__ import annotations

import re
import shutil
import threading
from collections.abc import Callable
from pathlib import Path
from typing import NoReturn

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect
from werkzeug.serving import make_server

from hale_rail.actions.parts import decisions
from hale_rail.errors import LockedError
from hale_rail.store import passphrase
from hale_rail.store.database import Store
from hale_rail.store.error_mapping import BUSY
from hale_rail.web import create_app
from tests.sizes import sampled

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
    "/ask", "/cases/LW-038/report", "/cases/LW-014/hand-back", "/ledger", "/practice",
    "/practice/PX-002", "/practice/PX-004", "/cases/PX-004", "/workshop/instruments",
    "/this-bench", "/cases/LW-014/log?by=900000", "/cases/LW-014/report?whole=1", "/no-such-page",
    "/parts?edit=drawers:0", "/workshop?edit=resistors:0", "/cases/LW-022/where",
    "/cases/LW-014/where?find=to+replace", "/cases/LW-031/where?load=lay", "/cases/LW-038/where",
    "/cases/LW-014/where/sheet", "/cases/LW-027/machine", "/cases/LW-027/apart",
    "/cases/LW-014/apart", "/cases/LW-009/aftermath",
)  # fmt: skip


#: every ninth view, in one theme in turn; all of them in both in `make test-all`
LOOKS = [
    pytest.param(view, theme, marks=() if place % 18 == 9 * turn else pytest.mark.exhaustive)
    for place, view in enumerate(VIEWS)
    for turn, theme in enumerate(("light", "dark"))
]
Onlooker = Callable[[str], Page]


@pytest.mark.parametrize(("view", "theme"), LOOKS)
def test_a_view_breaks_no_rule_and_nothing_runs_out_of_it_at_200_percent(
    page: Page, onlooker: Onlooker, view: str, theme: str
) -> None:
    """Labels, contrast, order of headings, roles and names; tables scroll in themselves.

    1280 × 800 at 200 % is 640 × 400 of the page's own pixels.
    """
    scheme = "dark" if theme == "dark" else "light"
    page.emulate_media(color_scheme=scheme, reduced_motion="reduce")  # no colour half way
    onlooker(view)
    rules_hold(page, view)
    page.set_viewport_size({"width": 640, "height": 400})
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth + 1")


def rules_hold(page: Page, what: str) -> None:
    found = Axe().run(page, options={"resultTypes": ["violations"]}).response
    assert found["passes"], what
    assert [(v["id"], v["nodes"][0]["html"]) for v in found["violations"]] == [], what


@pytest.mark.parametrize("theme", ["light", pytest.param("dark", marks=pytest.mark.exhaustive)])
def test_the_door_and_what_went_wrong_break_no_rule(
    page: Page, demo_master: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, theme: str
) -> None:
    """By keyboard: signing in, a busy database with what was typed, a wrong passphrase."""
    shutil.copytree(demo_master, tmp_path / "auth")
    store = Store(tmp_path / "auth")
    passphrase.put(store.folder, "four warm tubes glow")
    server = make_server("127.0.0.1", 0, create_app(store), threaded=True)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    page.emulate_media(color_scheme="dark" if theme == "dark" else "light", reduced_motion="reduce")
    page.goto(f"http://127.0.0.1:{server.server_port}/cases/LW-014/log")
    rules_hold(page, "sign-in")
    page.keyboard.type("not the right one")
    page.keyboard.press("Tab")
    page.keyboard.type("Window")
    page.keyboard.press("Enter")
    expect(page.locator("#phrase-problem")).to_be_visible()
    rules_hold(page, "sign-in refused")
    page.get_by_label("Passphrase").fill("four warm tubes glow")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/cases/LW-014/log$"))

    def refuse(*_: object) -> NoReturn:
        raise LockedError(BUSY)

    monkeypatch.setattr(decisions, "note", refuse)
    page.get_by_label("A note").fill("the third screw")
    page.keyboard.press("Enter")
    expect(page.locator(".trouble")).to_contain_text("Press again")
    expect(page.get_by_label("A note")).to_have_value("the third screw")
    rules_hold(page, "busy")
    server.shutdown()
    server.server_close()
    store.close()


MOVING = ("/cases/LW-022/trace", "/", "/cases/LW-031", "/cases/LW-031/ripple")


@pytest.mark.parametrize("view", sampled(MOVING, 2))
def test_who_wants_no_motion_sees_none(page: Page, onlooker: Onlooker, view: str) -> None:
    page.emulate_media(reduced_motion="reduce")
    moving = onlooker(view).evaluate(
        """() => [...document.querySelectorAll("*")].filter((each) => {
          const style = getComputedStyle(each);
          const times = `${style.transitionDuration},${style.animationDuration}`.split(",");
          const isSmooth = style.scrollBehavior === "smooth";
          return isSmooth || times.some((time) => parseFloat(time) > 0.01);
        }).map((each) => each.outerHTML.slice(0, 80))"""
    )
    assert moving == []
