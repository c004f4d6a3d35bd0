"""Where is it: parts placed, found, moved and marked on a photo by mouse, finger and keys."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Locator, Page, ViewportSize, expect

from hale_rail.actions.places import boards
from hale_rail.case.file import open_case
from hale_rail.case.places.places import places, views
from hale_rail.core.places.place import Side
from hale_rail.store.database import Store
from tests.actions.places.boards import ASLANT, board_photo
from tests.browser.conftest import new_page, no_complaints
from tests.conftest import Bench

HALF, FULL = "LW-031", "LW-014"
STAGE = ".where-stage"


def stage(page: Page) -> Locator:
    return page.locator(STAGE)


def press(page: Page, x: float, y: float) -> None:
    """A press on the photo at a share of its width and height."""
    box = page.locator(".where-photo").bounding_box()
    assert box
    page.mouse.click(box["x"] + x * box["width"], box["y"] + y * box["height"])


def placed(store: Store, number: str) -> int:
    return len(places(open_case(store, number)))


@pytest.fixture
def forty(demo: Store) -> Bench:
    """A unit of forty parts on a board that was just photographed."""
    rows = "\n".join(f"C{n} 10u 25V tant +5 decoupling" for n in range(60, 80))
    bench = Bench(demo, parts=rows, number="T-40")
    boards.add_photo(demo, bench.number, "Board", Side.TOP, 160.0, "b.png", board_photo())
    return bench


def test_forty_parts_are_placed_with_forty_five_presses_at_most(
    desk: Page, address: str, demo: Store, forty: Bench
) -> None:
    wanted = len([p for p in forty.file.sheet.parts if p.kind.code != "board"])
    assert wanted >= 40
    desk.goto(f"{address}/cases/T-40/where")
    presses = 1
    desk.locator("[data-mode=place]").click()
    expect(desk.locator("[data-hand-name]")).to_have_text("J1")
    for nth in range(wanted):
        across, down = nth % 9, nth // 9
        press(desk, 0.3 + 0.05 * across, 0.15 + 0.14 * down)
        presses += 1
    expect(desk.locator("[data-placed]")).to_have_text(f"{wanted} of {wanted} parts placed")
    expect(desk.locator("[data-hand-name]")).to_have_text("nothing")
    assert placed(demo, "T-40") == wanted and presses * 40 <= 45 * wanted


def test_a_row_needs_two_presses_and_a_mistyped_one_places_nothing(
    desk: Page, address: str, demo: Store, forty: Bench
) -> None:
    desk.goto(f"{address}/cases/{forty.number}/where")
    stage(desk).focus()
    desk.keyboard.press("r")
    desk.keyboard.type("C60 to C99")
    desk.keyboard.press("Enter")
    expect(stage(desk)).to_be_focused()
    press(desk, 0.35, 0.4)
    press(desk, 0.6, 0.4)
    expect(desk.locator("[data-said]")).to_contain_text("no part or rail “C80” on this unit")
    assert placed(demo, "T-40") == 0
    desk.locator("[data-words-input]").fill("C60 to C67")
    press(desk, 0.35, 0.4)
    press(desk, 0.6, 0.4)
    expect(desk.locator("[data-said]")).to_have_text("8 placed.")
    expect(desk.locator("[data-spot]")).to_have_count(8)
    at = [place.x_mm for place in places(forty.file).values()]
    assert at == pytest.approx([at[0] + n * (at[-1] - at[0]) / 7 for n in range(8)], abs=0.02)


def test_parts_are_placed_moved_and_taken_back_by_keys_alone(
    desk: Page, address: str, demo: Store, forty: Bench
) -> None:
    desk.goto(f"{address}/cases/{forty.number}/where")
    desk.keyboard.press("p")
    middle = (80.0, 50.0)
    desk.keyboard.press("Enter")
    expect(desk.locator("[data-hand-name]")).to_have_text("F1")
    desk.keyboard.press("Shift+ArrowRight")
    desk.keyboard.press("ArrowDown")
    desk.keyboard.press("n")  # not this one yet
    desk.keyboard.press("Enter")
    expect(desk.locator("[data-spot]")).to_have_count(2)
    known = {p.id: p.ref for p in forty.file.sheet.parts}
    found = {known[i]: (at.x_mm, at.y_mm) for i, at in places(forty.file).items()}
    step = 160.0 / 200
    assert found["J1"] == pytest.approx(middle, abs=0.01)
    assert found["S1"] == pytest.approx((middle[0] + 10 * step, middle[1] + step), abs=0.01)
    desk.keyboard.press("Backspace")
    expect(desk.locator("[data-spot]")).to_have_count(1)
    expect(desk.locator("[data-hand-name]")).to_have_text("S1")
    chip = desk.locator(f"[data-part='{forty.id_of('J1')}']")
    chip.focus()
    desk.keyboard.press("Enter")  # into the hand again, to be moved
    expect(desk.locator("[data-hand-name]")).to_have_text("J1")
    desk.keyboard.press("ArrowUp")
    desk.keyboard.press("Enter")
    expect(desk.locator("[data-hand-name]")).to_have_text("F1")
    expect(desk.locator("[data-spot]")).to_have_count(1)
    desk.wait_for_function(
        "() => document.querySelectorAll('[data-layer] > g:not([class])').length === 0"
    )
    assert places(forty.file)[forty.id_of("J1")].y_mm == pytest.approx(
        middle[1], abs=2 * step + 0.01
    )
    assert placed(demo, "T-40") == 1


def test_what_the_server_does_not_take_goes_back_into_the_hand(
    page: Page, address: str, demo: Store, forty: Bench
) -> None:
    page.goto(f"{address}/cases/{forty.number}/where")
    page.locator("[data-mode=place]").click()
    page.route("**/do/place", lambda route: route.abort())
    press(page, 0.5, 0.5)
    expect(page.locator("[data-said]")).to_contain_text("nothing was saved")
    expect(page.locator("[data-hand-name]")).to_have_text("J1")
    page.unroute("**/do/place")
    press(page, 0.5, 0.5)
    expect(page.locator("[data-spot]")).to_have_count(1)
    assert placed(demo, "T-40") == 1


def test_a_press_on_a_ring_opens_its_part_with_its_next_reading(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/{FULL}/where")
    spot = desk.locator("[data-spot]", has=desk.locator("title", has_text=re.compile("^C14:")))
    box = spot.locator(".hit").bounding_box()
    assert box
    desk.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    expect(desk.locator(".panel h2")).to_contain_text("C14")
    expect(desk.locator(".probe")).to_contain_text("C14")
    desk.keyboard.type("0.09")
    desk.keyboard.press("Enter")
    expect(desk.locator(".result-verdict")).to_contain_text("90")
    expect(desk.locator(".where-photo")).to_be_visible()  # still on the photo


def test_what_is_typed_in_find_stands_out_at_once(desk: Page, address: str) -> None:
    desk.goto(f"{address}/cases/{FULL}/where")
    stage(desk).focus()
    desk.keyboard.press("f")
    desk.keyboard.type("to replace")
    expect(desk.locator(".where-find [role=status]")).to_have_text("11 parts")
    expect(desk.locator("#find")).to_be_focused()
    expect(desk.locator("[data-spot] .spot:not(.dim)")).to_have_count(11)
    desk.keyboard.press("Control+a")
    desk.keyboard.type("wobbly")
    expect(desk.locator("#find-problem")).to_contain_text("“wobbly” is not")


def test_a_large_photo_shows_its_fine_picture_where_it_is_enlarged(
    desk: Page, address: str
) -> None:
    desk.goto(f"{address}/cases/LW-022/where")
    assert desk.locator("[data-tiles] image").count() == 0
    stage(desk).focus()
    for _ in range(4):
        desk.keyboard.press("+")
    expect(desk.locator("[data-tiles] image").first).to_be_attached()
    count = desk.locator("[data-tiles] image").count()
    assert 1 <= count < 15  # those in view, not all
    desk.keyboard.press("0")
    box = [float(v) for v in (desk.locator(".where-photo").get_attribute("viewBox") or "").split()]
    assert box[2] > 200


def test_marks_are_drawn_kept_and_taken_off(desk: Page, address: str, demo: Store) -> None:
    desk.goto(f"{address}/cases/{HALF}/where")
    stage(desk).focus()
    desk.keyboard.press("i")
    desk.keyboard.type("burnt")
    press(desk, 0.5, 0.5)
    press(desk, 0.54, 0.5)
    expect(desk.locator(".mark.ring")).to_have_count(1)
    desk.reload()
    expect(desk.locator(".mark.ring")).to_contain_text("burnt")
    desk.get_by_text("1 mark").click()
    desk.get_by_role("button", name="Remove the ring burnt").click()
    expect(desk.locator(".mark")).to_have_count(0)


def test_a_photo_taken_aslant_is_straightened_by_its_corners(
    desk: Page, address: str, demo: Store, forty: Bench
) -> None:
    number = boards.add_photo(
        demo, forty.number, "Board", Side.TOP, None, "b.png", board_photo(ASLANT)
    )
    desk.goto(f"{address}/cases/{forty.number}/where?by={number}")
    expect(desk.locator(".verdict-line")).to_contain_text("How does this photo lie over Board?")
    box = desk.locator(".where-photo").bounding_box()
    assert box
    scale = min(box["width"] / 1200, box["height"] / 900)
    left = box["x"] + (box["width"] - 1200 * scale) / 2
    for x, y in ASLANT:
        desk.mouse.click(left + x * scale, box["y"] + y * scale)
    desk.get_by_role("button", name="Straighten it").click()
    expect(desk.locator("[data-mode=place]")).to_be_visible()
    laid = views(forty.file)[-1]
    assert laid.frame and [fix[:2] for fix in laid.row.fixes] == [
        pytest.approx(corner, abs=2 / scale) for corner in ASLANT
    ]


@pytest.fixture
def tablet(browser: Browser, address: str) -> Iterator[Page]:
    """A tablet held upright, touched."""
    size = ViewportSize(width=820, height=1180)
    context = browser.new_context(viewport=size, has_touch=True)
    page = new_page(context)
    with no_complaints(page):
        yield page
    context.close()


def test_fingers_place_and_two_of_them_enlarge(
    tablet: Page, address: str, demo: Store, forty: Bench
) -> None:
    tablet.goto(f"{address}/cases/{forty.number}/where")
    tablet.locator("[data-mode=place]").tap()
    photo = tablet.locator(".where-photo")
    box = photo.bounding_box()
    assert box
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    tablet.touchscreen.tap(*middle)
    expect(tablet.locator("[data-spot]")).to_have_count(1)
    before = [float(v) for v in (photo.get_attribute("viewBox") or "").split()]
    client = tablet.context.new_cdp_session(tablet)

    def touch(kind: str, apart: float) -> None:
        points = [
            {"x": middle[0] + sign * apart, "y": middle[1], "id": nth}
            for nth, sign in enumerate((-1, 1))
        ]
        given = {"type": kind, "touchPoints": [] if kind == "touchEnd" else points}
        client.send("Input.dispatchTouchEvent", given)

    touch("touchStart", 40)
    for apart in (60, 80, 100, 120):
        touch("touchMove", apart)
    touch("touchEnd", 120)
    after = [float(v) for v in (photo.get_attribute("viewBox") or "").split()]
    assert after[2] < 0.6 * before[2]
    expect(tablet.locator("[data-spot]")).to_have_count(1)  # two fingers place nothing
    assert placed(demo, "T-40") == 1
    assert tablet.evaluate("document.documentElement.scrollWidth <= innerWidth")


def test_the_camera_is_one_press_and_its_photo_is_sent_as_it_comes(
    desk: Page, address: str, demo: Store
) -> None:
    desk.goto(f"{address}/cases/LW-038/where")
    with desk.expect_file_chooser() as chosen:
        desk.get_by_role("button", name="Use the camera").click()
    assert desk.locator("[data-camera]").get_attribute("capture") == "environment"
    chosen.value.set_files({"name": "c.png", "mimeType": "image/png", "buffer": board_photo()})
    expect(desk.locator("[data-mode=place]")).to_be_visible()
    assert [view.row.board for view in views(open_case(demo, "LW-038"))] == ["Main board"]


def test_from_a_reading_to_its_part_on_the_photo_and_moved_there(
    desk: Page, address: str, demo: Store
) -> None:
    bench = Bench.at(demo, FULL)
    at = places(bench.file)[bench.id_of("C13")]
    desk.goto(f"{address}/cases/{FULL}/capacitors?at={bench.id_of('C13')}")
    expect(desk.locator("[data-tray-input]")).to_be_focused()
    desk.keyboard.press("Alt+x")
    expect(desk.locator(".spot.chosen title")).to_contain_text("C13")
    desk.keyboard.press("Escape")  # out of the tray
    desk.keyboard.press("m")
    expect(desk.locator("[data-hand-name]")).to_have_text("C13")
    desk.keyboard.press("ArrowRight")
    desk.keyboard.press("Enter")
    expect(desk.locator("[data-layer] > g:not([class])")).to_have_count(0)
    now = places(bench.file)[bench.id_of("C13")]
    assert (now.x_mm, now.y_mm) != (at.x_mm, at.y_mm)
    desk.keyboard.press("Backspace")
    expect(desk.locator("[data-layer] > g:not([class])")).to_have_count(0)
    back = places(open_case(demo, FULL))[bench.id_of("C13")]
    assert (back.x_mm, back.y_mm) == pytest.approx((at.x_mm, at.y_mm), abs=0.02)
