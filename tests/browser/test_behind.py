"""A board behind the supply by keyboard: from *runs, but dead* to the part and its report."""

from __future__ import annotations

from playwright.sync_api import Page, expect

TRAY = "[data-tray-input]"
BOARD = """rail +12 1A
rail -5 0.1A
U11 processor 40 reset low
U2 clock
X1 4.000 MHz
U3 reset generator
U20..U27 memory bank 0 bits 0-7 +5 +12 -5
U28 rom 24"""
#: what the tray asks, what is typed, what is said of it
WALK = (
    ("U11 VCC", "5.01", "right at U11"),
    ("U11 CLK", "d", "processor is not to blame"),
    ("U11 RESET", "lh", "held, then let go"),
    ("U20 V+5", "5", "right at U20"),
    ("U20 V+12", "12.1", "right at U20"),
    ("U20 V-5", "-5.0", "right at U20"),
    ("U2 VCC", "4.98", "right at U2"),
    ("U2 OUT", "d", "crystal"),
    ("X1", "substituted proven on the other board gone", "or its contact"),
    ("X1", "put back back", "X1 is bad"),
)


def open_board(desk: Page, address: str) -> str:
    desk.goto(f"{address}/cases/new")
    desk.get_by_label("DC-fed").first.check()
    desk.get_by_label("Machine", exact=True).fill("Marl Lane computer")
    desk.get_by_label("Symptom", exact=True).fill("runs, but nothing comes up")
    desk.get_by_role("button", name="Open the case").press("Enter")
    expect(desk.locator("h1")).to_contain_text("Marl Lane computer")
    case = f"{address}/cases/{desk.url.split('/cases/')[1].split('/')[0].split('?')[0]}"
    desk.goto(f"{case}/intake")
    desk.locator("[name=parts]").fill(BOARD)
    desk.get_by_role("button", name="Preview").press("Enter")
    expect(desk.locator("form[action$='/parts']")).to_contain_text("U28 chip ROM on +5 V 24 pins")
    desk.get_by_role("button", name="Add 15 to the sheet").press("Enter")
    expect(desk.locator(".parts-map, .board, svg").first).to_be_visible()
    return case


def test_from_dead_though_its_supply_runs_to_the_crystal(desk: Page, address: str) -> None:
    case = open_board(desk, address)
    desk.goto(f"{case}/machine")
    expect(desk.locator(".middle")).to_contain_text("may mean: dead, though its supply runs")
    desk.get_by_role("button", name="dead, though its supply runs").press("Enter")
    expect(desk.locator(".first-looks li")).to_have_count(3)
    for asks, typed, says in WALK:
        expect(desk.locator(".probe")).to_contain_text(asks)
        desk.locator(TRAY).focus()
        desk.keyboard.type(typed)
        desk.keyboard.press("Enter")
        expect(desk.locator(".tray-result")).to_contain_text(says)
    expect(desk.locator(".next-look")).to_contain_text("Fit a good one in place of X1")
    expect(desk.locator(".chain .proven")).to_have_count(1)
    desk.goto(f"{case}/report")
    expect(desk.locator(".report")).to_contain_text("X1 was bad: the fault came back with it")


def test_a_letter_is_pressed_a_wrong_one_is_told_and_the_next_dead_one_asks_first(
    desk: Page, address: str
) -> None:
    desk.goto(f"{address}/cases/LW-027/machine")
    desk.get_by_role("link", name="U8, video").press("Enter")
    desk.locator(".panel").get_by_role("link", name="CLK").press("Enter")
    expect(desk.locator(".probe")).to_contain_text("U8 CLK")
    desk.keyboard.type("hlh")
    desk.keyboard.press("Enter")
    expect(desk.locator("#echo")).to_contain_text("“hlh”: write volts, or l steady low")
    desk.locator(".letters").get_by_role("button", name="p pulsing").press("Enter")
    expect(desk.locator(".middle")).to_contain_text("The clock runs here.")
    expect(desk.locator(".guard")).to_contain_text("First: is it dead?")
