"""The pages of the end of the work as they stand: states, next steps, what readings mean."""

from __future__ import annotations

import re

from hale_rail.actions import readings
from hale_rail.actions.bring_up import continuity, machine
from hale_rail.actions.soak import soaks
from hale_rail.case.bring_up.continuity import lists
from hale_rail.case.bring_up.harness import harness
from hale_rail.core.soak.soak import Sample
from hale_rail.stages.behind import machine as machine_stage
from hale_rail.stages.bring_up import continuity as continuity_stage
from hale_rail.stages.bring_up import harness as harness_stage
from hale_rail.stages.frame.tray import lay_tray, result_of, tray_point
from hale_rail.stages.soak import soak as soak_stage
from hale_rail.stages.stage import PageQuery, Status
from hale_rail.web.bring_up.continuity_drawing import draw_continuity
from hale_rail.web.bring_up.harness_drawing import draw_harness
from hale_rail.web.frame.chart_drawing import draw_chart
from tests.conftest import Bench

SOURCE = "rail_v,amps,conductors,awg,pin_amps\n5,20,4,18,6\n0,,3,18,6\n"
TARGET = "pin,kind,rail_v,amps\n1,rail,5,8\n2,rail,-5,0.1\n3,ground,,\n"
PAIRS = "one,other,joined,note\nA1,B1,yes,clock\nA2,B2,no,\nA3,B1,yes,\n"


def read(bench: Bench, point: object, text: str) -> int:
    saved = readings.save_reading(
        bench.store,
        bench.number,
        point,
        text,
        check_seen=False,  # type: ignore[arg-type]
    )
    return saved.reading_id


def test_the_harness_tells_what_keeps_the_board_off(bench: Bench) -> None:
    assert harness_stage.state(bench.file).status is Status.OPEN
    assert harness_stage.next_step(bench.file) is None
    assert draw_harness(harness_stage.page(bench.file, PageQuery())) == ""
    machine.plan_harness(bench.store, bench.number, SOURCE, TARGET, 0.4)
    step = harness_stage.next_step(bench.file)
    assert step and "harness pin 1" in step.text and step.point
    pins = harness(bench.file).pins
    said = read(bench, pins[0].point, "12.0")
    assert harness_stage.state(bench.file).status is Status.ATTENTION
    result = result_of(bench.file, said)
    assert result and result.meaning.word == "wrong" and "stays off" in result.meaning.text
    step = harness_stage.next_step(bench.file)
    assert step and "is wrong" in step.text
    for pin, text in zip(pins, ("5.0", "-5.0", "0.0"), strict=True):
        read(bench, pin.point, text)
    assert harness_stage.state(bench.file).status is Status.DONE


def test_the_harness_is_drawn_with_its_side_pin_one_and_what_is_missing(bench: Bench) -> None:
    machine.plan_harness(bench.store, bench.number, SOURCE, TARGET, 0.4, "wire")
    machine.say_colour(bench.store, bench.number, "3", "<b>black")
    drawn = str(draw_harness(harness_stage.page(bench.file, PageQuery())))
    assert "wire side" in drawn and drawn.count('class="solid"') == 1
    assert drawn.count('class="line bad dashed"') == 1 and "missing" in drawn
    assert "2 × 34" in drawn and "&lt;b&gt;black" in drawn
    assert drawn.count('class="ring"') == 1


def test_the_tray_walks_the_pins_and_says_what_is_wanted(bench: Bench) -> None:
    machine.plan_harness(bench.store, bench.number, SOURCE, TARGET, 0.4)
    stage = harness_stage.STAGE
    point = tray_point(bench.file, stage, PageQuery())
    assert point
    tray = lay_tray(bench.file, stage, PageQuery(), point)
    assert (tray.name, tray.count, tray.unit) == ("harness pin 1", 3, "V")
    assert "4.75" in tray.how


def test_the_list_is_walked_and_each_pair_says_what_it_is(bench: Bench) -> None:
    assert continuity_stage.state(bench.file).note == ""
    bench.make_safe()
    continuity.take_list(bench.store, bench.number, "Bus", "Board C", PAIRS, None)
    for pair, text, word in zip(
        lists(bench.file)[0].pairs,
        ("OL", "0.3", "0.2"),
        ("open", "connected, should not be", "as it should be"),
        strict=True,
    ):
        said = read(bench, pair.point, text)
        result = result_of(bench.file, said)
        assert result and result.meaning.word == word
    assert continuity_stage.state(bench.file).note == "2 pairs wrong"
    step = continuity_stage.next_step(bench.file)
    assert step and "A1 to B1 is wrong" in step.text
    drawn = str(draw_continuity(continuity_stage.page(bench.file, PageQuery())))
    (broken,) = re.findall(r'class="joint failed" d="([^"]+)"', drawn)
    assert broken.count("M") == 3  # two halves, and a cross between
    assert drawn.count('class="joint failed apart"') == 1 and drawn.count('class="joint good"') == 1


def test_a_long_list_is_drawn_around_the_pair_in_hand(bench: Bench) -> None:
    pairs = "one,other\n" + "".join(f"A{n},B{n}\n" for n in range(60))
    continuity.take_list(bench.store, bench.number, "Bus", "Board C", pairs, None)
    far = lists(bench.file)[0].pairs[50]
    page = continuity_stage.page(bench.file, PageQuery(at=far.point.key))
    drawn = str(draw_continuity(page))
    assert "36 more pairs" in drawn and ">A50<" in drawn and ">A0<" not in drawn
    assert drawn.count('class="ring"') == 2


def test_a_soak_under_way_says_how_long_it_is_to_run(bench: Bench) -> None:
    assert soak_stage.next_step(bench.file) is None
    rows = [("+5 V", Sample(1e9 + 3600 * n, 5.0)) for n in range(9)]
    soaks.add_rows(bench.store, bench.number, rows)
    step = soak_stage.next_step(bench.file)
    assert step and step.text == "Soak on: 16 h are left"
    assert soak_stage.state(bench.file).note == "8 of 24 h"
    page = soak_stage.page(bench.file, PageQuery())
    assert [one.shape for one in page.rails] == ["unproven"]
    assert "chart-trace" in str(draw_chart(page.rails[0].chart, "+5 V"))
    soaks.add_rows(bench.store, bench.number, [("+5 V", Sample(1e9 + 90_000, 6.0))])
    step = soak_stage.next_step(bench.file)
    assert step and step.text == "Soak: +5 V fails"
    assert machine_stage.state(bench.file).status is Status.ATTENTION
