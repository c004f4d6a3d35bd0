"""The look-over round: its order, its codes, and what a finding argues."""

from __future__ import annotations

import pytest

from hale_rail.core.parts.kinds import KINDS
from hale_rail.core.parts.looks import BY_CODE, FINDINGS, SOUND, toggled
from hale_rail.core.parts.measured import PartReadings
from hale_rail.core.parts.verdicts import Verdict
from hale_rail.core.supply.sheet import Sheet
from hale_rail.core.supply.templates import make_part
from hale_rail.stages.parts.look import inspection_round
from larkmoor import units

SHEETS = [units.loomwright(), units.draftmaster(), units.pattern_editor(), units.shed_terminal()]


@pytest.mark.parametrize("sheet", SHEETS, ids=lambda sheet: sheet.name)
def test_every_part_is_a_stop_in_power_order(sheet: Sheet) -> None:
    stops = inspection_round(sheet)
    assert [stop.part for stop in stops] == list(sheet.in_power_order)
    for stop in stops:
        assert stop.what
        assert stop.findings[0].code == SOUND
        assert len(set(stop.findings)) == len(stop.findings)


@pytest.mark.parametrize(
    ("kind", "code", "verdict"),
    [
        ("fuse", "blackened", Verdict.FAILED),
        ("fuse", "clean-gap", Verdict.FAILED),
        ("fuse", "none", Verdict.UNPROVEN),  # a fuse is measured, not believed
        ("inlet", "none", Verdict.GOOD),
        ("inlet", "perished", Verdict.FAILED),
        ("bridge", "joint", Verdict.WORN),
        ("resistor", "discoloured", Verdict.WORN),
        ("board", "battery-leak", Verdict.WORN),
        ("board", "repaired", Verdict.UNPROVEN),
    ],
)
def test_what_a_finding_argues(kind: str, code: str, verdict: Verdict) -> None:
    part = make_part(1, "P1", kind, "main", 1)
    assert code in [finding.code for finding in part.findings]
    assert part.kind.judge(part, PartReadings(seen=(code,))).verdict is verdict


def test_every_code_can_be_found_somewhere_and_is_known() -> None:
    used = {code for kind in KINDS for code in kind.findings} | {SOUND}
    assert used == {finding.code for finding in FINDINGS} == set(BY_CODE)


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
