"""No word lies over another, on any page, in either theme, on a desk and on a phone."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Page, ViewportSize

from hale_rail.stages import BESIDE, STAGES
from tests.sizes import sampled

OVERLAPS = (Path(__file__).parent / "overlaps.js").read_text(encoding="utf-8")
SIZES = (ViewportSize(width=1280, height=800), ViewportSize(width=420, height=800))
PAGES = (
    "/", "/ask", "/order", "/parts?edit=drawers:0", "/workshop", "/ledger", "/practice",
    "/workshop/instruments", "/cases/new", "/practice/PX-002", "/cases/LW-022/trace",
    "/cases/LW-022/map", "/cases/LW-022/isolate", "/cases/LW-022/shorts", "/cases/LW-009/report",
    "/cases/LW-038/harness", "/cases/LW-038/continuity", "/cases/LW-022/where",
    "/cases/LW-022/where?load=lay", "/cases/LW-022/where/sheet", "/order/labels?case=LW-014",
    "/cases/LW-003/report", "/cases/LW-014/where?find=worn", "/cases/LW-027/machine",
    "/cases/LW-027/apart",
    *(f"/cases/{number}/{stage.key}" for number in ("LW-014", "LW-031", "LW-009")
      for stage in (*STAGES, *BESIDE)),
)  # fmt: skip


@pytest.mark.parametrize("path", sampled(PAGES, 18))
def test_no_words_overlap_and_nothing_scrolls_sideways(
    onlooker: Callable[[str], Page], path: str
) -> None:
    page = onlooker(path)
    page.wait_for_function("() => !document.querySelector('.waiting')", timeout=20_000)
    for size in SIZES:
        page.set_viewport_size(size)
        for theme in ("light", "dark"):
            page.evaluate("(theme) => { document.documentElement.dataset.bsTheme = theme; }", theme)
            assert page.evaluate(OVERLAPS) == [], f"{path} {size} {theme}"
        wide = page.evaluate("() => document.documentElement.scrollWidth - window.innerWidth")
        assert wide <= 1, f"{path} {size}"
