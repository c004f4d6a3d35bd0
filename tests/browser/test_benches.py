"""Several benches on one case: what one reads the others see arrive, and nothing typed is lost."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import APIResponse, Browser, Page, Route, expect

SOON_MS = 15_000


@pytest.fixture
def other(browser: Browser, address: str) -> Iterator[Page]:
    """Another bench, on another machine."""
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    page = context.new_page()
    page.goto(f"{address}/this-bench")
    page.get_by_label("This bench").fill("Window")
    page.keyboard.press("Enter")
    yield page
    context.close()


def note(page: Page, address: str, text: str) -> None:
    page.goto(f"{address}/cases/LW-014/log")
    page.get_by_label("note").fill(text)
    page.keyboard.press("Enter")
    expect(page.locator("table.log")).to_contain_text(text)


def test_what_another_bench_adds_arrives_without_a_reload(
    desk: Page, other: Page, address: str
) -> None:
    desk.goto(f"{address}/cases/LW-014/log")
    desk.evaluate("window.isTheSamePage = true")
    note(other, address, "the fan turns again")
    expect(desk.locator("table.log")).to_contain_text("the fan turns again", timeout=SOON_MS)
    expect(desk.locator(".arrived")).to_have_text("Window: the fan turns again")
    expect(desk.locator("table.log tbody tr").first).to_contain_text("Window")
    assert desk.evaluate("window.isTheSamePage")


def test_a_reading_arrives_while_another_is_typed_and_the_later_one_is_asked(
    desk: Page, other: Page, address: str
) -> None:
    """The tray keeps what is typed; what it then meets is a conflict, as ever."""
    for page in (desk, other):
        page.goto(f"{address}/cases/LW-014/capacitors")
    tray, theirs = desk.locator("[data-tray-input]"), other.locator("[data-tray-input]")
    tray.press_sequentially("0.3")
    theirs.fill("0.41")
    theirs.press("Enter")
    expect(desk.locator(".arrived")).to_contain_text("Window", timeout=SOON_MS)
    expect(tray).to_have_value("0.3")
    expect(tray).to_be_focused()
    tray.press_sequentially("2")
    tray.press("Enter")
    expect(desk.locator("#echo")).to_contain_text("read already: 410")
    expect(desk.locator(".tray")).to_contain_text("Save mine")
    expect(desk.locator("[data-tray-input]")).to_have_value("0.32")


def test_ones_own_press_is_no_news_however_slow_its_answer(desk: Page, address: str) -> None:
    """A page that was asked for before the press never takes the place of what the press gave."""
    desk.goto(f"{address}/cases/LW-014/capacitors")
    first = desk.locator(".probe").inner_text()
    held: list[tuple[Route, APIResponse]] = []

    def hold(route: Route) -> None:
        held.append((route, route.fetch()))  # the page as it is before the press

    desk.route("**/cases/LW-014/capacitors*", hold)
    desk.locator("#case").evaluate("here => { here.dataset.newest = '1'; }")
    for _ in range(100):
        if held:
            break
        desk.wait_for_timeout(100)
    tray = desk.locator("[data-tray-input]")
    tray.fill("0.31")
    tray.press("Enter")
    expect(desk.locator(".probe")).not_to_have_text(first)
    then = desk.locator(".probe").inner_text()
    for route, before in held:
        route.fulfill(response=before)
    desk.wait_for_timeout(1500)
    expect(desk.locator(".probe")).to_have_text(then)


def test_what_is_typed_in_the_middle_is_left_as_it_is(
    desk: Page, other: Page, address: str
) -> None:
    desk.goto(f"{address}/cases/LW-014/log")
    mine = desk.get_by_label("note")
    mine.press_sequentially("half a senten")
    note(other, address, "meanwhile")
    expect(desk.locator(".arrived")).to_have_text("Window: meanwhile", timeout=SOON_MS)
    expect(mine).to_have_value("half a senten")
    mine.press_sequentially("ce")
    mine.press("Enter")
    expect(desk.locator("table.log")).to_contain_text("half a sentence")
    expect(desk.locator("table.log")).to_contain_text("meanwhile")


def test_a_server_that_does_not_answer_is_told_and_what_was_typed_stays(
    page: Page, address: str
) -> None:
    page.goto(f"{address}/cases/LW-014/log")
    mine = page.get_by_label("note")
    mine.fill("typed while it was away")
    page.route("**/*", lambda route: route.abort())
    mine.press("Enter")
    away = page.locator("#away")
    expect(away).to_be_visible()
    expect(mine).to_have_value("typed while it was away")
    page.unroute_all()
    expect(away).to_be_hidden(timeout=SOON_MS)
    mine.press("Enter")
    expect(page.locator("table.log")).to_contain_text("typed while it was away")
