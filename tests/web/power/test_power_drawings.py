"""What is drawn of first power, rails and records: by their geometry, not by their looks."""

from __future__ import annotations

import re

import pytest
from msgspec.structs import replace

from hale_rail.actions.power import first_power as actions
from hale_rail.actions.readings import save_reading
from hale_rail.core.power.dummies import Dummies, DummyLoad, LoadPart, Wanted
from hale_rail.core.procedures import VOLTS, Condition, Point
from hale_rail.core.targets import Place, rail_target
from hale_rail.formats.records.ripple_record import KeptSpectrum
from hale_rail.stages.power import first_power
from hale_rail.stages.rails import rails
from hale_rail.stages.rails.rail_bars import SCALE, Loss, RailBar, Tick
from hale_rail.stages.ripple.ripple import BandRow, SpectrumLine
from hale_rail.stages.stage import PageQuery
from hale_rail.store.database import Store
from hale_rail.web.power.hookup_drawing import draw_hookup
from hale_rail.web.rails.rail_bar_drawing import draw_rail_bar
from hale_rail.web.ripple.wave_drawing import draw_spectrum, draw_wave, nice_step
from tests.conftest import Bench

ASKED = PageQuery()


@pytest.fixture
def bar(store: Store) -> RailBar:
    bench = Bench(store, "template:flyback")
    for place, text in ((Place.NONE, "4.6..4.8"), (Place.SUPPLY, "5.02"), (Place.FAR, "2.1")):
        point = Point(rail_target("+5 V", place), VOLTS, Condition.MACHINE)
        save_reading(store, bench.number, point, text)
    return rails.page(bench.file, ASKED).rows[0].bar


def edges(svg: str, kind: str) -> list[float]:
    return [float(x) for x in re.findall(rf'class="{kind}" d="M ([\d.-]+) ', svg)]


def test_a_bar_has_its_band_in_the_middle_of_one_scale_for_all(bar: RailBar) -> None:
    svg = str(draw_rail_bar(bar))
    low, high = edges(svg, "edge")
    wide = float(re.search(r'class="outside" x="0" y="[\d.]+" width="([\d.]+)"', svg)[1])
    assert (low + high) / 2 == pytest.approx(wide / 2)
    assert (high - low) / wide == pytest.approx(0.10 / (2 * SCALE), rel=0.01)
    wider = str(draw_rail_bar(replace(bar, band=(-0.10, 0.10))))
    assert edges(wider, "edge")[1] > high


def test_a_bar_has_a_tick_a_reading_with_its_label_and_words_for_who_cannot_see(
    bar: RailBar,
) -> None:
    svg = str(draw_rail_bar(bar))
    assert svg.count('class="body"') == 3
    assert svg.count(" latest") == 1
    assert svg.count('class="jump"') == 1  # the jumping one
    assert "◂ in the machine, far end" in svg  # 2.1 V lies off the scale
    label = re.search(r'aria-label="([^"]+)"', svg)[1]
    assert label.startswith("+5 V: in the machine")
    assert 'class="loss line"' in svg


def test_a_rail_that_was_not_read_says_so(store: Store) -> None:
    bench = Bench(store, "template:flyback")
    svg = str(draw_rail_bar(rails.page(bench.file, ASKED).rows[0].bar))
    assert "not read" in svg
    assert 'class="body"' not in svg


@pytest.mark.parametrize(("low", "high", "middle", "beyond"), [
    (0.01, 0.03, 0.02, False), (0.5, 0.5, SCALE, True), (-0.9, -0.9, -SCALE, True),
])  # fmt: skip
def test_a_tick_stays_on_the_scale(low: float, high: float, middle: float, beyond: bool) -> None:
    tick = Tick(low, high, 0.001, "dummy", "good", True)
    assert tick.middle == pytest.approx(middle)
    assert tick.is_beyond is beyond


def test_a_stretch_that_loses_too_much_is_marked(bar: RailBar) -> None:
    loss = Loss(0.0, -0.05, "supply end to far end", True)
    assert "loss line bad" in str(draw_rail_bar(replace(bar, losses=(loss,))))


def test_the_hook_up_shows_wall_lamp_supply_and_each_rail(demo: Store) -> None:
    bench = Bench(demo, "template:flyback", number="T-3")
    page = first_power.page(bench.file, ASKED)
    svg = str(draw_hookup(page, bench.file.sheet))
    words = re.findall(r"<text[^>]*>([^<]*)</text>", svg)
    assert {"wall", "supply", *(rail.key for rail in bench.file.sheet.rails)} <= set(words)
    assert any(re.fullmatch(r"lamp \d+\s?W", word) for word in words)
    actions.choose(demo, bench.number, {"limiter": "variac"})
    assert "variac" in str(draw_hookup(first_power.page(bench.file, ASKED), bench.file.sheet))


def test_with_the_boards_on_they_stand_where_the_dummies_were(demo: Store) -> None:
    bench = Bench(demo, "template:flyback", number="T-3")
    sheet = bench.file.sheet
    for key in ("limited", "alone"):
        actions.begin(demo, bench.number, key, reason="read elsewhere")
        for rail in sheet.rails:
            point = Point(rail_target(rail.key), VOLTS, Condition.DUMMY)
            save_reading(demo, bench.number, point, f"{rail.nominal_v:.2f}", check_seen=False)
        actions.finish(demo, bench.number, key)
    page = first_power.page(bench.file, ASKED)
    svg = str(draw_hookup(page, sheet))
    assert page.here.step.boards[0] in svg
    assert "box newest" in svg
    assert 'class="dummy box"' not in svg
    assert "nothing between" in svg


def test_a_bench_supply_shows_its_limit(demo: Store) -> None:
    bench = Bench(demo, "template:dc-fed", number="T-4")
    actions.choose(demo, bench.number, {"limiter": "bench", "draw_a": 0.6})
    svg = str(draw_hookup(first_power.page(bench.file, ASKED), bench.file.sheet))
    assert "limit 720" in svg.replace("\u00a0", " ")
    assert "bench supply" in svg


def test_two_rails_of_the_same_volts_have_each_its_own_dummy(demo: Store) -> None:
    bench = Bench(demo, "template:flyback", number="T-5")
    page = first_power.page(bench.file, ASKED)
    one = replace(bench.file.sheet.rails[0], key="+5 V A", nominal_v=5.0)
    sheet = replace(bench.file.sheet, rails=(one, replace(one, key="+5 V B")))
    part = LoadPart(4.7, 20.0, 5.3)
    load = DummyLoad(Wanted(5.0, 1.0), 5 / 4.7, 4.7, "single", (part,))
    for loads, none in (((load,), 1), ((load, replace(load, ohms=6.8)), 0)):
        outcome = replace(page.loads, result=Dummies(loads, ()))
        svg = str(draw_hookup(replace(page, loads=outcome), sheet))
        assert svg.count("no dummy") == none
        assert svg.count('class="dummy box"') == len(loads)


@pytest.mark.parametrize(("span", "count", "step"), [
    (1.0, 5, 0.2), (0.23, 5, 0.05), (7.0, 8, 1.0), (3e-5, 5, 1e-5), (95, 10, 10),
])  # fmt: skip
def test_a_nice_step(span: float, count: int, step: float) -> None:
    assert nice_step(span, count) == pytest.approx(step)


def test_a_spectrum_marks_the_lines_it_has_room_for() -> None:
    hz = [10.0 * 1.1**n for n in range(120)]
    found = KeptSpectrum(tuple(hz), (*[1e-3] * 60, 0.1, *[1e-4] * 59))
    lines = [
        SpectrumLine(100.0, "100 Hz"),
        SpectrumLine(66e3, "66 kHz"),
        SpectrumLine(9e9, "too high"),
    ]
    svg = str(draw_spectrum(found, lines))
    assert svg.count('class="named"') == 2
    assert "100 Hz, 66 kHz" in svg
    assert "1 kHz" in svg
    assert str(draw_spectrum(KeptSpectrum((1.0,), (0.0,)), [])) == ""


def test_nothing_is_drawn_of_no_record() -> None:
    class Page:
        trace = None
        trace_before = None
        rail = "+5 V"

    assert str(draw_wave(Page())) == ""  # type: ignore[arg-type]


@pytest.mark.parametrize(("now", "before", "says"), [
    (0.030, 0.240, "8.0 × less"), (0.240, 0.030, "8.0 × more"), (0.030, 0.032, "as before"),
    (0.030, None, ""), (0.0001, 0.0004, ""),
])  # fmt: skip
def test_what_became_of_a_band(now: float, before: float | None, says: str) -> None:
    assert BandRow("switching", "switching", now, 0.5, before).gain == says
