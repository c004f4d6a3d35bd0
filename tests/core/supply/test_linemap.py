"""The line map: order, loops, and that nothing overlaps, on the demo's units and random sheets."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.core.parts.families import Family
from hale_rail.core.supply.linemap import WIDTH, LineMap, line_map
from hale_rail.core.supply.sheet import TRUNK, Kind, Rail, Regulation, Sheet, Station, Topology
from hale_rail.core.supply.templates import template
from hale_rail.demo import units

DEMO = [units.loomwright(), units.draftmaster(), units.pattern_editor(), units.shed_terminal()]
SHEETS = [*DEMO, *(template(t) for t in Topology)]


Rectangle = tuple[float, float, float, float]


def label_boxes(picture: LineMap) -> list[Rectangle]:
    """Rectangles (x0, y0, x1, y1) of every marker, label, plate and capsule, text as drawn."""
    boxes: list[Rectangle] = []
    for spot in picture.spots:
        r = spot.radius
        boxes.append((spot.x - r, spot.y - r, spot.x + r, spot.y + r))
        tag = "unproven" if spot.tag_drop else ""
        for text, width, y in (
            (spot.above, 6.0, spot.y - r - 14),
            (spot.below, 5.6, spot.y + r + 2),
            (tag, 5.0, spot.y + r + spot.tag_drop - 9),
        ):
            if text:
                half = len(text) * width / 2
                boxes.append((spot.x - half, y, spot.x + half, y + 12))
    boxes += [(b.x, b.y, b.x + b.w, b.y + b.h) for b in (*picture.plates, *picture.capsules)]
    return boxes


def overlaps(picture: LineMap) -> list[tuple[object, object]]:
    boxes = label_boxes(picture)
    return [
        (a, b)
        for i, a in enumerate(boxes)
        for b in boxes[i + 1 :]
        if a[0] < b[2] - 0.5 and b[0] < a[2] - 0.5 and a[1] < b[3] - 0.5 and b[1] < a[3] - 0.5
    ]


@pytest.mark.parametrize("sheet", SHEETS, ids=lambda sheet: sheet.name)
def test_readable_on_the_page(sheet: Sheet) -> None:
    picture = line_map(sheet)
    assert overlaps(picture) == []
    assert picture.width <= WIDTH + 14
    assert picture.height <= 540
    assert len(DEMO[1].stations) == 60


@pytest.mark.parametrize("sheet", SHEETS, ids=lambda sheet: sheet.name)
def test_every_station_stands_once_in_power_order(sheet: Sheet) -> None:
    picture = line_map(sheet)
    placed = [spot.station.id for spot in picture.spots]
    joints = [s.id for s in sheet.stations if s.kind in (Kind.CONNECTOR, Kind.BOARD)]
    assert sorted(placed + joints) == sorted(s.id for s in sheet.stations)
    for line in (TRUNK, *(rail.key for rail in sheet.rails)):
        walked = [s for stop in picture.stops[line] for s in stop if s not in joints]
        assert walked == [s.id for s in sheet.on_line(line)]


def test_parts_of_a_bank_stand_on_one_loop() -> None:
    sheet = DEMO[0]
    bank = tuple(s.id for s in sheet.stations if s.bank == "A")
    picture = line_map(sheet)
    assert bank in picture.stops["+5 V"]
    tracks = [s for s in picture.segments if s.is_loop and s.line == "+5 V" and len(s.points) > 2]
    assert len(tracks) == len(bank) == 3
    assert len({spot.y for spot in picture.spots if spot.station.id in bank}) == 3


def test_a_connector_spans_its_rails_and_a_board_hangs_behind() -> None:
    picture = line_map(DEMO[0])
    heights = {box.label: (box.y, box.y + box.h) for box in picture.capsules}
    plates = {box.key: box.y + box.h / 2 for box in picture.plates}
    for key in ("+5 V", "+12 V", "−12 V", "−5 V"):
        assert heights["P1"][0] < plates[key] < heights["P1"][1]
    assert not heights["P2"][0] < plates["−12 V"] < heights["P2"][1]
    assert {box.label for box in picture.boards} == {"Disk", "Main board"}


KINDS = st.sampled_from([k for k in Kind if k not in (Kind.CONNECTOR, Kind.BOARD)])


@st.composite
def sheets(draw: st.DrawFn) -> Sheet:
    keys = draw(st.lists(st.sampled_from(["+5 V", "+12 V", "−12 V", "−5 V", "+24 V"]),
                         unique=True, min_size=1))  # fmt: skip
    stations = []
    for number in range(1, draw(st.integers(1, 60)) + 1):
        line = draw(st.sampled_from([TRUNK, *keys]))
        bank = draw(st.sampled_from(["", "", "A", "B"]))
        kind = Kind.CAPACITOR if bank else draw(KINDS)
        ref = f"{draw(st.sampled_from(['C', 'R', 'BR']))}{number}"
        stations.append(
            Station(number, ref, kind, line, number, 4.7e-6, 16.0, Family.ALUMINIUM, bank=bank)
        )
    joint = Station(90, "P1", Kind.CONNECTOR, "", 90, rails=tuple(keys))
    board = Station(91, "Board", Kind.BOARD, "", 91, rails=tuple(keys), board="P1")
    rails = tuple(Rail(key, 5.0, Regulation.LINEAR) for key in keys)
    return Sheet("drawn", Topology.LINEAR, rails, (*stations, joint, board))


@settings(max_examples=150, deadline=None)
@given(sheets())
def test_no_sheet_makes_labels_overlap(sheet: Sheet) -> None:
    picture = line_map(sheet)
    assert overlaps(picture) == []
    assert len(picture.spots) == len(sheet.stations) - 2
    points = [point for segment in picture.segments for point in segment.points]
    for x, y in [*points, *((spot.x, spot.y) for spot in picture.spots)]:
        assert 0 < x < picture.width
        assert 0 < y < picture.height


def test_an_empty_sheet_is_still_a_picture() -> None:
    picture = line_map(Sheet("empty", Topology.LINEAR, (), ()))
    assert (picture.spots, picture.width > 0, picture.height > 0) == ((), True, True)
