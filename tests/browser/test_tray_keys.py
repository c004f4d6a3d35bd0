"""The tray by keyboard alone: one number and one Enter a point, and a key for every press."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, Request, expect

from hale_rail.case.walks import capacitor_points
from hale_rail.store.database import Store
from tests.browser.test_paths import TRAY, type_reading
from tests.conftest import Bench
from tests.sizes import IS_ALL, sampled

#: a reading that each procedure takes of a sound part
SOUND = {"ohms": "0.2", "diode": "0.55", "ground": "820", "c": "220n", "esr": "0.09"}


def probe(desk: Page) -> str:
    return desk.locator(".probe").inner_text()


def standing(desk: Page) -> str:
    """The procedure of the point in the tray."""
    at = desk.locator(".tray-entry input[name=at]").input_value()
    return at.rsplit("~", 2)[1]


def test_a_cold_walk_is_a_number_and_enter_a_point(desk: Page, address: str, demo: Store) -> None:
    bench = Bench(demo, number="KEY-1")
    bench.make_safe()
    desk.goto(f"{address}/cases/KEY-1/cold")
    seen: list[str] = []
    walked = 24 if IS_ALL else 9
    for _ in range(walked):
        expect(desk.locator(TRAY)).to_be_focused()
        here = probe(desk) + desk.locator(".how").inner_text()
        assert here not in seen
        seen.append(here)
        before = desk.locator(".tray-entry input[name=at]").input_value()
        desk.keyboard.type(SOUND[standing(desk)])
        desk.keyboard.press("Enter")
        expect(desk.locator(".tray-entry input[name=at]")).not_to_have_value(before)
    assert len(bench.file.rows.readings) == walked + len(bench.file.sheet.stores)


def test_from_a_point_read_before_enter_goes_on(desk: Page, address: str) -> None:
    """Fourteen readings of other parts once landed on one that had been read."""
    desk.goto(f"{address}/cases/LW-014/capacitors")
    desk.locator("th a", has_text="C10").click()
    expect(desk.locator(".probe")).to_contain_text("C10 capacitance")
    type_reading(desk, "4100u")
    expect(desk.locator(".result-text")).to_contain_text("C10")
    expect(desk.locator(".probe")).not_to_contain_text("C10")
    expect(desk.locator(".how .jump")).to_contain_text("passed: read already")
    # the list stands where the tray does
    name = desk.locator(".probe b").inner_text()
    expect(desk.locator(".sheet tr[aria-current] th")).to_contain_text(name)
    expect(desk.locator(".sheet tr[aria-current]")).to_be_in_viewport()
    desk.keyboard.press("Alt+a")
    expect(desk.locator(".probe")).to_contain_text("C10 capacitance")


def test_lifted_out_of_turn_the_walk_goes_on_behind_it(
    desk: Page, address: str, demo: Store
) -> None:
    """After one lifted by hand the tray once leapt to the head of the list."""
    bench = Bench(demo, number="KEY-2")
    bench.make_safe()
    first, second, third = (point.part_id for point in capacitor_points(bench.file)[:3])
    name = {part.id: part.ref for part in bench.file.sheet.parts}
    desk.goto(f"{address}/cases/KEY-2/capacitors?at={second}")
    expect(desk.locator(".probe b")).to_have_text(name[second or 0])
    desk.keyboard.press("Alt+l")
    expect(desk.locator(".how")).to_contain_text("lifted")
    desk.keyboard.type(SOUND[standing(desk)])
    desk.keyboard.press("Enter")
    expect(desk.locator(".result-text")).to_contain_text(f"{name[second or 0]}, lifted")
    expect(desk.locator(".probe b")).to_have_text(name[third or 0])
    expect(desk.locator(".how")).to_contain_text("in circuit")
    desk.keyboard.press("Alt+z")
    expect(desk.locator(".probe b")).to_have_text(name[second or 0])
    assert first and bench.file.rows.standing.keys().isdisjoint({f"{second}~c~lifted"})


@pytest.mark.parametrize("view", sampled(["intake", "cold", "rework", "ripple", "diagnosis"], 3))
def test_the_next_box_is_in_view_and_one_key_from_anywhere(
    desk: Page, address: str, view: str
) -> None:
    desk.goto(f"{address}/cases/LW-014/{view}")
    box = desk.locator(".next-step")
    expect(box).to_be_in_viewport(ratio=1)
    leads = box.get_attribute("href") or ""
    desk.keyboard.press("Alt+n")
    expect(desk).to_have_url(re.compile(re.escape(leads.partition("?")[0]) + r"(\?|$)"))
    desk.goto(f"{address}/cases/LW-014/{view}")
    desk.keyboard.press("Alt+9")
    expect(desk).to_have_url(re.compile("first-power"))


def test_the_plug_is_one_key_away(desk: Page, address: str, demo: Store) -> None:
    bench = Bench(demo, number="KEY-3")
    desk.goto(f"{address}/cases/KEY-3")
    desk.keyboard.press("Alt+p")
    expect(desk.locator(".case-head .energy")).to_contain_text("not verified")
    assert bench.file.rows.readings == {}
    desk.keyboard.press("Alt+p")
    expect(desk.locator("#source")).to_be_focused()


def test_arrows_enter_the_look_over_from_the_page(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/LW-038/look")
    desk.keyboard.press("ArrowDown")
    assert desk.locator("[data-stop]:focus-within").count() == 1


def test_trimming_types_into_its_own_field(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/LW-031/rails?by=trim:%2B5+V")
    expect(desk.locator("[data-trim]")).to_be_focused()


def test_one_part_is_asked_by_a_slash_from_any_page(desk: Page, address: str) -> None:
    """The verdict stands before Enter; Enter keeps it, and one press takes it into a case."""
    desk.goto(f"{address}/cases/LW-014/rails")
    desk.keyboard.press("/")
    field = desk.locator("[data-ask]")
    expect(field).to_be_focused()
    desk.keyboard.type("2200u 10V esr 0.08")
    expect(desk.locator("#asked-now .result-verdict")).to_contain_text("good")
    desk.keyboard.press("Enter")
    expect(desk.locator("h2").first).to_have_text("2200u 10V esr 0.08")
    expect(field).to_be_focused()
    desk.keyboard.type("banana")
    desk.keyboard.press("Enter")
    expect(desk.locator("#ask-problem")).to_contain_text("2200u 10V esr 0.08")
    expect(field).to_have_value("banana")
    expect(field).to_be_focused()


def test_a_number_too_many_replaces_nothing(desk: Page, address: str, demo: Store) -> None:
    """Behind the last point of a walk Enter once laid the next number on that point."""
    bench = Bench(demo, number="KEY-4")
    desk.goto(f"{address}/cases/KEY-4/rails")
    for volts in ("5.02", "12.1", "-12.2"):
        type_reading(desk, volts)
        expect(desk.locator(".tray-result b").first).to_contain_text(volts.strip("-"))
    type_reading(desk, "-11.3")
    expect(desk.locator(".echo-problem")).to_contain_text("read already: −12.2")
    assert len(bench.file.rows.readings) == 3
    expect(desk.locator(TRAY)).to_have_value("-11.3")
    desk.keyboard.press("Enter")
    expect(desk.locator(".tray-result b").first).to_contain_text("11.3")
    assert len(bench.file.rows.readings) == 4


def test_a_number_typed_where_no_field_is_leads_nowhere(
    desk: Page, address: str, demo: Store
) -> None:
    bench = Bench(demo, number="KEY-5")
    bench.make_safe()
    desk.goto(f"{address}/cases/KEY-5/rework")
    asked: list[str] = []

    def note(request: Request) -> None:
        asked.append(request.url)

    desk.on("request", note)
    desk.keyboard.type("0.1")
    desk.keyboard.press("Enter")
    desk.keyboard.press("Alt+n")
    expect(desk).to_have_url(re.compile("/look"))
    desk.remove_listener("request", note)
    assert asked and not [url for url in asked if "/rails" in url]
    assert len(bench.file.rows.readings) == len(bench.file.sheet.stores)


def test_a_store_read_before_the_guard_leaves_no_tray_behind(
    desk: Page, address: str, demo: Store
) -> None:
    """On a page without points of its own the store's tray once stayed for every number."""
    bench = Bench(demo, number="KEY-6")
    desk.goto(f"{address}/cases/KEY-6/rework")
    desk.keyboard.press("Alt+p")
    expect(desk.locator(".case-head .energy")).to_contain_text("not verified")
    desk.locator("input[name=text]").first.fill("0.2")
    desk.keyboard.press("Enter")
    expect(desk.locator(".case-head .energy")).to_contain_text("dead")
    expect(desk.locator(TRAY)).to_have_count(0)
    assert len(bench.file.rows.readings) == 1
