"""What facets keep of parts that did not change, held to the same computed from nothing."""

from __future__ import annotations

import re
from contextlib import closing
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.actions import readings
from hale_rail.actions.intake import case_place, sheets
from hale_rail.actions.parts import decisions, looks
from hale_rail.actions.safety import power
from hale_rail.case.file import CaseFile, forget, open_case
from hale_rail.case.parts.line_map import case_map
from hale_rail.case.parts.proven import failures
from hale_rail.case.recap.recap import others, positions, replaced
from hale_rail.case.walks import capacitor_points, cold_points, done
from hale_rail.formats.units.part_words import write_part
from hale_rail.store.decisions import PART_DECISIONS
from hale_rail.web.frame.line_map_drawing import draw_map
from tests.conftest import Bench, opened
from tests.sizes import examples

REFS = ("C1", "C2", "C10", "F1", "BR1", "D10")
#: a part, and what is done to it: a reading in its place, a look, a decision, its marking corrected
STEPS = st.tuples(
    st.sampled_from(REFS), st.sampled_from(("good", "bad", "strike", "look", "fit", "undo", "mark"))
)
READ = {"C": ("esr", "0.1", "OL"), "F": ("ohms", "0.1", "OL"), "B": ("diode", "0.55", "0.001"),
        "D": ("diode", "0.5", "0.001")}  # fmt: skip


def shown(case: CaseFile) -> dict[str, object]:
    """What the pages show of parts, in the order they show it."""
    page = case_map(case)
    return {
        "cold": cold_points(case),
        "capacitors": capacitor_points(case),
        "done": done(case),
        "failures": list(failures(case).items()),
        "positions": positions(case),
        "replaced": replaced(case),
        "others": others(case),
        "map": draw_map(case, page, None),
    }


def do(bench: Bench, ref: str, what: str) -> None:
    store, number, part = bench.store, bench.number, bench.part(ref)
    if what in ("good", "bad"):
        procedure, good, bad = READ[ref[0]]
        point = next(
            point
            for point in (*cold_points(bench.file), *capacitor_points(bench.file))
            if point.part_id == part.id and point.procedure.code == procedure
        )
        seen = bench.file.rows.standing.get(point.key)
        text = good if what == "good" else bad
        readings.save_reading(store, number, point, text, seen.id if seen else None)
    elif what == "strike":
        own = bench.file.rows.of_part.get(part.id, ())
        if own:
            readings.strike(store, number, own[-1].id, "wrong range")
    elif what == "look":
        looks.look(store, number, part.id, ["burnt"])
    elif what == "fit":
        decisions.decide(store, number, part.id, "fitted")
    elif what == "undo":
        if part.id in bench.file.rows.newest(PART_DECISIONS):
            decisions.decide(store, number, part.id, "undone")
    elif ref[0] == "C":
        was = write_part(part)
        sheets.correct_part(
            store, number, part.id, was, "47u 50V" if "47u" not in was else "100u 25V"
        )


@given(steps=st.lists(STEPS, max_size=10))
@settings(max_examples=examples(25, 6), deadline=None)
def test_what_is_kept_of_parts_is_what_they_give_anew(
    empty_master: Path, tmp_path_factory: pytest.TempPathFactory, steps: list[tuple[str, str]]
) -> None:
    with closing(opened(empty_master, tmp_path_factory.mktemp("on") / "data")) as store:
        bench = Bench(store, "template:flyback")
        bench.make_safe()
        power.pass_guard(store, bench.number, "so that a store's reading may be struck out too")
        for ref, what in steps:
            do(bench, ref, what)
            shown(bench.file)
        on = shown(bench.file)
        forget()
        assert shown(bench.file) == on


def test_the_map_links_to_the_case_by_its_present_number(bench: Bench) -> None:
    """A part that looks as before links to where the case stands now."""
    for number in (bench.number, "T-77"):
        if number != bench.number:
            case_place.rename(bench.store, bench.number, number)
        case = open_case(bench.store, number)
        links = re.findall(r'href="/cases/([^/?]+)', draw_map(case, case_map(case), None))
        assert set(links) == {number}
