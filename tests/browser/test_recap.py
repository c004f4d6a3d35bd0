"""From the plan to a part that is in, by keyboard; a candidate chosen; a price list taken."""

from __future__ import annotations

from playwright.sync_api import Page, expect

CASE = "LW-014"
TRAY = "[data-tray-input]"
LIST = "Part no;Type;Cap;V;Price;Price 10+\nKW9;film;100n;63;0,35;0,30\nKW10;film;100n;63;ask;\n"


def test_a_position_is_worked_by_keyboard_alone(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/{CASE}/rework")
    expect(desk.locator(".at-position h2")).to_contain_text("KW set 80/3", timeout=20_000)
    for word in ("cleared", "right way round", "not measured"):
        desk.keyboard.press("Alt+Enter")
        expect(desk.locator("#act-next")).to_have_text(f"Mark as {word}")
    expect(desk.locator(TRAY)).to_be_focused()
    expect(desk.locator(".how")).to_contain_text("below")
    desk.keyboard.type("2.9")
    desk.keyboard.press("Enter")
    expect(desk.locator(".result-verdict")).to_contain_text("failed")
    desk.keyboard.press("Alt+z")
    expect(desk.locator(".new-reads")).to_have_count(0)
    desk.keyboard.type("0.33")
    desk.keyboard.press("Enter")
    expect(desk.locator(".new-reads")).to_contain_text("0.33")
    desk.keyboard.type("46u")
    desk.keyboard.press("Enter")
    expect(desk.locator(".new-reads")).to_contain_text("46")
    expect(desk.locator(".result-text")).to_contain_text("Fit it")
    expect(desk.locator("#act-next")).to_have_text("Mark as measured")
    for word in ("fitted", "looked at"):
        desk.keyboard.press("Alt+Enter")
        expect(desk.locator("#act-next")).to_have_text(f"Mark as {word}")
    desk.keyboard.press("Alt+Enter")
    expect(desk.locator(".work-strip .done")).to_contain_text("C2")
    expect(desk.locator(".at-position h2")).to_contain_text("F1")


def test_a_candidate_is_chosen_and_the_order_follows(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/{CASE}/recap")
    expect(desk.locator(".plan-total b")).to_contain_text("EUR", timeout=20_000)
    before = desk.locator(".plan-total b").inner_text()
    desk.get_by_role("link", name="C13", exact=True).click()
    desk.get_by_label("Greatest diameter, mm").fill("17")
    desk.get_by_role("button", name="Save", exact=True).first.press("Enter")
    expect(desk.locator(".candidates caption")).to_contain_text("2 with something to mind")
    choose = desk.get_by_role("button", name="Choose KW 1000/25")
    choose.press("Enter")
    expect(desk.get_by_role("button", name="Leave it to the order again")).to_be_visible()
    desk.get_by_role("link", name="Recap plan").click()
    expect(desk.locator(".recap", has_text="KW 1000/25")).to_be_visible(timeout=20_000)
    expect(desk.locator(".plan-total b")).not_to_have_text(before)


def test_a_price_list_is_looked_at_corrected_and_taken(desk: Page, address: str) -> None:
    desk.goto(f"{address}/parts")
    upload = {"name": "list.csv", "mimeType": "text/csv", "buffer": LIST.encode()}
    desk.get_by_label("Of", exact=True).select_option("Kettlewick Surplus")
    desk.locator("#list-file").set_input_files(upload)  # type: ignore[arg-type]
    desk.get_by_role("button", name="Look at it").press("Enter")
    expect(desk.locator("#looked")).to_contain_text("1 of 2 rows are understood")
    expect(desk.locator("#looked")).to_contain_text("no price")
    desk.locator("#looked select[name=sku]").select_option("")
    desk.get_by_role("button", name="Take 1 rows").press("Enter")
    expect(desk.locator("#looked [role=alert]")).to_contain_text(
        "Say which column has the part number"
    )
    desk.locator("#looked select[name=sku]").select_option("Part no")
    desk.get_by_role("button", name="Read it this way").press("Enter")
    desk.get_by_role("button", name="Take 1 rows").press("Enter")
    expect(desk.locator("#prices")).to_contain_text("list.csv")
    expect(desk.locator("#looked")).to_have_count(0)
