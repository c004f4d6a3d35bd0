"""A candidate in its footprint: to one scale, what is not known left out, its words."""

from __future__ import annotations

import re

import pytest

from hale_rail.core.parts.families import Family
from hale_rail.core.recap.needs import Build, Mount, Needs, Role
from hale_rail.web.recap.candidate_drawing import draw_candidate

CAN = Build(Family.ALUMINIUM, 1e-4, 25.0, mount=Mount.RADIAL, pitch_mm=5.0, diameter_mm=10.0,
            height_mm=20.0)  # fmt: skip
ROOM = Needs("a", "C7", Role.START_UP, Family.ALUMINIUM, 1e-4, 25.0, "", Mount.RADIAL, 7.5, 12.0,
             25.0)  # fmt: skip


def shapes(drawn: str, name: str) -> list[tuple[float, float]]:
    """Widths and heights of the fields of a kind."""
    found = re.findall(rf'<rect class="{name}\b[^>]* width="([\d.]+)" height="([\d.]+)"', drawn)
    return [(float(wide), float(tall)) for wide, tall in found]


def rounds(drawn: str, name: str) -> list[float]:
    return [float(r) for r in re.findall(rf'<circle class="{name}\b[^>]* r="([\d.]+)"', drawn)]


def test_room_old_can_and_new_can_are_to_one_scale_in_both_views() -> None:
    drawn = draw_candidate(ROOM, CAN, (11.0, 22.0))
    (room,), (old,), (new,) = (shapes(drawn, n) for n in ("room", "old-can", "new-can"))
    scale = new[0] / 10
    assert new == pytest.approx((10 * scale, 20 * scale), abs=0.1)
    assert old == pytest.approx((11 * scale, 22 * scale), abs=0.1)
    assert room == pytest.approx((12 * scale, 25 * scale), abs=0.1)
    assert rounds(drawn, "new-can") == pytest.approx([5 * scale], abs=0.1)
    holes = [float(x) for x in re.findall(r'class="hole box" cx="([\d.]+)"', drawn)]
    assert holes[1] - holes[0] == pytest.approx(7.5 * scale, abs=0.2)
    leads = [float(x) for x in re.findall(r'class="lead ring" d="M ([\d.]+)', drawn)]
    assert leads[1] - leads[0] == pytest.approx(5 * scale, abs=0.2)
    assert "10 × 20 mm" in drawn
    assert "holes at 7.5, leads at 5 mm" in drawn


SIZES = [(2.0, 5.0), (30.0, 50.0), (10.0, 200.0), (100.0, 5.0)]


@pytest.mark.parametrize(("wide", "tall"), SIZES)
def test_whatever_its_size_it_stays_inside_the_picture(wide: float, tall: float) -> None:
    build = Build(Family.ALUMINIUM, 1e-4, mount=Mount.RADIAL, diameter_mm=wide, height_mm=tall)
    drawn = draw_candidate(ROOM, build, (wide * 1.2, tall * 1.1))
    _, __, width, height = map(float, re.findall(r'viewBox="([^"]+)"', drawn)[0].split())
    boxes = re.findall(
        r'<rect[^>]* x="([-\d.]+)" y="([-\d.]+)" width="([\d.]+)" height="([\d.]+)"', drawn
    )
    assert boxes
    for x, y, w, h in boxes:
        assert 0 <= float(x) <= float(x) + float(w) <= width
        assert 0 <= float(y) <= float(y) + float(h) <= height
    for x, r in re.findall(r'<circle[^>]* cx="([\d.]+)"[^>]* r="([\d.]+)"', drawn):
        assert 0 <= float(x) - float(r) <= float(x) + float(r) <= width


def test_an_axial_part_lies_between_its_holes() -> None:
    needs = Needs("a", "C7", Role.START_UP, Family.ALUMINIUM, 1e-4, mount=Mount.AXIAL, pitch_mm=30)
    rod = Build(Family.ALUMINIUM, 1e-4, mount=Mount.AXIAL, diameter_mm=10.0, height_mm=25.0)
    drawn = draw_candidate(needs, rod, None)
    side, top = shapes(drawn, "new-can")
    assert side[0] / side[1] == pytest.approx(25 / 10, abs=0.02)
    assert top[0] == pytest.approx(side[0], abs=0.1)
    assert not rounds(drawn, "new-can")


def test_what_is_not_known_is_not_drawn() -> None:
    bare = Needs("a", "C7", Role.START_UP, Family.ALUMINIUM, 1e-4)
    for build in (None, Build(Family.ALUMINIUM, 1e-4)):
        drawn = draw_candidate(bare, build, None)
        assert not shapes(drawn, "room")
        assert not shapes(drawn, "new-can")
        assert "hole" not in drawn
        assert "None" not in drawn
        assert 'role="img"' in drawn
    assert "no candidate is drawn" in draw_candidate(bare, None, None)
    assert "of unknown size" in draw_candidate(bare, Build(Family.ALUMINIUM, 1e-4), None)


def test_a_hostile_designator_is_written_not_run() -> None:
    needs = Needs("a", '"><script>', Role.START_UP, Family.ALUMINIUM, 1e-4)
    assert "<script" not in draw_candidate(needs, CAN, None)
