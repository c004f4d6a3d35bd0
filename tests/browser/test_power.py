"""First power by keyboard, the trimmer's live figure, and the ripple lab by mouse and keys."""

from __future__ import annotations

import math
import re

from playwright.sync_api import Page, expect

TRAY = "[data-tray-input]"
ROWS = "".join(f"{i * 1e-6:.6f},{5 + 0.03 * math.sin(i / 3):.4f}\n" for i in range(4000))


def open_case(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/new")
    desk.get_by_label("WL-80").first.check()
    desk.get_by_label("Machine", exact=True).fill("Bench unit")
    desk.get_by_label("Symptom", exact=True).fill("never powered since the recap")
    desk.get_by_role("button", name="Open the case").click()
    expect(desk.locator("h1")).to_contain_text("Bench unit")
    desk.keyboard.press("Escape")
    desk.get_by_role("link", name="First power").click()


def type_rails(desk: Page, *volts: str) -> None:
    for text in volts:
        expect(desk.locator(TRAY)).to_be_focused()
        desk.keyboard.type(text)
        desk.keyboard.press("Enter")
        expect(desk.locator(".watch")).to_contain_text(text.lstrip("-"))


def test_first_power_is_walked_and_stopped_by_keyboard_alone(desk: Page, address: str) -> None:
    open_case(desk, address)
    expect(desk.locator(".hookup")).to_contain_text("lamp 150")
    desk.keyboard.press("Alt+Enter")
    reason = desk.get_by_label("Why go on without")
    expect(desk.locator(".power-middle [role=alert]").first).to_contain_text("Unread: F1")
    reason.focus()
    desk.keyboard.type("read at the bench before, on paper")
    desk.keyboard.press("Enter")
    expect(desk.locator(".energy-link")).to_contain_text("live")
    type_rails(desk, "5.02", "12.1", "-11.9", "-5.03")
    expect(desk.locator("#act-next")).to_have_text("Plug out, step done")
    desk.keyboard.press("Alt+Enter")
    expect(desk.locator(".step-done")).to_contain_text("5.02")
    expect(desk.locator(".power-middle h2")).to_have_text("Supply alone, on the mains")
    desk.keyboard.press("Alt+Enter")
    type_rails(desk, "5.01", "12.2", "-11.8")  # the same points, again
    expect(desk.locator(".tray-walk .count")).to_have_text("3/4")
    type_rails(desk, "-5.04")
    expect(desk.locator("#act-next")).to_have_text("Plug out, step done")
    desk.keyboard.press("Alt+Enter")
    expect(desk.locator(".power-middle h2")).to_have_text("With Main board")
    desk.keyboard.press("Alt+Enter")
    type_rails(desk, "5.71")
    expect(desk.locator(".power-alarm h2")).to_have_text("Pull the plug")
    expect(desk.locator(".alarm-what")).to_contain_text("+5 V")
    desk.keyboard.press("Alt+z")  # mistyped: it goes on
    expect(desk.locator(".power-alarm")).to_have_count(0)
    expect(desk.locator(".probe")).to_contain_text("+5 V")
    type_rails(desk, "5.72")
    desk.keyboard.press("Alt+Enter")
    expect(desk.locator(".power-alarm h2")).to_contain_text("Stopped")
    expect(desk.locator(".energy-link")).to_contain_text("not verified")
    desk.get_by_label("What it came from").fill("divider resistor open")
    desk.keyboard.press("Enter")
    expect(desk.locator("#act-next")).to_contain_text("Power on")


def test_the_trimmers_figure_is_live_while_one_types(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/LW-031/rails?by=trim:%2B5+V")
    shown = desk.locator(".trim-now b")
    for typed, says in (("4.90", "up 100"), ("5.06", "down 60"), ("5.001", "Right")):
        desk.get_by_label("The meter shows").fill(typed)
        expect(shown).to_contain_text(says)
    desk.get_by_label("The meter shows").fill("5.7")
    expect(shown).to_have_text("Off at once")
    desk.get_by_label("The meter shows").fill("five")
    expect(desk.locator("#trim-figure .problem")).to_contain_text("is not a voltage")


def window(desk: Page) -> tuple[float, float]:
    drawn = desk.locator("[data-lab]").get_attribute("data-drawn") or "0 0"
    begin, end = drawn.split()
    return float(begin), float(end)


def settled(desk: Page, before: tuple[float, float]) -> tuple[float, float]:
    """The window once it is another one than before."""
    for _ in range(100):
        if (now := window(desk)) != before:
            return now
        desk.wait_for_timeout(50)
    raise AssertionError(f"still at {before}")


def test_the_lab_is_looked_about_in_by_keys_and_mouse(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/LW-031/ripple")
    lab = desk.locator("[data-lab][data-drawn]")
    expect(lab).to_be_visible(timeout=20_000)
    whole = window(desk)
    of_whole = lab.get_attribute("data-drawn") or ""
    desk.keyboard.press("+")
    near = settled(desk, whole)
    assert near[1] - near[0] < 0.8 * (whole[1] - whole[0])
    desk.keyboard.press("ArrowRight")
    right = settled(desk, near)
    assert right[0] > near[0]
    box = lab.bounding_box()
    assert box is not None
    middle = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    desk.mouse.move(*middle)
    desk.mouse.wheel(0, -200)
    nearer = settled(desk, right)
    assert nearer[1] - nearer[0] < right[1] - right[0]
    desk.mouse.down()
    desk.mouse.move(middle[0] - 200, middle[1], steps=4)
    desk.mouse.up()
    dragged = settled(desk, nearer)
    assert dragged[0] > nearer[0]
    desk.keyboard.press("0")
    expect(lab).to_have_attribute("data-drawn", of_whole)  # a drag is drawn on its way too
    desk.keyboard.down("Shift")
    desk.mouse.move(middle[0] - 100, middle[1])
    desk.mouse.down()
    desk.mouse.move(middle[0] + 100, middle[1], steps=4)
    desk.mouse.up()
    desk.keyboard.up("Shift")
    stretch = settled(desk, whole)
    share = 200 / box["width"]
    assert abs((stretch[1] - stretch[0]) / (whole[1] - whole[0]) - share) < 0.02
    desk.keyboard.press("0")
    expect(lab).to_have_attribute("data-drawn", of_whole)

    key = desk.locator("[data-band=switching]")
    desk.keyboard.press("3")
    expect(key).to_have_attribute("aria-pressed", "true")
    desk.keyboard.press("3")
    expect(key).to_have_attribute("aria-pressed", "false")

    read = desk.locator("[data-lab-read]")
    for letter, way in (("a", "ArrowLeft"), ("b", "ArrowRight")):
        desk.keyboard.press(letter)
        for _ in range(10):
            desk.keyboard.press(way)
    expect(read).to_have_text(re.compile(r"a .*b .*Δt .*Hz.*ΔV "))
    # twenty steps of a 240th of the window
    span = float(re.search(r"Δt ([\d.]+) µs", read.inner_text())[1])  # type: ignore[index]
    assert abs(span * 1e-6 - 20 / 240 * whole[1]) < 0.02 * whole[1]
    desk.keyboard.press("Escape")
    desk.mouse.click(*middle)
    expect(read).to_contain_text("ΔV")


def test_a_record_is_brought_in_and_a_wrong_guess_corrected(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/LW-014/ripple")
    bad = {"name": "w.csv", "mimeType": "text/csv", "buffer": b"hello\n"}
    good = {"name": "w.csv", "mimeType": "text/csv", "buffer": ROWS.encode()}
    desk.get_by_label("CSV of an oscilloscope, or WAV").set_input_files(bad)  # type: ignore[arg-type]
    desk.get_by_role("button", name="Bring it in").click()
    expect(desk.locator(".problem").first).to_contain_text("not a wave record")
    desk.get_by_label("CSV of an oscilloscope, or WAV").set_input_files(good)  # type: ignore[arg-type]
    desk.get_by_role("button", name="Bring it in").click()
    expect(desk.locator(".lab-figure b")).to_contain_text("60", timeout=20_000)
    expect(desk.locator(".energy-link")).to_contain_text("live")
    desk.get_by_text("What is known of this record").click()
    desk.locator("#wave-said-volt_scale").select_option("1e-3")
    desk.get_by_role("button", name="Read it this way").click()
    expect(desk.locator(".lab-figure b")).to_contain_text("60 µV", timeout=20_000)
