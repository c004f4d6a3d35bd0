"""The line map: order, loops, and that nothing overlaps, on the demo's units and random sheets."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.core.parts.families import Family
from hale_rail.core.parts.kinds import KINDS, board, connector
from hale_rail.core.supply.linemap import LineMap, line_map
from hale_rail.core.supply.linemap.shapes import WIDTH
from hale_rail.core.supply.sheet import TRUNK, Rail, Regulation, Sheet, Topology, group_banks
from hale_rail.core.supply.templates import make_part, template
from larkmoor import units

from ...sizes import examples

DEMO = [units.loomwright(), units.draftmaster(), units.pattern_editor(), units.shed_terminal()]
SHEETS = [*DEMO, *(template(t) for t in Topology)]


JOINTS = (connector.KIND, board.KIND)
Rectangle = tuple[float, float, float, float]


def label_boxes(picture: LineMap) -> list[Rectangle]:
    """Rectangles (x0, y0, x1, y1) of every marker, label, plate and capsule, text as drawn."""
    boxes: list[Rectangle] = []
    for station in picture.stations:
        r = station.radius
        boxes.append((station.x - r, station.y - r, station.x + r, station.y + r))
        tag = "unproven" if station.tag_drop else ""
        for text, width, y in (
            (station.above, 6.0, station.y - r - 16),
            (station.below, 5.6, station.y + r + 5),
            (tag, 5.0, station.y + r + station.tag_drop - 9),
        ):
            if text:
                half = len(text) * width / 2
                boxes.append((station.x - half, y, station.x + half, y + 12))
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
    assert picture.height <= 575
    assert len(DEMO[1].parts) == 60


@pytest.mark.parametrize("sheet", SHEETS, ids=lambda sheet: sheet.name)
def test_every_station_stands_once_in_power_order(sheet: Sheet) -> None:
    picture = line_map(sheet)
    placed = [station.part.id for station in picture.stations]
    joints = [s.id for s in sheet.parts if s.kind in JOINTS]
    assert sorted(placed + joints) == sorted(s.id for s in sheet.parts)
    for line in (TRUNK, *(rail.key for rail in sheet.rails)):
        walked = [s for stop in picture.stops[line] for s in stop if s not in joints]
        assert walked == [s.id for s in sheet.on_line(line)]


def test_parts_of_a_bank_stand_on_one_loop() -> None:
    sheet = DEMO[0]
    bank = tuple(s.id for s in sheet.parts if s.bank == "A")
    picture = line_map(sheet)
    assert bank in picture.stops["+5 V"]
    tracks = [s for s in picture.segments if s.is_loop and s.line == "+5 V" and len(s.points) > 2]
    assert len(tracks) == len(bank) == 3
    assert len({station.y for station in picture.stations if station.part.id in bank}) == 3


def test_a_connector_spans_its_rails_and_a_board_hangs_behind() -> None:
    picture = line_map(DEMO[0])
    heights = {box.label: (box.y, box.y + box.h) for box in picture.capsules}
    plates = {box.key: box.y + box.h / 2 for box in picture.plates}
    for key in ("+5 V", "+12 V", "−12 V", "−5 V"):
        assert heights["P1"][0] < plates[key] < heights["P1"][1]
    assert not heights["P2"][0] < plates["−12 V"] < heights["P2"][1]
    assert {box.label for box in picture.boards} == {"Disk", "Main board"}


DRAWN = st.sampled_from([kind.code for kind in KINDS if kind not in JOINTS])


@st.composite
def sheets(draw: st.DrawFn) -> Sheet:
    keys = draw(st.lists(st.sampled_from(["+5 V", "+12 V", "−12 V", "−5 V", "+24 V"]),
                         unique=True, min_size=1))  # fmt: skip
    parts = []
    for number in range(1, draw(st.integers(1, 60)) + 1):
        line = draw(st.sampled_from([TRUNK, *keys]))
        bank = draw(st.sampled_from(["", "", "A", "B"]))
        kind = "capacitor" if bank else draw(DRAWN)
        ref = f"{draw(st.sampled_from(['C', 'R', 'BR']))}{number}"
        marked = {"value": 4.7e-6, "volt": 16.0, "family": Family.ALUMINIUM, "bank": bank}
        parts.append(make_part(number, ref, kind, line, number, **marked))
    joint = make_part(90, "P1", "connector", "", 90, rails=tuple(keys))
    behind = make_part(91, "Board", "board", "", 91, rails=tuple(keys), board="P1")
    rails = tuple(Rail(key, 5.0, Regulation.LINEAR) for key in keys)
    return Sheet("drawn", Topology.LINEAR, rails, (*parts, joint, behind))


@settings(max_examples=examples(150), deadline=None)
@given(sheets())
def test_no_sheet_makes_labels_overlap(sheet: Sheet) -> None:
    picture = line_map(sheet)
    assert overlaps(picture) == []
    assert len(picture.stations) == len(sheet.parts) - 2
    points = [point for segment in picture.segments for point in segment.points]
    for x, y in [*points, *((station.x, station.y) for station in picture.stations)]:
        assert 0 < x < picture.width
        assert 0 < y < picture.height


def test_an_empty_sheet_is_still_a_picture() -> None:
    picture = line_map(Sheet("empty", Topology.LINEAR, (), ()))
    assert (picture.stations, picture.width > 0, picture.height > 0) == ((), True, True)


def test_a_bank_is_one_thing_for_judging_walking_and_drawing() -> None:
    """Parts of one line, behind one connector, under one name; the map's stops are the banks."""
    parts = [
        make_part(n, f"C{n}", "capacitor", line, n, bank=bank, board=joint)
        for n, (line, bank, joint) in enumerate(
            [("+5 V", "A", ""), ("+5 V", "A", ""), ("+5 V", "A", "P1"), ("+12 V", "A", ""),
             ("+5 V", "", ""), ("+5 V", "B", "P1"), ("+5 V", "A", "P1")], start=1)
    ]  # fmt: skip
    rails = (Rail("+5 V", 5.0, Regulation.MAIN), Rail("+12 V", 12.0, Regulation.AUXILIARY))
    joint = make_part(9, "P1", "connector", "", 90, rails=("+5 V",))
    sheet = Sheet("banks", Topology.FLYBACK, rails, (*parts, joint))
    together = [[p.id for p in group] for group in sheet.banks]
    assert together == [[1, 2], [3, 7], [5], [6], [4], [9]]
    assert [p.id for p in sheet.bank_of(parts[2])] == [3, 7]
    drawn = {stop for stops in line_map(sheet).stops.values() for stop in stops}
    assert {tuple(ids) for ids in together} == drawn
    assert [len(g) for g in group_banks(sheet.on_line("+12 V"))] == [1]


@pytest.mark.parametrize("sheet", SHEETS, ids=lambda sheet: sheet.name)
def test_a_map_fills_the_width_it_has(sheet: Sheet) -> None:
    picture = line_map(sheet)
    right = max(b.x + b.w for b in (*picture.boards, *picture.capsules))
    assert right > 0.84 * picture.width
