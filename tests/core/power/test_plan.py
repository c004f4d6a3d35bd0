"""The plan of first power by hand: limits of the watch list, stop conditions, lamps and draws."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from hale_rail.core.power.plan import (
    LAMPS_W,
    LIKELY,
    Limiter,
    StopCondition,
    input_watts,
    limit,
    off_at,
    steps,
    stop_words,
    usual_limiter,
    wanted_amps,
    watch_list,
)
from hale_rail.core.procedures import Condition
from hale_rail.core.rails.judge import Tolerance
from hale_rail.core.supply.sheet import Rail, Regulation, Sheet, Topology
from hale_rail.core.supply.templates import make_part

MAIN, AUX, LINEAR, RAW = Regulation.MAIN, Regulation.AUXILIARY, Regulation.LINEAR, Regulation.RAW


def sheet(topology: Topology, *rails: Rail, boards: tuple[tuple[str, int], ...] = ()) -> Sheet:
    """A sheet with boards that take so many of its rails."""
    keys = tuple(rail.key for rail in rails)
    parts = tuple(
        make_part(n, ref, "board", "", n, rails=keys[:count])
        for n, (ref, count) in enumerate(boards, 1)
    )
    return Sheet("Test", topology, rails, parts)


@pytest.mark.parametrize(("rail", "volts"), [
    (Rail("+5 V", 5.0, MAIN), 5.5), (Rail("+5 V", 5.0, LINEAR), 5.5),
    (Rail("+12 V", 12.0, AUX), 14.4), (Rail("+12 V", 12.0, MAIN), 14.4),
    (Rail("−12 V", -12.0, AUX), -14.4), (Rail("−5 V", -5.0, LINEAR), -6.0),
    (Rail("+9 V", 9.0, RAW), 10.8), (Rail("+24 V", 24.0, LINEAR, tolerance=(0.1, 0.3)), 31.2),
])  # fmt: skip
def test_where_power_goes_off_at_once(rail: Rail, volts: float) -> None:
    assert off_at(rail, Condition.MACHINE) == pytest.approx(volts)


def test_without_a_load_a_rail_may_stand_higher() -> None:
    assert off_at(Rail("+12 V", 12.0, AUX), Condition.NO_LOAD) == pytest.approx(15.0)
    assert off_at(Rail("+9 V", 9.0, RAW), Condition.NO_LOAD) == pytest.approx(12.15)


@pytest.mark.parametrize(("load", "tolerance", "band"), [
    (Condition.DUMMY, Tolerance.STRICT, (4.75, 5.25)),
    (Condition.MACHINE, Tolerance.LENIENT, (4.5, 5.5)),
])  # fmt: skip
def test_the_watch_list_has_each_rails_band_at_the_steps_load(
    load: Condition, tolerance: Tolerance, band: tuple[float, float]
) -> None:
    (watched,) = watch_list([Rail("+5 V", 5.0, MAIN)], tolerance, load)
    assert watched.band_v == pytest.approx(band)
    raw = Rail("+9 V", 9.0, RAW)
    assert watch_list([raw], tolerance, Condition.NO_LOAD)[0].band_v == pytest.approx((7.65, 12.15))


def test_only_what_the_limiter_can_show_is_a_stop() -> None:
    assert StopCondition.LAMP_BRIGHT in stop_words(Limiter.LAMP)
    assert StopCondition.CURRENT_LIMIT not in stop_words(Limiter.LAMP)
    for limiter in (Limiter.BENCH, Limiter.VARIAC):
        assert StopCondition.LAMP_BRIGHT not in stop_words(limiter)
        assert StopCondition.CURRENT_LIMIT in stop_words(limiter)
    assert {stop.code for stop in StopCondition} <= LIKELY.keys()


@pytest.mark.parametrize(("topology", "limiter"), [
    (Topology.FLYBACK, Limiter.LAMP), (Topology.HALF_BRIDGE, Limiter.LAMP),
    (Topology.LINEAR, Limiter.LAMP), (Topology.DC_FED, Limiter.BENCH),
])  # fmt: skip
def test_the_usual_limiter(topology: Topology, limiter: Limiter) -> None:
    assert usual_limiter(topology) is limiter


@pytest.mark.parametrize("watts", [20.0, 26.0, 39.9, 75.0, 107.0, 149.0, 214.0, 290.0])
def test_a_lamp_that_is_sold_lies_between_the_input_power_and_twice_it(watts: float) -> None:
    found = limit(sheet(Topology.FLYBACK), Limiter.LAMP, 120.0, None, watts)
    assert found.lamp_w in LAMPS_W
    assert watts <= found.lamp_w <= 2 * watts
    assert found.hot_ohm == pytest.approx(120**2 / found.lamp_w)


@pytest.mark.parametrize(("watts", "lamp_w", "says"), [
    (5.0, 25.0, "25 W, incandescent (the smallest sold)"),
    (620.0, 1000.0, "2 side by side of 500 W, incandescent (620 W to 1.2 kW will do)"),
])  # fmt: skip
def test_below_and_above_the_lamps_that_are_sold(watts: float, lamp_w: float, says: str) -> None:
    found = limit(sheet(Topology.FLYBACK), Limiter.LAMP, 230.0, None, watts)
    assert found.lamp_w == lamp_w
    assert found.hot_ohm == pytest.approx(230**2 / lamp_w)
    assert found.setting.replace("\u00a0", " ").startswith(says)


def test_what_is_not_known_is_said_and_no_number_made_up() -> None:
    bare = sheet(Topology.FLYBACK, Rail("+5 V", 5.0, MAIN))
    assert input_watts(bare) is None
    lamp = limit(bare, Limiter.LAMP, 230.0, None, None)
    assert lamp.lamp_w is None
    assert "unknown" in lamp.setting
    assert limit(bare, Limiter.BENCH, 230.0, None, None).bench_a is None
    assert wanted_amps(bare.rails[0], 0.15) is None


def test_boards_come_one_at_a_time_the_one_with_most_rails_first() -> None:
    rails = (Rail("+5 V", 5.0, MAIN), Rail("+12 V", 12.0, AUX), Rail("−12 V", -12.0, AUX))
    found = steps(sheet(Topology.FLYBACK, *rails, boards=(("Disk", 2), ("Main", 3), ("Fan", 1))))
    assert [step.boards for step in found] == [
        (), (), ("Main",), ("Main", "Disk"), ("Main", "Disk", "Fan"),
    ]  # fmt: skip
    assert [step.name for step in found[2:]] == ["With Main", "And Disk", "And Fan"]
    assert len({step.key for step in found}) == len(found)
    alone = steps(sheet(Topology.DC_FED, rails[0]))
    assert [step.name for step in alone] == [
        "Supply alone, limited", "Supply alone, at full current",
    ]  # fmt: skip


def test_full_load_at_the_topologys_efficiency_is_what_it_takes() -> None:
    rails = (Rail("+5 V", 5.0, MAIN, None, 10.0), Rail("−12 V", -12.0, AUX, None, 0.5))
    assert input_watts(sheet(Topology.HALF_BRIDGE, *rails)) == pytest.approx(56 / 0.7)
    linear = tuple(replace(rail, regulation=LINEAR) for rail in rails)
    assert input_watts(sheet(Topology.LINEAR, *linear)) == pytest.approx(56 / 0.45)
