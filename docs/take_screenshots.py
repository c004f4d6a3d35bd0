"""Takes the pictures of docs/screenshots from freshly made demo data. Run by `make screenshots`."""

from __future__ import annotations

import logging
import os
import tempfile
import threading
from pathlib import Path

from playwright.sync_api import Page, sync_playwright
from werkzeug.serving import make_server

from hale_rail.demo.load import ensure_demo
from hale_rail.web import create_app

FOLDER = Path(__file__).parent / "screenshots"
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-quic"]
#: file name, theme, address, and what is typed into the tray first
VIEWS = [
    ("bench", "light", "/", ""),
    ("case-line-map", "light", "/cases/LW-022", ""),
    ("case-line-map-dark", "dark", "/cases/LW-014", ""),
    ("look-over", "light", "/cases/LW-014/look", ""),
    ("part-panel", "light", "/cases/LW-014", ""),
    ("diagnosis", "light", "/cases/LW-031/diagnosis", ""),
    ("capacitors", "light", "/cases/LW-014/capacitors", "204n"),
    ("recap", "light", "/cases/LW-014/recap", ""),
    ("make-safe", "light", "/cases/LW-031/safe", ""),
    ("guard-dark", "dark", "/cases/LW-031", ""),
    ("rails", "light", "/cases/LW-031/rails", "4.74..4.93"),
    ("shorts", "light", "/cases/LW-022/shorts", "0.4"),
    ("isolate", "light", "/cases/LW-022/isolate", ""),
    ("map-editor", "light", "/cases/LW-022/map", ""),
    ("trace", "light", "/cases/LW-022/trace", ""),
    ("new-case", "light", "/cases/new", ""),
    ("report", "light", "/cases/LW-009/report", ""),
    ("hand-back", "light", "/cases/LW-009/hand-back", ""),
    ("workshop", "light", "/workshop", ""),
]
PASTED = (
    "C10 3300u 16V +5 out\nC12 2200u 10V +5 out bank A\nD30-D32 +5\nrail +24 2A\n"
    "something illegible"
)


def main() -> None:
    FOLDER.mkdir(exist_ok=True)
    logging.getLogger("werkzeug").setLevel(logging.ERROR)
    with tempfile.TemporaryDirectory() as data, sync_playwright() as playwright:
        store = ensure_demo(Path(data) / "demo")
        server = make_server("127.0.0.1", 0, create_app(store), threaded=True)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        browser = playwright.chromium.launch(
            executable_path=os.environ.get("HALE_RAIL_CHROMIUM", "/usr/bin/chromium"),
            args=ARGUMENTS,
        )
        for name, theme, path, typed in VIEWS:
            context = browser.new_context(
                viewport={"width": 1280, "height": 800},
                color_scheme="dark" if theme == "dark" else "light",
            )
            page = context.new_page()
            page.goto(f"http://127.0.0.1:{server.server_port}{path}")
            prepare(page, name, typed)
            page.screenshot(path=FOLDER / f"{name}.png")
            context.close()
        browser.close()
        server.shutdown()
        store.close()


def prepare(page: Page, name: str, typed: str) -> None:
    """Bring a page to what its picture is to show."""
    if typed:
        page.locator("#reading").fill(typed)
        page.locator("#reading").press("Enter")
        page.locator(".result-verdict").wait_for()
    if name == "trace":
        page.locator(".verdict-line", has_text="Drop from").wait_for()
    if name == "map-editor":
        page.locator("[data-stage] .part-name").first.wait_for()
    if name == "case-line-map-dark":
        page.locator('.linemap a[aria-label^="BR1,"]').click()
        page.locator(".bridge").wait_for()
    if name == "part-panel":
        page.locator('.linemap a[aria-label^="C13,"]').click()
        page.locator(".polarity-box summary").click()
        page.locator(".polarity").first.wait_for()
    if name == "new-case":
        page.get_by_label("Machine", exact=True).fill("Pellam Ledger 2, 1986")
        page.get_by_label("Symptom", exact=True).fill("Fan twitches, no rails")
        page.locator("#parts").fill(PASTED)
        page.locator("#preview table").wait_for()
    page.wait_for_timeout(300)


if __name__ == "__main__":
    main()
