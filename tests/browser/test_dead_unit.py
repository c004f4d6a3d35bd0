"""A dead unit from intake to report by keyboard, and what keeps the hands on the keys."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

TRAY = "[data-tray-input]"


def type_reading(desk: Page, text: str) -> None:
    expect(desk.locator(TRAY)).to_be_focused()
    desk.keyboard.type(text)
    desk.keyboard.press("Enter")


def press(desk: Page, name: str | re.Pattern[str]) -> None:
    desk.get_by_role("button", name=name).first.focus()
    desk.keyboard.press("Enter")


def read_next(desk: Page, page: str, part: str, reading: str) -> None:
    """Follow the link of the next test to its point, and type what is read there."""
    desk.goto(page)
    desk.locator(".next-test a", has_text=f"Read {part}").focus()
    desk.keyboard.press("Enter")
    expect(desk.locator(".probe")).to_contain_text(part)
    type_reading(desk, reading)
    expect(desk.locator(".result-text")).to_contain_text(part)


def test_from_a_black_fuse_to_the_report_with_a_proven_bridge(desk: Page, address: str) -> None:
    desk.goto(address)
    desk.get_by_role("link", name="New case").focus()
    desk.keyboard.press("Enter")
    expect(desk.get_by_label("Machine", exact=True)).to_be_focused()
    desk.keyboard.type("Marl Lane plotter")
    desk.keyboard.press("Tab")
    desk.keyboard.type("1984")
    desk.keyboard.press("Tab")
    desk.keyboard.type("dead, the fuse is black")
    expect(desk.get_by_label("Dead, fuse blackened")).to_be_visible()
    desk.keyboard.press("Tab")
    desk.keyboard.press("Space")
    press(desk, "Open the case")
    expect(desk.locator("h1")).to_contain_text("Marl Lane plotter")
    number = desk.url.split("/cases/")[1].split("/")[0].split("?")[0]
    desk.goto(f"{address}/cases/{number}/safe")
    press(desk, "Log: plug out")
    for _ in range(12):
        if desk.locator(".case-head .energy.dead").count():
            break
        stands = desk.locator(".probe").inner_text()
        type_reading(desk, "0.3")
        expect(desk.locator(".probe")).not_to_have_text(stands)
    expect(desk.locator(".case-head .energy")).to_contain_text("dead")
    desk.goto(f"{address}/cases/{number}/diagnosis")
    expect(desk.locator(".next-test")).to_contain_text("ohms across the bulk")
    read_next(desk, f"{address}/cases/{number}/diagnosis", "C1", "12k")
    desk.goto(f"{address}/cases/{number}/diagnosis")
    while "bridge" not in (name := desk.locator(".test-name").inner_text()):
        # what is asked before the bridge is found sound, and said by hand
        desk.locator(".next-test form button").last.focus()
        desk.keyboard.press("Enter")
        expect(desk.locator(".test-name")).not_to_have_text(name)
    for _ in range(2):
        read_next(desk, f"{address}/cases/{number}/diagnosis", "BR1", "short")
    expect(desk.locator(".result-verdict")).to_contain_text("failed")
    desk.goto(f"{address}/cases/{number}/diagnosis")
    expect(desk.locator(".sentence")).to_contain_text("It is BR1 shorted")
    expect(desk.locator(".alert", has_text="First:")).to_contain_text("Replace BR1")
    desk.goto(f"{address}/cases/{number}/recap")
    expect(desk.locator(".others")).to_contain_text("BR1")
    press(desk, "Mark BR1 as fitted")
    expect(desk.locator(".others")).to_contain_text("replaced")
    desk.goto(f"{address}/cases/{number}/report")
    row = desk.locator("tr", has_text="BR1")
    expect(row.first).to_contain_text("before: ")
    expect(row.first).to_contain_text("after: not read")


def test_the_round_has_one_stop_a_part_and_the_rest_is_sound_at_once(
    desk: Page, address: str
) -> None:
    desk.goto(f"{address}/cases/LW-014/look")
    stops = desk.locator("[data-stop]")
    inside = desk.locator("[data-stop] :is(a, button, summary, input:not([type=hidden]))")
    expect(inside.first).to_have_attribute("tabindex", re.compile("-1|0"))
    reached = inside.evaluate_all("all => all.filter(one => one.tabIndex === 0).length")
    assert reached == stops.count()
    unseen = desk.locator("[data-stop]:not(.looked)").first
    unseen.locator("button[name=codes]").first.focus()
    desk.keyboard.press("ArrowRight")
    desk.keyboard.press("ArrowRight")
    desk.keyboard.press("ArrowLeft")
    expect(unseen.locator("button[name=codes]").nth(1)).to_be_focused()
    desk.keyboard.press("ArrowDown")
    focused = desk.locator("[data-stop]:focus-within")
    expect(focused).to_have_count(1)
    assert (
        stops.evaluate_all("all => all.findIndex(one => one.matches(':focus-within'))")
        == stops.evaluate_all("all => all.findIndex(one => !one.matches('.looked'))") + 1
    )
    press(desk, re.compile("The rest looks sound"))
    expect(desk.locator("[data-stop]:not(.looked)")).to_have_count(0)
    expect(desk.locator("#rest-sound")).to_have_count(0)


def test_what_was_typed_survives_a_reload_and_escape_frees_the_keys(
    desk: Page, address: str
) -> None:
    desk.goto(f"{address}/cases/LW-014/intake")
    field = desk.get_by_label("Done before")
    field.focus()
    desk.keyboard.type(" And a new mains lead")
    desk.keyboard.press("Escape")
    desk.reload()
    expect(field).to_have_value(re.compile("And a new mains lead"))
    desk.keyboard.press("w")
    expect(desk).to_have_url(re.compile("diagnosis"))
    desk.goto(f"{address}/cases/LW-014/intake")
    with desk.expect_response("**/do/edit"):
        press(desk, "Save")
    desk.goto(f"{address}/cases/LW-014/log")
    expect(desk.locator(".log")).to_contain_text("And a new mains lead")


def test_after_fitting_the_focus_stays_in_the_list(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/LW-014/recap")
    buttons = desk.locator("[data-presses] button")
    second = buttons.nth(1).get_attribute("id")
    buttons.first.focus()
    desk.keyboard.press("Enter")
    expect(desk.locator(f"#{second}")).to_be_focused()
