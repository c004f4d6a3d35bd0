"""The order of tests: as power passes, banks once, lifted only where it settles something."""

from __future__ import annotations

import pytest

from hale_rail.actions.parts import decisions
from hale_rail.case.walks import (
    capacitor_points,
    cold_points,
    done,
    ground_points,
    next_undone,
    part_point,
    store_points,
)
from hale_rail.core.procedures import Condition, Point
from hale_rail.core.targets import Pair
from hale_rail.stages.frame.tray import result_of
from hale_rail.store.database import Store
from tests.conftest import Bench


def names(bench: Bench, points: tuple[Point, ...]) -> list[str]:
    """Points as designator, procedure and, lifted, an L."""
    found = []
    for point in points:
        part = bench.file.sheet.part(point.part_id)
        lifted = " L" if point.condition.code == "lifted" else ""
        found.append(f"{part.ref if part else point.target.rail} {point.procedure.code}{lifted}")
    return found


def test_cold_checks_follow_power_and_leave_capacitors_to_their_own_stage(bench: Bench) -> None:
    walked = names(bench, cold_points(bench.file))
    refs = list(dict.fromkeys(name.split()[0] for name in walked))
    in_order = [p.ref for p in bench.file.sheet.in_power_order if p.kind.walks]
    assert refs == in_order
    assert walked[0] == "F1 ohms"
    assert not any(name.startswith("C") for name in walked)


def test_what_in_circuit_did_not_settle_is_lifted_at_the_end_of_the_round(bench: Bench) -> None:
    bench.make_safe()
    before = names(bench, cold_points(bench.file))
    bench.read("RT1", "ohms", "0.1")  # cold it reads more: warm still, or something beside it
    bench.read("D10", "diode", "0.05", "in-circuit", bench.part("D10").kind.pairs[0])
    bench.read("D10", "diode", "0.05", "in-circuit", bench.part("D10").kind.pairs[0].turned)
    walked = names(bench, cold_points(bench.file))
    assert walked[: len(before)] == before
    assert {name.split()[0] for name in walked[len(before) :]} == {"D10"}
    assert all(name.endswith(" L") for name in walked[len(before) :])
    decisions.decide(bench.store, bench.number, bench.id_of("D10"), "fitted", "new")
    assert names(bench, cold_points(bench.file)) == before


def test_a_bank_is_probed_once_by_both_figures_a_single_part_by_one(store: Store) -> None:
    pasted = "\n".join(f"C{n} 470u 16V +5 bank Z" for n in (31, 32, 33)) + "\nC40 10u 25V +12"
    bench = Bench(store, parts=pasted)
    walked = names(bench, capacitor_points(bench.file))
    assert [name for name in walked if name.startswith("C3")] == ["C31 esr", "C31 c"]
    assert [name for name in walked if name.startswith("C40")] == ["C40 esr"]


def test_the_next_point_is_looked_for_behind_then_from_the_start(bench: Bench) -> None:
    order = ground_points(bench.file)
    keys = [point.key for point in order]
    assert next_undone(order, frozenset()) == order[0]
    assert next_undone(order, frozenset(), after=keys[2]) == order[3]
    assert next_undone(order, frozenset(keys[3:]), after=keys[2]) == order[0]
    assert next_undone(order, frozenset(keys), after=keys[2]) is None
    assert next_undone(order, frozenset(keys[:-1]), after=keys[-1]) is None
    assert next_undone((), frozenset()) is None


@pytest.mark.parametrize(("volts", "is_done"), [("0.4", True), ("59", True), ("61", False)])
def test_a_store_is_done_only_at_or_below_the_touch_limit(
    bench: Bench, volts: str, *, is_done: bool
) -> None:
    bench.make_safe()
    bench.read("C1", "store", volts)
    (point,) = (p for p in store_points(bench.file) if p.part_id == bench.id_of("C1"))
    assert (point.key in done(bench.file)) == is_done


def test_a_failed_part_needs_no_further_reading(bench: Bench) -> None:
    bench.make_safe()
    pair = bench.part("Q1").kind.pairs[0]
    for way in (pair, pair.turned):
        bench.read("Q1", "diode", "0.002", "lifted", way)
    assert bench.state("Q1") == "failed"
    of_q1 = {p.key for p in cold_points(bench.file) if p.part_id == bench.id_of("Q1")}
    assert of_q1 <= done(bench.file)
    shown = part_point(bench.file, bench.part("Q1"))
    assert shown
    assert shown.part_id == bench.id_of("Q1")


def test_what_is_lifted_is_read_lifted_until_it_is_put_back(bench: Bench) -> None:
    bench.make_safe()
    forward = bench.part("D10").kind.pairs[0]
    point, back = (bench.point("D10", "diode", pair=p) for p in (forward, forward.turned))
    lifted = bench.point("D10", "diode", "lifted", forward.turned)
    assert {point, back} <= set(cold_points(bench.file))
    bench.read("D10", "diode", "0.5", "lifted", forward)
    assert back not in cold_points(bench.file)
    assert lifted in cold_points(bench.file)
    here = part_point(bench.file, bench.part("D10"))
    assert here is not None
    assert here.condition is Condition.LIFTED
    bench.read("D10", "ohms", "12k", "in-circuit")
    assert lifted not in cold_points(bench.file)
    assert back in cold_points(bench.file)


@pytest.mark.parametrize(
    ("pair", "text", "word", "says"),
    [
        (("~1", "+"), "short", "failed", "AC1 to +"),
        (("-", "~2"), "0.55", "noted", "pairs read sound"),
    ],
)
def test_the_tray_speaks_of_the_pins_just_typed(
    bench: Bench, pair: tuple[str, str], text: str, word: str, says: str
) -> None:
    bench.make_safe()
    bench.read("BR1", "diode", "short", "lifted", Pair("~1", "+"))
    reading = bench.read("BR1", "diode", text, "lifted", Pair(*pair))
    result = result_of(bench.file, reading)
    assert result is not None
    assert result.meaning.word == word
    assert says in f"{result.where} {result.meaning.text}"
    assert result.figure in ("0\u00a0V", "0.55\u00a0V", "550\u00a0mV")


@pytest.mark.parametrize(
    ("at", "condition", "text", "word", "says"),
    [
        # the reading just made is spoken of, with its own condition; then the part as a whole
        ("D10", "lifted", "0.5", "noted", "D10"),
        ("C30", "lifted", "0.08", "good", "C30 in all: failed"),
    ],
)
def test_the_tray_speaks_of_the_reading_just_made(
    store: Store, at: str, condition: str, text: str, word: str, says: str
) -> None:
    bench = Bench(store, parts="C30 470u 16V +5")
    bench.make_safe()
    if at == "C30":
        bench.read("C30", "c", "210u", "lifted")  # 55 % lost
        reading = bench.read("C30", "esr", text, condition)
    else:
        forward = bench.part("D10").kind.pairs[0]
        bench.read("D10", "diode", "0.01", "in-circuit", forward)
        reading = bench.read("D10", "diode", text, condition, forward)
    result = result_of(bench.file, reading)
    assert result is not None
    assert result.meaning.word == word
    assert says in f"{result.where} {result.meaning.text}"
    assert "in circuit" not in f"{result.where} {result.meaning.text}"


def test_ohms_to_ground_the_other_way_round_speak_of_themselves(bench: Bench) -> None:
    """84 Ω, then 11 Ω reversed: the tray once said "84 Ω: no short"."""
    bench.make_safe()
    bench.read("+5 V", "ground", "84")
    reading = bench.read("+5 V", "ground", "11", "attached-reversed")
    result = result_of(bench.file, reading)
    assert result is not None
    assert result.figure == "11\u00a0Ω"
    assert result.meaning.text.startswith("11\u00a0Ω")
