"""The main paths in headless Chromium, by keyboard where hands are busy."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path
from urllib.parse import urljoin

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

TRAY = "[data-tray-input]"


def open_case(desk: Page, number: str, view: str = "") -> None:
    desk.goto(urljoin(desk.url, f"/cases/{number}{view}"))


def type_reading(desk: Page, text: str) -> None:
    expect(desk.locator(TRAY)).to_be_focused()
    desk.keyboard.type(text)
    desk.keyboard.press("Enter")


def test_bench_search_and_the_next_step(desk: Page, address: str) -> None:
    desk.goto(address)
    expect(desk.locator(".case-line")).to_have_count(6)
    desk.keyboard.press("f")
    desk.keyboard.type("draft")
    expect(desk.locator(".case-line")).to_have_count(1)
    expect(desk).to_have_url(re.compile("q=draft"))
    desk.locator(".next").click()
    expect(desk.locator("h1")).to_contain_text("LW-022")
    expect(desk.locator("[data-board]")).to_be_visible()


def test_new_case_with_pasted_parts(desk: Page, address: str) -> None:
    desk.goto(address)
    desk.get_by_role("link", name="New case").click()
    desk.get_by_label("half-bridge forward").first.check()
    expect(desk.get_by_label("Machine", exact=True)).to_be_visible()
    desk.get_by_label("Machine", exact=True).fill("Marl Lane plotter")
    desk.get_by_label("Symptom", exact=True).fill("Clicks, no fan")
    desk.locator("#parts").fill("C10 4700u 10V +5\nC77 X2 100n 275 paper\nwhat is this")
    expect(desk.locator("#preview tr")).to_have_count(4)
    expect(desk.locator("#preview .bad")).to_contain_text("not a designator")
    desk.get_by_role("button", name="Open the case").click()
    expect(desk.locator(".invalid-feedback")).to_contain_text("cannot be used")
    expect(desk.locator("#symptom")).to_have_value("Clicks, no fan")
    desk.get_by_label("Leave the 1 out").check()
    desk.get_by_role("button", name="Open the case").click()
    expect(desk.locator("h1")).to_contain_text("Marl Lane plotter")
    expect(desk.locator(".linemap a").filter(has_text="C77")).to_have_count(1)


def test_make_safe_then_cold_checks_by_keyboard_only(desk: Page) -> None:
    open_case(desk, "LW-031")
    expect(desk.get_by_text("First: is it dead?")).to_be_visible()
    type_reading(desk, "140")
    expect(desk.locator(".guard .above")).to_contain_text("140")
    type_reading(desk, "2.2")
    expect(desk.locator(".guard")).to_contain_text("C2")
    type_reading(desk, "1.8")
    expect(desk.locator(".guard")).to_contain_text("C5")
    type_reading(desk, "0.4")
    expect(desk.locator(".guard")).to_have_count(0)
    expect(desk.locator(".case-head .energy")).to_contain_text("safe to touch")
    expect(desk.locator(TRAY)).to_be_focused()


def test_the_clock_counts_down(desk: Page) -> None:
    open_case(desk, "LW-031", "/safe")
    desk.get_by_role("button", name="Log: plug out").click()
    for volts in ("150", "149"):
        expect(desk.locator(".probe")).to_contain_text("C1")
        type_reading(desk, volts)
        expect(desk.locator(".result-verdict")).to_contain_text(volts)
        open_case(desk, "LW-031", "/safe")
    clock = desk.locator("[data-until]").first
    expect(clock).to_have_text(re.compile(r"\d"))
    first = clock.inner_text()
    expect(clock).not_to_have_text(first)
    held = desk.locator("[data-tau]").first
    expect(held).to_have_text(re.compile("≈"))
    open_case(desk, "LW-014", "/capacitors")
    desk.locator("th a", has_text="C13").click()
    expect(desk.locator(".probe")).to_contain_text("C13")
    desk.locator("[data-procedure]", has_text="leakage").click()
    soak = desk.locator(".tray [data-countdown]")
    expect(soak).to_have_text(re.compile("2.min"))
    desk.locator(".tray [data-do=countdown]").click()
    expect(soak).to_have_text(re.compile("1 min 5"))


def test_the_map_is_walked_by_keyboard(desk: Page) -> None:
    open_case(desk, "LW-014")
    expect(desk.locator(".linemap .station.failed")).to_have_count(7)
    desk.keyboard.press("Escape")
    station = desk.locator('.linemap a[aria-label^="C14,"]')
    station.focus()
    desk.keyboard.press("Enter")
    expect(desk.locator(".panel h2")).to_contain_text("C14")
    expect(desk.locator(".probe")).to_contain_text("C14 ESR")
    assert "at=" in desk.url
    type_reading(desk, "0R12")
    expect(desk.locator(".result-verdict")).to_contain_text("good")
    expect(desk.locator('.linemap a[aria-label="C14, capacitor: good"]')).to_have_count(1)
    # whatever it stands in, the ring is the line map's own: it is what says where one is
    width = "(ring) => parseFloat(getComputedStyle(ring).strokeWidth)"
    assert desk.locator(".linemap .ring").evaluate(width) >= 3


def test_capacitors_echo_verdict_and_undo(desk: Page) -> None:
    open_case(desk, "LW-014", "/capacitors")
    expect(desk.locator(".probe")).to_contain_text("CX2")
    desk.keyboard.type("2200")
    expect(desk.locator("#echo")).to_contain_text("2200 µF")
    desk.keyboard.press("Enter")
    expect(desk.locator(TRAY)).to_have_attribute("aria-invalid", "true")
    expect(desk.locator("#echo")).to_contain_text("Check the prefix")
    expect(desk.locator(TRAY)).to_have_value("2200")
    desk.locator(TRAY).fill("")
    type_reading(desk, "150n")
    expect(desk.locator(".result-verdict")).to_contain_text("failed")
    expect(desk.locator(".probe")).to_contain_text("CY1")
    expect(desk.locator("tr", has_text="CX2").locator(".verdict")).to_contain_text("failed")
    desk.keyboard.press("Alt+z")
    expect(desk.locator("tr", has_text="CX2").locator(".verdict")).to_contain_text("not looked at")
    expect(desk.locator(".probe")).to_contain_text("CX2")
    desk.keyboard.press("ArrowDown")
    expect(desk.locator(".probe")).to_contain_text("CY1")
    desk.keyboard.press("Alt+l")
    expect(desk.locator(".how")).to_contain_text("lifted")
    desk.keyboard.press("Alt+q")
    expect(desk.locator(".probe")).to_contain_text("resistance")


def test_recap_list_by_school(desk: Page) -> None:
    open_case(desk, "LW-014", "/recap")
    counts = [int(text) for text in desk.locator(".schools b").all_inner_texts()]
    assert counts == sorted(counts)
    desk.locator(".schools a", has_text="blanket").click()
    expect(desk.locator(".recap:not(.others) caption")).to_contain_text("blanket")
    assert sum(map(int, desk.locator(".recap .qty").all_inner_texts())) == counts[2]
    expect(desk.locator(".recap:not(.others)")).not_to_contain_text("2200000 nF")
    desk.get_by_role("button", name="Mark C2 as fitted").click()
    expect(desk.locator(".position", has_text="C2").first).to_contain_text("replaced")
    desk.locator(".school select").first.select_option("proven")
    expect(desk.locator(".schools [aria-current]")).to_contain_text("proven only")


def test_rails_strict_lenient_and_jumping(desk: Page) -> None:
    open_case(desk, "LW-031", "/rails?load=dummy")
    type_reading(desk, "4.60..4.90")
    expect(desk.locator(".result-verdict")).to_contain_text("fail")
    expect(desk.locator(".probe")).to_contain_text("+12 V")
    desk.locator(".school select").nth(1).select_option("lenient")
    bar = desk.locator(".rail-bars li", has_text="+5 V").first
    expect(bar).to_contain_text("4.5 V to 5.5 V")
    expect(bar).to_contain_text("pass")


def test_shorts_with_low_injection(desk: Page) -> None:
    open_case(desk, "LW-022", "/shorts")
    row = desk.locator(".shorts tr", has_text="+12 V").first
    expect(row).to_contain_text("short")
    expect(desk.locator(".says")).to_contain_text("the supply side is free of it")
    desk.locator(".shorts tr", has_text="−5 V").first.get_by_text("inject").click()
    type_reading(desk, "0.4 V 1 mA")
    expect(desk.locator(".result-verdict")).to_contain_text("good")
    expect(desk.locator(".result-verdict")).to_contain_text("400 Ω")


def test_report_and_log(desk: Page) -> None:
    open_case(desk, "LW-009", "/report")
    expect(desk.locator(".report")).to_contain_text("before: C 2930 µF; after: ESR")
    desk.emulate_media(media="print")
    expect(desk.locator(".paper-nav")).to_be_hidden()
    desk.emulate_media(media="screen")
    open_case(desk, "LW-009", "/log")
    before = desk.locator(".log s").count()
    desk.locator(".kind-reading button").first.click()
    expect(desk.locator(".log s")).to_have_count(before + 1)


def test_look_over_by_keyboard_with_a_photo(desk: Page, tmp_path: Path) -> None:
    open_case(desk, "LW-014", "/look")
    stop = desk.locator(".stop-line", has_text="CX2")
    stop.get_by_role("button", name="looks sound").focus()
    desk.keyboard.press("ArrowRight")
    desk.keyboard.press("ArrowRight")
    desk.keyboard.press("Enter")  # the third code: leaking
    stop = desk.locator(".stop-line", has_text="CX2")
    expect(stop.locator('[aria-pressed="true"]')).to_have_text("leaking")
    expect(stop.locator(".station.failed")).to_have_count(1)
    expect(stop.get_by_role("button", name="leaking")).to_be_focused()
    desk.keyboard.press("ArrowRight")
    desk.keyboard.press("Enter")
    expect(stop.locator('[aria-pressed="true"]')).to_have_text(["leaking", "cracked"])
    Image.new("RGB", (400, 300), "navy").save(tmp_path / "cx2.png")
    (tmp_path / "fake.jpg").write_text("not a photo")
    stop.locator("summary").click()
    stop.locator("input[type=file]").set_input_files(tmp_path / "fake.jpg")
    stop.get_by_role("button", name="Add").click()
    expect(desk.locator(".problem")).to_contain_text("fake.jpg is not a photo")
    stop.locator("summary").click()
    stop.locator("input[type=file]").set_input_files(tmp_path / "cx2.png")
    stop.get_by_role("button", name="Add").click()
    thumb = stop.locator(".thumb img")
    expect(thumb).to_have_count(1)
    assert thumb.evaluate("image => image.complete && image.naturalWidth") == 320


def test_where_to_look_next_by_keyboard(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/new")
    desk.get_by_label("Machine", exact=True).fill("Marl Lane plotter")
    desk.get_by_label("Symptom", exact=True).fill("dead, the fuse is black inside, acrid smell")
    expect(desk.get_by_label("Dead, fuse blackened")).to_be_visible()
    desk.get_by_role("button", name="Open the case").click()
    expect(desk.locator("h1")).to_contain_text("Marl Lane plotter")
    desk.wait_for_load_state()  # the keys are listened to
    desk.keyboard.press("Escape")
    desk.keyboard.press("w")
    expect(desk.locator(".sentence")).to_contain_text("Say what it does")
    desk.locator(".suggested button").first.focus()
    desk.keyboard.press("Enter")
    pressed = desk.locator(".symptoms button", has_text="Dead, fuse blackened")
    expect(pressed).to_have_attribute("aria-pressed", "true")
    # the rest of what was typed stays, with the cursor on it
    expect(desk.locator(".suggested button", has_text="Smoke")).to_be_visible()
    expect(desk.locator(".suggested button").first).to_be_focused()
    name = desk.locator(".test-name").inner_text()
    desk.keyboard.press("n")
    expect(desk.locator(".next-test button").first).to_be_focused()
    desk.keyboard.press("Enter")
    expect(desk.locator(".test-name")).not_to_have_text(name)
    expect(desk.get_by_role("button", name="take back")).to_have_count(1)
    desk.keyboard.press("r")  # to the reading that the test asks for
    expect(desk.locator(TRAY)).to_be_focused()
    desk.keyboard.press("Escape")
    desk.keyboard.press("w")
    leader = desk.locator(".chances td").first.inner_text().split("\n")[0]
    desk.locator(".chances tr").first.get_by_role("button", name="out").click()
    expect(desk.locator(".chances tr").first).not_to_contain_text(leader)


def test_a_bridge_junction_by_junction(desk: Page) -> None:
    open_case(desk, "LW-014")
    desk.locator('.linemap a[aria-label^="BR1"]').click()
    expect(desk.locator(".bridge .junction.good")).to_have_count(4)
    lines = desk.locator(".panel .reading")
    second, count = lines.nth(1).locator("span").inner_text(), lines.count()
    lines.nth(1).get_by_role("button", name=re.compile("Strike out")).click()
    expect(lines).to_have_count(count - 1)
    expect(desk.locator(".panel s")).to_contain_text(second)
    expect(desk.locator(".bridge .junction.good")).to_have_count(3)
    expect(desk.locator(".panel .big-state")).to_contain_text("unproven")


def test_keys_theme_and_stages(desk: Page) -> None:
    open_case(desk, "LW-022")
    desk.keyboard.press("?")
    expect(desk.locator("#keys")).to_be_visible()
    desk.keyboard.press("Escape")
    expect(desk.locator("#keys")).to_be_hidden()
    desk.locator(TRAY).focus()
    desk.keyboard.press("Escape")
    theme = desk.locator("html").get_attribute("data-bs-theme")
    desk.keyboard.press("d")
    expect(desk.locator("html")).not_to_have_attribute("data-bs-theme", str(theme))
    desk.keyboard.press("Alt+6")
    expect(desk.locator("table.parts")).to_be_visible()
    desk.go_back()
    expect(desk.locator(".linemap")).to_be_visible()


@pytest.mark.parametrize(
    "view",
    [
        "",
        "/look",
        "/diagnosis",
        "/capacitors",
        "/rails",
        "/shorts",
        "/safe",
        "/recap",
        "/position",
        "/rework",
    ],
)
def test_the_page_never_scrolls_sideways(onlooker: Callable[[str], Page], view: str) -> None:
    """On a desk's screen and on a narrow one, by resizing; on a desk's nor downwards."""
    page = onlooker(f"/cases/LW-022{view}")
    assert page.evaluate("document.documentElement.scrollHeight <= innerHeight")
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    page.set_viewport_size({"width": 420, "height": 800})
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")


@pytest.mark.parametrize(
    "path", ["/parts", "/workshop", "/order", "/order/labels", "/order/bench/LW-014"]
)
def test_the_workshops_pages_never_scroll_sideways(
    onlooker: Callable[[str], Page], path: str
) -> None:
    page = onlooker(path)
    expect(page.locator(".waiting")).to_have_count(0, timeout=20_000)
    for width in (1280, 420):
        page.set_viewport_size({"width": width, "height": 800})
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), width


def test_without_script_the_forms_still_work(desk: Page, address: str) -> None:
    context = desk.context.browser
    assert context
    plain = context.new_context(java_script_enabled=False).new_page()
    plain.goto(f"{address}/cases/LW-014/capacitors")
    plain.locator("#reading").fill("205n")
    plain.locator("#reading").press("Enter")
    expect(plain.locator(".result-verdict")).to_contain_text("unproven")
    plain.context.close()
