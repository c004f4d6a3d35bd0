"""How far power is proven to reach."""

from __future__ import annotations

import pytest

from hale_rail.core.supply.linemap import line_map
from hale_rail.core.supply.reach import reach
from hale_rail.core.supply.sheet import TRUNK
from larkmoor.units import loomwright

SHEET = loomwright()
STOPS = line_map(SHEET).stops
IDS = {s.ref: s.id for s in SHEET.parts}
SERIES = ("F1", "S1", "L1", "RT1", "BR1", "Q1", "T1")
END = len(STOPS[TRUNK]) + 1


def at(ref: str, line: str = TRUNK) -> int:
    """The count of stops up to and with this one."""
    return next(i for i, stop in enumerate(STOPS[line]) if IDS[ref] in stop) + 1


@pytest.mark.parametrize(
    ("energised", "rails", "passed", "broken", "live", "cold"),
    [
        ((), {}, (), (), 0, 0),
        (("C1",), {}, (), (), at("C1"), 0),
        ((), {}, ("F1", "S1"), (), 0, at("S1")),
        ((), {}, ("S1", "L1"), (), 0, 0),  # the fuse before them was not read
        ((), {}, SERIES, (), 0, at("T1")),
        (("C1",), {}, (), ("F1",), at("F1"), 0),
        ((), {"+5 V": False}, (), (), END, 0),
    ],
)
def test_along_the_trunk(
    energised: tuple[str, ...],
    rails: dict[str, bool],
    passed: tuple[str, ...],
    broken: tuple[str, ...],
    live: int,
    cold: int,
) -> None:
    ids = [tuple(IDS[ref] for ref in refs) for refs in (energised, passed, broken)]
    found = reach(SHEET, STOPS, ids[0], rails, ids[1], ids[2])
    assert (found.live[TRUNK], found.cold[TRUNK]) == (live, cold)


def test_a_rail_read_at_the_supply_ends_at_its_connector() -> None:
    found = reach(SHEET, STOPS, (), {"+5 V": False, "+12 V": True}, (), ())
    line = STOPS["+5 V"]
    assert line[found.live["+5 V"] - 1] == (IDS["P2"],)
    assert found.live["+12 V"] > len(STOPS["+12 V"])
    assert found.live["−12 V"] == 0
    assert found.kind("+12 V", 0) == "live"
    assert found.kind("−12 V", 0) == ""


def test_a_failed_fuse_cuts_every_rail_behind_it() -> None:
    found = reach(SHEET, STOPS, (), {"+5 V": True}, (), (IDS["F1"],))
    assert found.live["+5 V"] == 0
