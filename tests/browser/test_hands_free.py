"""A row of parts is read with a foot switch; the shipped meter answers, the voice says what."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, expect

from hale_rail.bench.simulated.server import Instruments
from hale_rail.core.simulate.unit import SimulatedUnit
from hale_rail.core.supply.sheet import Topology
from hale_rail.core.supply.templates import template
from larkmoor import units

_LISTEN = """
  window.said = [];
  window.SpeechSynthesisUtterance = function (text) { this.text = text; };
  Object.defineProperty(window, "speechSynthesis", {
    value: { speak: (one) => window.said.push(one.text), cancel() {} },
  });
"""


def _press_on(desk: Page, times: int) -> None:
    """The foot alone: each press reads a point, and the tray counts it."""
    for _ in range(times):
        count = desk.locator(".tray .count")
        before = count.inner_text()
        desk.keyboard.press("F9")
        expect(count).not_to_have_text(before)


def _prepare(desk: Page, address: str, served: Instruments) -> None:
    """The meter on the line and asked, the foot switch taught, the voice on."""
    desk.goto(f"{address}/workshop/instruments")
    desk.get_by_label("Name").fill("Bench meter")
    desk.get_by_label("Address").fill(f"TCPIP0::127.0.0.1::{served.ports['meter']}::SOCKET")
    desk.get_by_label("Family").select_option("simulated-meter")
    desk.get_by_role("button", name="Add", exact=True).click()
    desk.get_by_role("button", name="Ask who it is").click()
    expect(desk.get_by_role("status").first).to_contain_text("SIM-METER")
    for name, key in (("capture", "F9"), ("strike the last", "F8"), ("back", "F7")):
        desk.get_by_role("button", name=f"Teach {name}").click()
        desk.keyboard.press(key)
    expect(desk.locator("[data-foot-key=capture]")).to_have_text("F9")
    desk.get_by_role("button", name="Voice on or off").click()


@pytest.fixture
def served() -> Iterator[Instruments]:
    with Instruments(SimulatedUnit(units.pattern_editor(), None, 5)) as found:
        yield found


@pytest.mark.own_page
@pytest.mark.exhaustive
def test_practice_is_read_without_the_keyboard(
    desk: Page, address: str, served: Instruments
) -> None:
    desk.add_init_script(_LISTEN)
    _prepare(desk, address, served)
    desk.goto(f"{address}/practice")
    desk.get_by_role("button", name="Take up The quiet reading lamp").click()
    case = desk.url.rsplit("/", 1)[0]
    desk.goto(f"{case}/safe")
    desk.get_by_role("button", name="Log: plug out, power removed").click()
    expect(desk.locator(".energy-link")).to_contain_text("dead")
    desk.get_by_role("button", name="Bleed the stores").click()
    expect(desk.locator(".practice-line b")).to_have_text("2 min")
    _press_on(desk, 3)  # every store's volts
    desk.goto(case)
    _press_on(desk, 3)
    said = desk.evaluate("window.said")
    assert any("Next:" in text for text in said)


@pytest.mark.own_page
def test_the_shipped_meter_reads_a_row_of_parts_by_foot(desk: Page, address: str) -> None:
    """Each press reads and moves on, the voice says the verdict; a slip is struck by foot too."""
    desk.add_init_script(_LISTEN)
    with Instruments(SimulatedUnit(template(Topology.LINEAR), None, 5)) as served:
        _prepare(desk, address, served)
        desk.goto(f"{address}/cases/LW-038/cold")
        first = desk.locator(".tray .probe").inner_text()
        _press_on(desk, 5)
        said = desk.evaluate("window.said")
        verdicts = [text.split(".")[0] for text in said if "Next:" in text]
        assert len(verdicts) >= 5
        assert all(verdict.strip() for verdict in verdicts)
        count = desk.locator(".tray .count")
        five = count.inner_text()
        desk.keyboard.press("F8")
        expect(count).not_to_have_text(five)
        for _ in range(8):
            if desk.locator(".tray .probe").inner_text() == first:
                break
            before = desk.url
            desk.keyboard.press("F7")
            expect(desk).not_to_have_url(before)
        assert desk.locator(".tray .probe").inner_text() == first
