"""The one thing to do next, the side list, and the bench page's line."""

from __future__ import annotations

import pytest

from hale_rail.actions.readings import save_reading
from hale_rail.actions.safety import power
from hale_rail.case.parts.parts import parts
from hale_rail.core.procedures import Point, parse_point
from hale_rail.core.targets import Pair
from hale_rail.stages import STAGES
from hale_rail.stages.frame.bench import bench as bench_page
from hale_rail.stages.frame.next_step import next_step, side_list, stage_reached
from hale_rail.store.database import Store
from tests.conftest import Bench

#: a sound unit's readings, by procedure and then by designator
USUAL = {"ohms": "0.4", "diode": "0.55", "ground": "2k2", "esr": "35m", "c": "100n"}
OF_PART = {
    "C2": "0.8",
    "RT1": "10",
    "Q1": "1M",
    "BR1": "1M",
    "C1": "0.4",
    "C12": "80m",
    "C13": "0.2",
}


def sound(bench: Bench, point: Point) -> str:
    """What a sound unit shows at a point."""
    part, code = bench.file.sheet.part(point.part_id), point.procedure.code
    if part is None:
        return USUAL[code]
    pair = point.target.pair
    if code == "diode":
        drop = "0.2" if part.kind.code == "schottky" else "0.55"
        return drop if pair in part.kind.pairs and pair != Pair("C", "E") else "OL"
    if code == "c":
        lifted = f"{part.value}e0" if point.condition.code == "lifted" else "4400u"
        return "101n" if part.ref == "CX1" else lifted
    return OF_PART.get(part.ref, "1M" if part.ref.startswith("D") else USUAL[code])


def test_the_next_step_leads_through_the_case(bench: Bench) -> None:
    """Following it by nothing but sound readings ends at the first power."""
    stages = []
    bench.make_safe()
    assert next_step(bench.file).stage.key == "look"
    bench.look("J1", "none")
    for _ in range(120):
        step = next_step(bench.file)
        if not stages or stages[-1] != step.stage.key:
            stages.append(step.stage.key)
        if not step.point_key:
            break
        point = parse_point(step.point_key)
        text = sound(bench, point)
        save_reading(bench.store, bench.number, point, text, check_seen=False)
    assert stages == ["cold", "shorts", "capacitors", "first-power"]
    paper, *others = [f for f in parts(bench.file).values() if f.part.capacitor]
    assert {f.state.value for f in others} == {"good"}
    assert (paper.part.ref, paper.judgement.action.value) == ("CX1", "replace")  # by its age


@pytest.mark.parametrize(
    ("script", "stage", "says"),
    [
        ("", "safe", "Pull the plug"),
        ("off", "safe", "Read the volts on C1"),
        ("off C1=310", "safe", "Bleed C1"),
        ("off C1=2", "look", "Look it over"),
        ("on", "rails", "read the rails"),
        ("on +5=5.0", "rails", "Read +12 V, in the machine"),
        ("on +5=5.0 +12=12 -12=-12", "safe", "log its removal"),
        ("on +5=6.4", "rails", "Power off at once"),
        ("on +5=6.4 off C1=2 on", "rails", "Read +12 V"),
        ("on +5=6.4 off C1=2 on +5=5.0", "rails", "Read +12 V"),
        ("off C1=2 g+5=0.4", "isolate", "+5 V low"),
        ("off C1=2 F1=OL", "cold", "Read S1"),
    ],
)
def test_the_most_pressing_step_comes_first(
    bench: Bench, script: str, stage: str, says: str
) -> None:
    rails = {"+5": "+5 V", "+12": "+12 V", "-12": "−12 V"}
    for word in script.split():
        name, _, text = word.partition("=")
        if name == "on":
            power.apply_power(bench.store, bench.number, "mains")
        elif name == "off":
            power.remove_power(bench.store, bench.number)
            for ref in ("C10", "C12", "C13"):
                bench.read(ref, "store", "0.1")
        elif name.startswith("g"):
            bench.read(rails[name[1:]], "ground", text, "attached")
        elif name in rails:
            bench.read(rails[name], "volts", text, "machine")
        else:
            bench.read(name, "store" if name == "C1" else "ohms", text)
    step = next_step(bench.file)
    assert step.stage.key == stage
    assert says in step.text


def test_the_side_list_is_the_order_of_work(bench: Bench) -> None:
    listed = side_list(bench.file)
    assert [each.stage for each in listed] == list(STAGES)
    assert all(each.state.note for each in listed)


def test_the_stage_reached_is_the_furthest_begun_while_it_is_made_safe_again(demo: Store) -> None:
    lines = {shown.number: shown.line.stage for shown in bench_page(demo, "")[0]}
    assert lines == {
        "LW-014": "Cold checks", "LW-022": "Shorts", "LW-031": "Rails", "LW-027": "In the machine",
        "LW-009": "Hand back", "LW-038": "Cold checks",
    }  # fmt: skip


def test_a_line_behind_its_case_is_made_anew_by_whoever_looks(bench: Bench) -> None:
    """As after a kill between an action's commit and the line that follows it."""
    with bench.store.write() as connection:
        connection.execute("UPDATE bench_line SET revision = 0, next_text = 'old news'")
    shown = bench_page(bench.store, "")[0][0]
    assert shown.line.next_text == "Pull the plug, then read every store"
    row = bench.store.read().execute("SELECT revision, next_text FROM bench_line").fetchone()
    assert tuple(row) == (bench.file.case.revision, shown.line.next_text)
    assert stage_reached(bench.file) == "Make safe"
