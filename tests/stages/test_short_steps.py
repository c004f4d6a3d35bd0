"""What is next on a shorted rail: isolate, trace, close, and read it again."""

from __future__ import annotations

from hale_rail.actions import readings
from hale_rail.actions.parts import decisions
from hale_rail.actions.parts.decisions import decide
from hale_rail.actions.shorts import boards
from hale_rail.case.file import open_case
from hale_rail.case.name_lookup import part_named
from hale_rail.core.procedures import GROUND, LEG_LIFTED, Condition, Point
from hale_rail.core.procedures.boards import board_part
from hale_rail.core.targets import rail_target
from hale_rail.stages.frame.next_step import next_step, stage_reached
from hale_rail.stages.stage import Urgency
from hale_rail.store.database import Store
from hale_rail.store.decisions import PART_DECISIONS
from tests.conftest import Bench

RAIL = "+5 V"
MAP = """{"rail": {"pads": [{"id": "p1", "x": 1, "y": 1}, {"id": "p2", "x": 9, "y": 1}],
"segments": [{"a": "p1", "b": "p2", "width_mm": 1}]}, "ground": "ideal",
"parts": [{"id": "C10", "ref": "C10", "family": "aluminium", "rail_pad": "p2"}]}"""


def low(store: Store) -> Bench:
    bench = Bench(store)
    bench.make_safe()
    bench.read(RAIL, "ground", "0.4", "attached")
    return bench


def said(bench: Bench) -> tuple[str, str, Urgency]:
    step = next_step(bench.file)
    return step.stage.key, step.text, step.urgency


def test_a_short_leads_from_isolate_over_the_map_to_the_part_and_back(store: Store) -> None:
    bench = low(store)
    assert said(bench) == (
        "isolate", f"{RAIL} low: find what removes the short", Urgency.FAULT
    )  # fmt: skip
    assert stage_reached(bench.file) == "Shorts"
    boards.save_map(store, bench.number, RAIL, MAP)
    assert said(bench) == ("trace", f"Trace {RAIL} on its map", Urgency.FAULT)
    lift = Point(board_part(RAIL, "C10"), LEG_LIFTED)
    readings.save_reading(store, bench.number, lift, "remains")
    assert said(bench)[1] == f"Trace {RAIL} on its map"
    readings.save_reading(store, bench.number, lift, "2k", check_seen=False)
    key, text, urgency = said(bench)
    assert key == "trace" and urgency is Urgency.PROVEN and text.startswith("C10 shorts +5 V")
    boards.close_trace(store, bench.number, RAIL)
    assert bench.file.rows.newest(PART_DECISIONS)[bench.id_of("C10")].reason.startswith(
        "it shorted +5 V"
    )
    key, text, urgency = said(bench)
    assert key == "shorts" and "to ground again" in text
    again = Point(rail_target(RAIL), GROUND, Condition.ATTACHED)
    assert next_step(bench.file).point == again
    readings.save_reading(store, bench.number, again, "22", check_seen=False)
    assert "ground again" not in said(bench)[1]


def test_what_was_replaced_needs_no_closing(store: Store) -> None:
    bench = low(store)
    boards.save_map(store, bench.number, RAIL, MAP)
    lift = Point(board_part(RAIL, "C10"), LEG_LIFTED)
    readings.save_reading(store, bench.number, lift, "gone")
    part = part_named(open_case(store, bench.number), "C10")
    decide(store, bench.number, part.id, "fitted", "2200 µF 10 V")
    assert "to ground again" in said(bench)[1]
    decisions.note(store, bench.number, "The old one kept for the shelf.")
    assert "to ground again" in said(bench)[1]
