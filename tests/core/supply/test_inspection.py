"""The look-over round: its order, its codes, and what a finding argues."""

from __future__ import annotations

import pytest

from hale_rail.core.errors import QuantityError
from hale_rail.core.parts.others import SEEN_ARGUES, PartReadings, judge_part
from hale_rail.core.parts.verdicts import Verdict
from hale_rail.core.supply.inspection import SOUND, codes_for, inspection_round, toggled
from hale_rail.core.supply.points import Point, Quantity, understand
from hale_rail.core.supply.sheet import Kind, Sheet, Station
from hale_rail.demo import units

SHEETS = [units.loomwright(), units.draftmaster(), units.pattern_editor(), units.shed_terminal()]


@pytest.mark.parametrize("sheet", SHEETS, ids=lambda sheet: sheet.name)
def test_every_station_is_a_stop_in_power_order(sheet: Sheet) -> None:
    stops = inspection_round(sheet)
    assert [stop.station for stop in stops] == sheet.in_power_order
    for stop in stops:
        assert stop.what
        assert stop.codes[0].code == SOUND
        for code in stop.codes:
            point = Point(Quantity.LOOK, stop.station.id)
            assert understand(point, code.code, stop.station, None).echo == code.code


@pytest.mark.parametrize(
    ("kind", "code", "verdict"),
    [
        (Kind.FUSE, "blackened", Verdict.FAILED),
        (Kind.FUSE, "clean-gap", Verdict.FAILED),
        (Kind.FUSE, "none", Verdict.UNPROVEN),  # a fuse is measured, not believed
        (Kind.INLET, "none", Verdict.GOOD),
        (Kind.INLET, "perished", Verdict.FAILED),
        (Kind.BRIDGE, "joint", Verdict.WORN),
        (Kind.RESISTOR, "discoloured", Verdict.WORN),
        (Kind.BOARD, "battery-leak", Verdict.WORN),
        (Kind.BOARD, "repaired", Verdict.UNPROVEN),
    ],
)
def test_what_a_finding_argues(kind: Kind, code: str, verdict: Verdict) -> None:
    station = Station(1, "P1", kind, "main", 1)
    assert code in [c.code for c in codes_for(station)]
    assert judge_part(station, PartReadings(visual=(code,))).verdict is verdict


def test_every_code_that_argues_can_be_given_somewhere() -> None:
    stations = [Station(1, "P1", kind, "main", 1) for kind in Kind]
    assert set(SEEN_ARGUES) <= {c.code for s in stations for c in codes_for(s)}


def test_a_code_of_another_kind_is_refused() -> None:
    fuse = Station(1, "F1", Kind.FUSE, "main", 1)
    with pytest.raises(QuantityError, match="clean-gap"):
        understand(Point(Quantity.LOOK, 1), "bulge", fuse, None)


@pytest.mark.parametrize(
    ("seen", "pressed", "then"),
    [
        ((), "burnt", ("burnt",)),
        (("burnt",), "crack", ("burnt", "crack")),
        (("burnt", "crack"), "burnt", ("crack",)),
        (("burnt",), "burnt", ()),
        (("burnt", "crack"), "none", ("none",)),
        (("none",), "burnt", ("burnt",)),
        (("none",), "none", ()),
    ],
)
def test_several_findings_at_one_station(
    seen: tuple[str, ...], pressed: str, then: tuple[str, ...]
) -> None:
    assert toggled(seen, pressed) == then
