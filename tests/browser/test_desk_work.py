"""The workshop, handing back and the sheet, by keyboard, with wrong input at each."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.sizes import sampled


def press(desk: Page, name: str) -> None:
    """Reach a button as the keyboard does, and press it."""
    button = desk.get_by_role("button", name=name, exact=True).first
    button.focus()
    desk.keyboard.press("Enter")


def test_a_list_of_the_workshop_is_edited_by_keyboard(desk: Page, address: str) -> None:
    desk.goto(f"{address}/workshop")
    desk.locator("#resistors").get_by_role("link", name="Add one").focus()
    desk.keyboard.press("Enter")
    expect(desk.locator("#resistors input[name=ohms]")).to_be_focused()
    for text in ("33k", "ten", "film", "500"):
        desk.keyboard.type(text)
        desk.keyboard.press("Tab")
    press(desk, "Add it")
    expect(desk.locator("#resistors .problem")).to_contain_text("ten")
    expect(desk.locator("#resistors .problem")).to_be_in_viewport()
    expect(desk.locator("#resistors input[name=ohms]")).to_have_value("33k")
    desk.locator("#resistors input[name=watts]").fill("10")
    press(desk, "Add it")
    expect(desk.locator("#resistors .problem")).to_have_count(0)
    expect(desk.locator("#resistors tbody tr").last).to_contain_text("33000")


def test_a_list_goes_out_and_comes_in_as_csv(desk: Page, address: str, tmp_path: Path) -> None:
    desk.goto(f"{address}/workshop")
    with desk.expect_download() as download:
        desk.locator("#resistors").get_by_role("link", name="Export CSV").click()
    kept = tmp_path / "resistors.csv"
    download.value.save_as(kept)
    lines = kept.read_text(encoding="utf-8").splitlines()
    assert lines[0] == "ohms,watts,kind,max_volts,qty"
    kept.write_text("\n".join([*lines[:2], "150,50,wirewound,400"]), encoding="utf-8")
    desk.locator("#resistors summary").click()
    desk.locator("#resistors-file").set_input_files(kept)
    desk.locator("#resistors").get_by_role("button", name="Import", exact=True).click()
    row = desk.locator("#resistors tbody tr").nth(1)
    expect(row).to_contain_text("150")
    (tmp_path / "other.csv").write_text("name,age\nx,1\n", encoding="utf-8")
    desk.locator("#resistors summary").click()
    desk.locator("#resistors-file").set_input_files(tmp_path / "other.csv")
    desk.locator("#resistors").get_by_role("button", name="Import", exact=True).click()
    expect(desk.locator("#resistors .problem")).to_be_visible()
    expect(row).to_contain_text("150")


def test_a_case_is_handed_back_by_keyboard_and_its_report_stays(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/LW-009")
    desk.keyboard.press("Escape")
    desk.keyboard.press("Alt+=")
    expect(desk.locator("h2", has_text="Hand back")).to_be_visible()
    press(desk, "Issue the report and hand back")
    expect(desk.locator(".middle .problem")).to_contain_text("how it goes back")
    desk.get_by_label("repaired", exact=True).focus()
    desk.keyboard.press("Space")
    press(desk, "Issue the report and hand back")
    expect(desk.locator(".alert-success")).to_contain_text("repaired")
    desk.goto(f"{address}/cases/LW-009/report")
    expect(desk.locator(".report")).to_contain_text("handed back")
    before = desk.locator(".report").inner_text()
    desk.goto(f"{address}/cases/LW-009/hand-back")
    press(desk, "Take back to the bench")
    expect(desk.get_by_role("button", name="Issue the report and hand back")).to_be_visible()
    desk.locator("a", has_text=re.compile(r"^\d{4}-\d\d-\d\d \d\d:\d\d$")).first.click()
    expect(desk.locator(".report")).to_be_visible()
    assert desk.locator(".report").inner_text() == before
    desk.goto(f"{address}/?kept=back")
    expect(desk.locator(".case-line", has_text="LW-009")).to_have_count(0)


def test_a_part_is_corrected_from_its_panel_by_keyboard(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/LW-014")
    station = desk.locator('.linemap a[aria-label^="C14,"]')
    station.focus()
    desk.keyboard.press("Enter")
    expect(desk.locator(".panel h2")).to_contain_text("C14")
    fold = desk.locator("details.correct summary")
    fold.focus()
    desk.keyboard.press("Enter")
    field = desk.locator("details.correct input[name=text]")
    was = field.input_value()
    field.fill("680 ells")
    desk.keyboard.press("Enter")
    expect(desk.locator("#correct-problem")).to_be_visible()
    expect(field).to_have_value("680 ells")
    expect(field).to_be_focused()
    field.fill(was.replace("470u", "680u"))
    desk.keyboard.press("Enter")
    expect(desk.locator(".panel .marked")).to_contain_text("680")
    expect(desk.locator(".linemap")).to_contain_text("680")


def test_a_fold_of_the_panel_decides_a_part_by_keyboard(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/LW-014")
    desk.locator('.linemap a[aria-label^="C14,"]').focus()
    desk.keyboard.press("Enter")
    expect(desk.locator(".panel h2")).to_contain_text("C14")
    desk.locator("details.decide summary").focus()
    desk.keyboard.press("Enter")
    press(desk, "Leave it out")
    problem = desk.locator("details.decide .invalid-feedback")
    expect(problem).to_contain_text("Write why")
    desk.locator("details.decide input[name=reason]").fill("no part at hand")
    press(desk, "Leave it out")
    expect(desk.locator(".panel .decision")).to_contain_text("no part at hand")


@pytest.mark.parametrize(
    ("view", "button", "field", "typed"),
    sampled(
        [
            ("/cases/LW-014/intake", "Save the unit", "year", "last year"),
            ("/workshop", "Save", "hours_a_day", "25"),
            ("/cases/LW-014/harness", "Plan the harness", "length", "far"),
        ],
        3,
    ),
)
def test_a_refused_press_says_why_in_view_with_the_cursor_in_its_field(
    desk: Page, address: str, view: str, button: str, field: str, typed: str
) -> None:
    desk.set_viewport_size({"width": 1000, "height": 420})
    desk.goto(f"{address}{view}")
    at = desk.locator(f"form:has(button:text-is('{button}')) [name={field}]").first
    at.fill(typed)
    at.locator("xpath=ancestor::form").get_by_role("button", name=button, exact=True).press("Enter")
    told = desk.locator("main .invalid-feedback").first
    expect(told).to_be_in_viewport(ratio=1)
    expect(desk.locator(f"main [name={field}][aria-invalid=true]")).to_be_focused()
    expect(desk.locator(f"main [name={field}][aria-invalid=true]")).to_have_value(typed)
