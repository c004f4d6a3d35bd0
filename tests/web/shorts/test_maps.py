"""Maps of boards: whose they are, and results that are of one map alone."""

from __future__ import annotations

import pytest

from hale_rail.actions import readings
from hale_rail.actions.intake.cases import edit
from hale_rail.actions.intake.sheets import keep_pattern
from hale_rail.actions.shorts import boards
from hale_rail.case import worker
from hale_rail.case.file import open_case
from hale_rail.case.worker import AnalysisState
from hale_rail.core.procedures import LEG_LIFTED, Point
from hale_rail.core.procedures.boards import board_part
from hale_rail.store.database import Store
from tests.conftest import Bench, Client
from tests.web.shorts.test_shorts import CASE, PAGE, RAIL, settled


def test_a_result_of_another_map_is_not_shown_while_the_new_one_is_traced(
    client: Client, demo: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The last result of this map is; one of a map that has other parts would name what is gone."""
    settled(demo)
    monkeypatch.setattr(worker, "_asked", lambda *_: AnalysisState(share=0.3))
    version = open_case(demo, CASE).rows.maps[RAIL].version
    readings.save_reading(demo, CASE, Point(board_part(RAIL, "C61"), LEG_LIFTED), "0.4",
                          check_seen=False)  # fmt: skip
    page = client.text(f"{PAGE}/trace?by=%2B12%20V")
    assert "The last result is shown until then" in page and "C60#2" in page
    body = open_case(demo, CASE).rows.maps[RAIL].body.replace('"C60#2"', '"C60x"')
    boards.save_map(demo, CASE, RAIL, body, version)
    page = client.text(f"{PAGE}/trace?by=%2B12%20V")
    assert "It is shown once it is done" in page


def test_a_map_drawn_before_its_type_was_named_is_the_next_units_too(store: Store) -> None:
    drawn = '{"rail": {"pads": [{"id": "p1", "x": 1, "y": 2}], "segments": []}, "ground": "ideal"}'
    for number in ("T-1", "T-2", "T-3"):
        Bench(store, number=number, unit_type="")
    boards.save_map(store, "T-1", "+5 V", drawn, 0)
    keep_pattern(store, "T-1", "Ferrule 3")
    kind = str(open_case(store, "T-1").case.unit_type_id)
    edit(store, "T-2", open_case(store, "T-2").case.version, unit_type=kind)
    assert open_case(store, "T-2").rows.maps["+5 V"] == open_case(store, "T-1").rows.maps["+5 V"]
    boards.save_map(store, "T-3", "+12 V", drawn, 0)
    edit(store, "T-3", open_case(store, "T-3").case.version, unit_type=kind)
    assert set(open_case(store, "T-1").rows.maps) == {"+5 V", "+12 V"}
