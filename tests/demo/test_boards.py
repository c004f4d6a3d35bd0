"""The demo's board: its truth, and that what is read on it leads there."""

from __future__ import annotations

from pathlib import Path

import pytest

from hale_rail.case.file import open_case
from hale_rail.case.intake.drawings import drawings
from hale_rail.case.shorts.boards import board_maps
from hale_rail.case.shorts.isolation import isolation
from hale_rail.case.shorts.traces import board_readings, culprit
from hale_rail.core.intake.drawings import Trust
from hale_rail.core.shorts.board_model import Kind, TraceReading
from hale_rail.core.shorts.trace import trace
from hale_rail.store.database import Store
from larkmoor.boards import TRUTH, Etched, board, photo


def test_the_board_has_some_sixty_parts_and_designators_that_repeat():
    drawn = board()
    refs = [part.ref for part in drawn.parts]
    assert 55 <= len(refs) <= 65
    assert refs.count("C60") == 3 and refs.count("C62") == 14
    assert len({part.id for part in drawn.parts}) == len(refs)
    assert drawn.board().troubles == ()
    assert photo()[:4] == b"\x89PNG"


@pytest.mark.parametrize("case", sorted(TRUTH))
def test_walking_the_rail_from_its_connector_leads_to_the_truth(case):
    etched, drawn = Etched(case), board()
    pads = [pad.id for pad in drawn.rail.pads if pad.id != "P1.3"]
    taken = []
    for pad in pads[::3]:
        shown = etched.drop("P1.3", pad, "P1.3", "P1.5", 1.0)
        value = float(shown.split()[0]) / 1e3
        taken.append(TraceReading(Kind.DROP, "P1.3", pad, "P1.3", "P1.5", 1.0, value, 1e-4))
    found = trace(drawn.board(), taken)
    assert found.candidates[0][0].id == etched.part == TRUTH[case][0]
    assert found.candidates[0][1] > 0.9 and found.outliers == ()
    assert 0.9 < found.agreement.fit.nuisances[0] < 1.35


def test_one_case_is_half_way_and_one_is_finished(demo: Store) -> None:
    half, done = open_case(demo, "LW-022"), open_case(demo, "LW-003")
    rail = half.sheet.rail("+12 V")
    assert rail
    assert len(board_readings(half)["+12 V"]) == 1 and culprit(half, "+12 V") is None
    assert isolation(half, rail).shorted == ("main-board",)
    found = culprit(done, "+12 V")
    assert found and found.part.id == TRUTH["LW-003"][0]
    assert board_maps(half)["+12 V"].map == board_maps(done)["+12 V"].map
    assert [d.trust for d in drawings(half)] == [Trust.UNPROVEN]
    assert Path(demo.folder / "documents").exists()
