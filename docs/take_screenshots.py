"""Takes the pictures of docs/screenshots from freshly made demo data. Run by `make screenshots`."""

from __future__ import annotations

import logging
import os
import tempfile
import threading
from pathlib import Path

from playwright.sync_api import Page, sync_playwright
from werkzeug.serving import make_server

from hale_rail.actions.ask import asking
from hale_rail.actions.intake.cases import NewCase
from hale_rail.actions.power import first_power
from hale_rail.core.procedures import CAPACITANCE, Condition
from hale_rail.demo.workshop import ensure_demo
from hale_rail.store import sheets
from hale_rail.store.database import Store
from hale_rail.web import create_app
from larkmoor.hand import Hand

FOLDER = Path(__file__).parent / "screenshots"
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-quic"]
#: file name, theme, address, and what is typed into the tray first
VIEWS = [
    ("bench", "light", "/", ""),
    ("ask", "light", "/ask", ""),
    ("case-line-map", "light", "/cases/LW-022", ""),
    ("diagnosis", "light", "/cases/LW-031/diagnosis", ""),
    ("capacitors", "light", "/cases/LW-014/capacitors", "204n"),
    ("recap", "light", "/cases/LW-014/recap", ""),
    ("make-safe", "light", "/cases/LW-031/safe", ""),
    ("first-power", "light", "/cases/LW-040/first-power", ""),
    ("rails", "light", "/cases/LW-031/rails", "4.74..4.93"),
    ("ripple-lab", "light", "/cases/LW-031/ripple?by=%2B5+V", ""),
    ("map-editor", "light", "/cases/LW-022/map", ""),
    ("trace", "light", "/cases/LW-022/trace", ""),
    ("machine", "light", "/cases/LW-027/machine", ""),
    ("harness", "light", "/cases/LW-038/harness", ""),
    ("soak", "light", "/cases/LW-009/soak", ""),
    ("report", "light", "/cases/LW-009/report", ""),
    ("ledger", "light", "/ledger", ""),
    ("where", "dark", "/cases/LW-014/where?find=to+replace", ""),
    ("practice-end", "light", "/practice/PX-002", ""),
]
#: what a picture waits for
AWAITED = {
    "trace": ".verdict-line:has-text('Drop from')",
    "map-editor": "[data-stage] .part-name",
    "recap": ".plan-total b",
    "ledger": ".chart",
    "first-power": "[aria-labelledby=loads-title] tbody tr",
}


#: what was asked outside any case, the newest last
ASKED = (
    "bleed 220u 336V",
    "rail +5 4.93 at 9A",
    "104 250V X2 92n crazed",
    "2200u 10V C 1650u lifted",
)


def main() -> None:
    FOLDER.mkdir(exist_ok=True)
    logging.getLogger("werkzeug").setLevel(logging.ERROR)
    with tempfile.TemporaryDirectory() as data, sync_playwright() as playwright:
        store = ensure_demo(Path(data) / "demo")
        power_up(store)
        for text in ASKED:
            asking.ask(store, text)
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


def power_up(store: Store) -> None:
    """A second Loomwright, sound again, in the first step of its first power."""
    pattern = next(p for p in sheets.patterns(store.read()) if "WL-80" in p.name)
    start = f"pattern:{pattern.id}"
    name, symptom = "Wendlebury Loomwright 12, the second", "Recapped; never powered since."
    typed = NewCase("LW-040", name, symptom, "", start, "", "proven", "strict")
    hand = Hand(store, typed, 0.1)
    hand.make_dead()
    hand.ohms("F1", "0R2")
    hand.junction("BR1", 0.53)
    hand.capacitor("C1", CAPACITANCE)
    hand.junction("Q1", 0.58)
    hand.ground(
        "attached", p5=(14.2, 13.6), p12=(310.0, 290.0), m12=(950.0, 910.0), m5=(420.0, 400.0)
    )
    first_power.begin(store, hand.number, "limited", hand.moment())
    hand.rails(Condition.DUMMY, p5="5.04", p12="12.6")


def prepare(page: Page, name: str, typed: str) -> None:
    """Bring a page to what its picture is to show."""
    if typed:
        page.locator("#reading").fill(typed)
        page.locator("#reading").press("Enter")
        page.locator(".result-verdict").wait_for()
    if name in AWAITED:
        page.locator(AWAITED[name]).first.wait_for()
    if name == "ripple-lab":
        look_at(page)
    page.wait_for_timeout(300)


def look_at(page: Page) -> None:
    """The lab drawn; near enough to see a cycle, the switching band over it, two cursors."""
    page.locator("[data-lab][data-drawn]").wait_for()
    for key in ("3", "+", "+", "a", *["ArrowLeft"] * 24, "b", *["ArrowRight"] * 9):
        page.keyboard.press(key)


if __name__ == "__main__":
    main()
