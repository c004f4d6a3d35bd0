"""The short trace by keyboard: from a low rail to the part, and a map drawn by hand."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from larkmoor.boards import Etched

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
    expect(desk.locator(".probe")).to_contain_text("Read C60#2 rail to ground, its leg lifted")
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
    before = stage.bounding_box()
    for _ in range(3):
        desk.keyboard.press("Enter")
        desk.keyboard.press("Shift+ArrowRight")
    pads = stage.locator(".pad")
    expect(pads).to_have_count(3)
    expect(desk.locator("[data-state]")).to_have_text("kept")
    assert stage.bounding_box() == before, "the board stays under the hand when it is kept"
    expect(desk.locator("[data-count]")).to_have_text("3 pads, 0 parts")
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


def test_a_map_is_drawn_by_mouse_on_both_nets_and_scaled(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/{CASE}/map?by=%2B5%20V")
    stage = desk.locator("[data-stage]")
    expect(stage.locator("svg")).to_be_visible()
    box = stage.bounding_box()
    for x in (300, 380, 460):
        stage.click(position={"x": x, "y": 150})
    expect(stage.locator(".pad.rail")).to_have_count(3)
    # what is told to have arrived does not move the board under the hand
    expect(desk.locator(".arrived")).to_contain_text("Map of +5 V")
    assert stage.bounding_box() == box
    # a press on a pad chooses it, a drag moves the view, and neither places another
    stage.click(position={"x": 300, "y": 150})
    expect(stage.locator(".tip-pad")).to_have_text("p1")
    before = stage.locator("svg").get_attribute("viewBox")
    desk.mouse.move(600, 300)
    desk.mouse.down()
    desk.mouse.move(680, 340, steps=4)
    desk.mouse.up()
    expect(stage.locator("svg")).not_to_have_attribute("viewBox", before or "")
    expect(stage.locator(".pad")).to_have_count(3)
    desk.get_by_role("button", name="fit").click()
    desk.locator("[data-field=ground]").select_option("net")
    desk.locator("[data-field=net]").select_option("ground")
    desk.locator("[data-mode=pad]").click()
    for x in (300, 460):
        stage.click(position={"x": x, "y": 260})
    expect(stage.locator(".pad.ground")).to_have_count(2)
    # a segment joins pads of one net only
    desk.locator("[data-mode=segment]").click()
    stage.click(position={"x": 300, "y": 150})
    stage.click(position={"x": 300, "y": 260})
    expect(desk.locator("[data-hint]")).to_contain_text("two pads of one net")
    stage.click(position={"x": 380, "y": 150})
    expect(stage.locator(".copper.rail")).to_have_count(1)
    desk.keyboard.type("4.7m")
    desk.keyboard.press("Enter")
    expect(stage.locator(".copper-width")).to_have_text("4.7 mΩ")
    desk.keyboard.press("Delete")
    expect(stage.locator(".copper.rail")).to_have_count(0)
    desk.locator("[data-mode=part]").click()
    stage.click(position={"x": 460, "y": 150})
    desk.locator("[data-field=new-part]").fill("C20")
    desk.keyboard.press("Enter")
    ground = desk.locator("[data-field=part-ground]")
    expect(ground).to_have_value("g2")
    desk.locator("[data-field=part-prior]").fill("7")
    desk.locator("[data-field=part-prior]").press("Enter")
    expect(desk.locator("[data-state]")).to_have_text("kept")
    # what the server cannot take is told and stays drawn
    desk.locator("[data-field=part-ground]").fill("nowhere")
    desk.locator("[data-field=part-ground]").press("Enter")
    expect(desk.locator("[data-state]")).to_contain_text("“nowhere” is not a pad of the ground")
    expect(stage.locator(".part-name")).to_have_text("C20")
    desk.get_by_role("button", name="undo").click()
    expect(desk.locator("[data-state]")).to_have_text("kept")
    desk.locator("[data-field=ground]").select_option("ideal")
    expect(stage.locator(".pad.ground")).to_have_count(0)
    expect(desk.locator("[data-state]")).to_have_text("kept")


def test_two_points_of_known_distance_scale_the_photo(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/{CASE}/map?by=%2B12%20V")
    photo = desk.locator("[data-stage] svg g[transform]")
    expect(photo).to_have_count(1)
    before = photo.get_attribute("transform") or ""
    desk.locator("[data-mode=measure]").click()
    stage = desk.locator("[data-stage]")
    stage.click(position={"x": 300, "y": 200})
    stage.click(position={"x": 500, "y": 200})
    expect(stage.locator(".measured")).to_have_count(2)
    desk.keyboard.type("300")
    desk.keyboard.press("Enter")
    expect(photo).not_to_have_attribute("transform", before)
    slider = desk.locator("[data-field=opacity]")
    slider.fill("0.9")
    expect(desk.locator("[data-stage] svg g[opacity='0.9']")).to_have_count(1)
    expect(desk.locator("[data-state]")).to_have_text("kept")


def test_items_are_taken_off_and_put_back_by_keyboard(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/LW-038/isolate?by=%2B5%20V")
    expect(desk.locator(".how")).to_contain_text("with supply, P1, Main board attached")
    desk.keyboard.type("0.3")
    desk.keyboard.press("Enter")
    expect(desk.locator(".tree .ring")).to_have_count(1)
    expect(desk.locator(".verdict-line")).to_contain_text("min")
    item = desk.locator("a[data-item]", has_text="Main board")
    item.focus()
    desk.keyboard.press("Enter")
    expect(desk.locator("a[data-item][aria-label^='Attach Main board']")).to_have_count(1)
    expect(desk.locator(".how")).to_contain_text("attached")
    expect(desk.locator(TRAY)).to_be_focused()
    desk.keyboard.type("0.3")
    desk.keyboard.press("Enter")
    expect(desk.locator("td.num", has_text="0.3")).to_have_count(2)
    expect(desk.locator("a[data-item]", has_text="Main board")).to_contain_text("<1\u00a0%")


@pytest.mark.exhaustive
def test_what_was_drawn_before_another_tab_changed_the_map_can_be_had_back(
    page: Page, address: str
) -> None:
    page.goto(f"{address}/cases/{CASE}/map?by=%2B5%20V")
    stage = page.locator("[data-stage]")
    expect(stage.locator("svg")).to_be_visible()
    other = page.context.new_page()
    other.goto(f"{address}/cases/{CASE}/map?by=%2B5%20V")
    expect(other.locator("[data-stage] svg")).to_be_visible()
    other.locator("[data-stage]").click(position={"x": 500, "y": 250})
    expect(other.locator("[data-state]")).to_have_text("kept")
    for x in (300, 380):
        stage.click(position={"x": x, "y": 150})
    expect(page.locator("[data-state]")).to_contain_text("Another tab")
    page.reload()
    expect(stage.locator(".pad")).to_have_count(1)
    expect(page.locator("[data-hint]")).to_contain_text("still kept")
    page.get_by_role("button", name="mine").click()
    expect(stage.locator(".pad")).to_have_count(2)
    expect(page.locator("[data-state]")).to_have_text("kept")
    page.reload()
    expect(stage.locator(".pad")).to_have_count(2)
    expect(page.get_by_role("button", name="mine")).to_be_hidden()
