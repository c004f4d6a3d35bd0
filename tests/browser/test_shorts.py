"""The short trace by keyboard: from a low rail to the part, and a map drawn by hand."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from hale_rail.demo.boards import Etched

CASE = "LW-022"
TRAY = "[data-tray-input]"


def test_from_a_low_rail_to_the_part_without_the_mouse(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/{CASE}/shorts")
    expect(desk.locator(TRAY)).to_be_focused()
    desk.keyboard.press("Alt+g")
    expect(desk.locator(".verdict-line")).to_contain_text("The short is in Main board")
    desk.keyboard.press("Alt+g")
    expect(desk.locator("h2", has_text="Trace +12 V")).to_be_visible()
    etched = Etched(CASE)
    for _ in range(8):
        line = desk.locator(".verdict-line")
        expect(line).to_have_text(re.compile("Drop from|Lift one"), timeout=20_000)
        words = line.inner_text()
        if "Lift" in words:
            break
        asked = re.search(
            r"pad (\S+) \(\+\) to (\S+) \(−\), (\S+)\sA in at (\S+), out at ([^:\s]+)", words
        )
        assert asked, words
        plus, minus, amps, inject, drain = asked.groups()
        expect(desk.locator(".probe")).to_contain_text(f"{plus} (+) to {minus} (−)")
        expect(desk.locator(TRAY)).to_be_focused()
        desk.keyboard.type(etched.drop(plus, minus, inject, drain, float(amps)))
        desk.keyboard.press("Enter")
        expect(line).not_to_have_text(words, timeout=20_000)
    expect(desk.locator(".verdict-line")).to_contain_text("Lift one leg of C60#2")
    expect(desk.locator(".probe")).to_contain_text("Lift C60#2")
    expect(desk.locator(TRAY)).to_be_focused()
    desk.keyboard.type("2k6")
    desk.keyboard.press("Enter")
    expect(desk.locator(".closing h3")).to_contain_text("C60#2 shorts +12 V")
    desk.get_by_role("button", name="Put C60 on the recap list").focus()
    desk.keyboard.press("Enter")
    expect(desk.locator("body")).to_contain_text("it shorted +12 V")


def test_a_board_is_zoomed_and_its_readings_stepped_by_keys(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/{CASE}/trace")
    board = desk.locator("[data-board] svg")
    expect(desk.locator(".verdict-line")).to_contain_text("Drop from", timeout=20_000)
    whole = board.get_attribute("viewBox")
    desk.keyboard.press("Escape")
    desk.keyboard.press("+")
    expect(board).not_to_have_attribute("viewBox", whole or "")
    desk.keyboard.press("ArrowRight")
    desk.keyboard.press("0")
    box = [float(v) for v in (board.get_attribute("viewBox") or "").split()]
    assert box == [float(v) for v in (whole or "").split()]
    desk.keyboard.press("[")
    expect(desk.locator(".steps .count")).to_contain_text("0 of 1")
    desk.keyboard.press("]")
    expect(desk.locator(".steps .count")).to_contain_text("1 of 1")


def test_a_map_is_drawn_by_keyboard_undone_and_there_after_a_reload(
    desk: Page, address: str
) -> None:
    desk.goto(f"{address}/cases/{CASE}/map?by=%2B5%20V")
    stage = desk.locator("[data-stage]")
    expect(stage.locator("svg")).to_be_visible()
    stage.focus()
    for _ in range(3):
        desk.keyboard.press("Enter")
        desk.keyboard.press("Enter")
        desk.keyboard.press("Shift+ArrowRight")
    pads = stage.locator(".pad")
    expect(pads).to_have_count(3)
    expect(desk.locator("[data-loose]")).to_have_text("2 pads hang on nothing")
    desk.keyboard.press("s")
    for _ in range(3):
        desk.keyboard.press("Tab")
        desk.keyboard.press("Enter")
    expect(stage.locator(".copper")).to_have_count(2)
    expect(desk.locator("[data-loose]")).to_have_text("")
    desk.keyboard.type("2.5")
    desk.keyboard.press("Enter")
    expect(stage.locator(".copper-width")).to_have_text("2.5 mm")
    desk.keyboard.press("Escape")
    desk.keyboard.press("c")
    desk.keyboard.press("Tab")
    desk.keyboard.press("Enter")
    part = desk.locator("[data-field=new-part]")
    expect(part).to_be_focused()
    desk.keyboard.type("C20")
    desk.keyboard.press("Enter")
    expect(stage.locator(".part-name")).to_have_text("C20")
    expect(desk.locator("[data-state]")).to_have_text("kept")
    stage.focus()
    desk.keyboard.press("Control+z")
    expect(stage.locator(".part-name")).to_have_count(0)
    desk.keyboard.press("Control+y")
    expect(stage.locator(".part-name")).to_have_text("C20")
    expect(desk.locator("[data-state]")).to_have_text("kept")
    desk.reload()
    expect(stage.locator(".pad")).to_have_count(3)
    expect(stage.locator(".copper")).to_have_count(2)
    expect(stage.locator(".part-name")).to_have_text("C20")


def test_what_the_server_did_not_take_is_there_after_a_reload(page: Page, address: str) -> None:
    page.goto(f"{address}/cases/{CASE}/map?by=%2B5%20V")
    stage = page.locator("[data-stage]")
    expect(stage.locator("svg")).to_be_visible()
    page.route("**/do/map", lambda route: route.abort())
    stage.click(position={"x": 300, "y": 150})
    expect(stage.locator(".pad")).to_have_count(1)
    expect(page.locator("[data-state]")).to_contain_text("cannot be reached")
    page.unroute("**/do/map")
    page.reload()
    expect(stage.locator(".pad")).to_have_count(1)
    expect(page.locator("[data-state]")).to_have_text("kept")
