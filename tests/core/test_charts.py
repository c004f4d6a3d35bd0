"""Charts as plain shapes: where things stand, no peak lost, all within the frame."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.charts import Chart, thinned
from hale_rail.core.ledger.chart import survival_chart
from hale_rail.core.ledger.lifetimes import fit, survival
from hale_rail.core.ripple.chart import wave_chart
from hale_rail.core.soak.chart import soak_chart
from hale_rail.core.soak.soak import Sample, SoakLimits, soak
from hale_rail.core.supply.linemap import line_map
from hale_rail.core.supply.linemap.on_paper import map_chart
from hale_rail.core.supply.reach import PowerReach
from hale_rail.core.supply.sheet import TRUNK, Topology
from hale_rail.core.supply.templates import template

ASKED = SoakLimits(4.75, 5.25)


def soaked(volts: list[float], step_s: float = 600.0, skip: tuple[int, int] = (0, 0)) -> Chart:
    rows = [Sample(n * step_s, v) for n, v in enumerate(volts) if not skip[0] <= n < skip[1]]
    return soak_chart(rows, ASKED, soak(rows, ASKED))


def kinds(chart: Chart) -> list[str]:
    return [shape.kind for shape in chart.shapes]


def inside(chart: Chart) -> bool:
    return all(
        -0.01 <= x <= chart.wide + 0.01 and -0.01 <= y <= chart.tall + 0.01
        for shape in chart.shapes
        for x, y in shape.points
    )


def test_a_soak_has_its_limits_its_warm_up_and_its_rows() -> None:
    chart = soaked([5.0] * 145)
    assert kinds(chart)[:3] == ["warm-up", "limit", "limit"]
    assert "trace" in kinds(chart) and "gap" not in kinds(chart) and "trend" not in kinds(chart)
    low, high = (shape for shape in chart.shapes if shape.kind == "limit")
    trace = next(shape for shape in chart.shapes if shape.kind == "trace")
    assert low.points[0][1] > trace.points[0][1] > high.points[0][1]
    assert [word.text for word in chart.words[:2]] == ["4.75\u00a0V", "5.25\u00a0V"]


def test_a_gap_breaks_the_line_and_is_marked() -> None:
    chart = soaked([5.0] * 145, skip=(50, 70))
    assert kinds(chart).count("gap") == 1 and kinds(chart).count("trace") == 2
    gap = next(shape for shape in chart.shapes if shape.kind == "gap")
    first, second = (shape for shape in chart.shapes if shape.kind == "trace")
    assert first.points[-1][0] == pytest.approx(gap.points[0][0], abs=0.1)
    assert second.points[0][0] == pytest.approx(gap.points[1][0], abs=0.1)


def test_a_proven_trend_is_a_wedge_from_the_last_row() -> None:
    chart = soaked([5.0 + 0.001 * n for n in range(145)])
    wedge = next(shape for shape in chart.shapes if shape.kind == "trend")
    trace = next(shape for shape in chart.shapes if shape.kind == "trace")
    assert wedge.is_filled
    assert wedge.points[0] == pytest.approx(trace.points[-1], abs=0.1)
    assert wedge.points[1][1] < wedge.points[0][1]  # upwards


@given(st.lists(st.floats(-40, 40), min_size=1, max_size=80), st.floats(1, 1e5))
def test_whatever_was_read_stays_within_the_frame(volts: list[float], step: float) -> None:
    assert inside(soaked(volts, step))


@given(st.lists(st.floats(-5, 5), min_size=1, max_size=900), st.integers(1, 40))
def test_thinning_keeps_the_highest_and_the_lowest(volts: list[float], columns: int) -> None:
    points = [(float(n), v) for n, v in enumerate(volts)]
    found = thinned(points, columns)
    assert len(found) <= max(2 * columns, 2)
    assert max(v for _, v in found) == max(volts) and min(v for _, v in found) == min(volts)
    assert [x for x, _ in found] == sorted(x for x, _ in found)


def test_a_record_lies_over_the_one_before_within_its_limit() -> None:
    now = [(n * 1e-3, 0.01 * (-1) ** n) for n in range(40)]
    before = [(n * 1e-3, 0.04 * (-1) ** n) for n in range(40)]
    chart = wave_chart([("before", before), ("trace", now)], 0.05, "ripple")
    assert kinds(chart).index("before") < kinds(chart).index("trace")
    assert kinds(chart).count("limit") == 2 and inside(chart)
    assert "limit" not in kinds(wave_chart([("trace", now)], None, "ripple"))


def test_survival_steps_down_beside_the_curve_that_was_fitted() -> None:
    ages, failed = [10.0 + n for n in range(30)], [n % 2 == 0 for n in range(30)]
    found = fit(ages, failed)
    alive = [age for age, is_dead in zip(ages, failed, strict=True) if not is_dead]
    chart = survival_chart(survival(ages, failed), alive, found)
    assert kinds(chart).count("alive") == len(alive)
    assert {"trace", "fit", "grid"} <= set(kinds(chart)) and inside(chart)
    steps = next(shape for shape in chart.shapes if shape.kind == "trace").points
    assert [y for _, y in steps] == sorted(y for _, y in steps)
    none = survival_chart(survival([5.0], [False]), [5.0], fit([5.0], [False]))
    assert "fit" not in kinds(none)


@pytest.mark.parametrize("topology", list(Topology))
def test_the_plain_map_has_a_mark_for_every_station_of_the_map(topology: Topology) -> None:
    sheet = template(topology)
    picture = line_map(sheet)
    states = {part.id: "failed" for part in sheet.parts}
    chart = map_chart(picture, states, {"+5 V": ("4.98 V", "good")}, PowerReach({}, {}))
    assert kinds(chart).count("failed") == len(picture.stations)
    assert kinds(chart).count("track") == len(picture.segments)
    refs = {word.text for word in chart.words}
    assert all(station.above in refs for station in picture.stations)
    assert inside(chart)


def test_a_replaced_part_is_told_by_its_core_and_reach_lies_under_the_track() -> None:
    sheet = template(Topology.FLYBACK)
    picture = line_map(sheet)
    first = picture.stations[0].part
    chart = map_chart(picture, {first.id: "replaced"}, {}, PowerReach({TRUNK: 2}, {TRUNK: 4}))
    assert kinds(chart).count("core") == 1
    reached = [kind for kind in kinds(chart) if kind in ("live", "cold")]
    assert reached and kinds(chart).index(reached[0]) < kinds(chart).index("track")
