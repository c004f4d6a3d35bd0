"""The end of the work by keyboard: a harness, a list walked, a soak row, the way out."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

TRAY = "[data-tray-input]"
SOURCE = "rail_v,amps,conductors,awg,pin_amps\n5,9,2,18,6\n0,,2,18,6"
TARGET = "pin,kind,rail_v,amps\n1,rail,5,2\n2,rail,,"


def open_unit(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/new")
    desk.get_by_label("DC-fed").first.check()
    desk.get_by_label("Machine", exact=True).fill("A board of my own")
    desk.get_by_label("Symptom", exact=True).fill("supply missing")
    desk.get_by_role("button", name="Open the case").click()
    expect(desk.locator("h1")).to_contain_text("A board of my own")


def test_a_harness_is_planned_and_every_pin_read_by_keyboard(desk: Page, address: str) -> None:
    open_unit(desk, address)
    desk.get_by_role("link", name="In the machine").click()
    desk.get_by_role("link", name="Harness").click()
    desk.get_by_text("Paste rows").click()
    desk.locator("[name=source]").fill(SOURCE)
    desk.locator("[name=target]").fill(TARGET)
    desk.get_by_role("button", name="Plan the harness").press("Enter")
    expect(desk.locator(".invalid-feedback")).to_contain_text("row 2: rail_v is needed")
    expect(desk.locator(".list .problem")).to_contain_text("row 2: “Rail, V” is needed")
    desk.get_by_role("button", name="Edit pin 2").press("Enter")
    expect(desk.get_by_label("Pin", exact=True)).to_be_focused()
    desk.locator("[name=row-kind]").select_option("ground")
    desk.get_by_label("Draws, A").press("Enter")
    expect(desk.get_by_role("button", name="Edit pin 2")).to_be_focused()
    desk.get_by_role("button", name="Plan the harness").press("Enter")
    expect(desk.locator(".harness")).to_contain_text("17 mV")
    for text in ("5.03", "0.01"):
        expect(desk.locator(TRAY)).to_be_focused()
        desk.keyboard.type(text)
        desk.keyboard.press("Enter")
        expect(desk.locator(".result-verdict")).to_contain_text("right")
    expect(desk.locator(".verdict-line")).to_contain_text("may be connected")
    expect(desk.locator(".energy-link")).to_contain_text("live")


def test_a_list_is_walked_by_one_key_and_a_soak_row_kept(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/LW-038/continuity")
    desk.get_by_text("Take a list in").click()
    desk.get_by_label("Name of the list").fill("Bus")
    desk.get_by_label("Board and its revision", exact=True).fill("Board, marked C")
    desk.get_by_label("Pairs:", exact=False).fill("one,other,joined\nA1,B1,\nA1,B2,no")
    desk.get_by_role("button", name="Take it in").click()
    expect(desk.locator(".joints")).to_contain_text("B2")
    desk.keyboard.press("Alt+Enter")  # it beeps, as it should: one key
    expect(desk.locator(".verdict-line")).to_contain_text("they should not connect")
    desk.locator(TRAY).fill("0.3")
    desk.keyboard.press("Enter")
    expect(desk.locator(".result-verdict")).to_be_visible()
    expect(desk.locator(".results")).to_contain_text("connected, should not be")
    desk.get_by_role("button", name="fault cleared").click()
    expect(desk.locator(".verdict-line")).to_contain_text("as it should be, or dealt with")
    desk.get_by_role("link", name="Soak").click()
    desk.locator("#row-volts-0").fill("5.02")
    desk.keyboard.press("Enter")
    expect(desk.locator(".soak-rail")).to_contain_text("too short")
    desk.goto(f"{address}/cases/LW-038/report")
    expect(desk.locator(".report")).to_contain_text("What stays open")
    with desk.expect_download() as loading:
        desk.goto(f"{address}/cases/LW-038/hand-back")
        desk.get_by_role("link", name="Whole case (ZIP)").click()
    assert loading.value.suggested_filename == "LW-038.zip"


@pytest.mark.own_page
def test_a_report_that_is_asked_for_to_be_printed_is_there_whole_first(
    desk: Page, address: str
) -> None:
    desk.add_init_script("window.print = () => { window.printed = document.readyState; };")
    desk.goto(f"{address}/cases/LW-014/report?whole=1#print")
    desk.wait_for_function("window.printed === 'complete'")
    desk.goto(f"{address}/cases/LW-009/report")
    assert desk.evaluate("window.printed") is None
    desk.get_by_role("button", name="Print").click()
    assert desk.evaluate("window.printed") == "complete"
