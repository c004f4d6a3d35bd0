"""Parts judged from the case's rows: fresh parts, base resistors, replaced parts, regulators."""

from __future__ import annotations

import pytest

from hale_rail.actions import readings
from hale_rail.actions.parts import decisions
from hale_rail.actions.safety import power
from hale_rail.case.parts.line_map import power_reach
from hale_rail.case.recap.recap import kept, recap_lines
from hale_rail.case.report.report import report
from hale_rail.case.subjects import subject_of
from hale_rail.case.walks import cold_points, done
from hale_rail.core.parts.kinds.transistor import PAIRS
from hale_rail.core.recap.demand import RecapPolicy
from hale_rail.errors import InputError
from hale_rail.store.database import Store
from hale_rail.web import create_app
from tests.conftest import Bench


def expect_of(bench: Bench, ref: str) -> str:
    """What the tray expects of a part's ESR: the limit that a reading is then judged by."""
    point = bench.point(ref, "esr")
    words = point.procedure.expect(point.condition, subject_of(bench.file, point))
    return words.replace("\u00a0", " ")


def test_a_base_resistor_is_told_from_a_short(bench: Bench) -> None:
    bench.make_safe()
    drops = (("43m", "43m"), ("0.61", "OL"), ("OL", "OL"))
    for pair, (forward, back) in zip(PAIRS, drops, strict=True):
        bench.read("Q1", "diode", forward, "lifted", pair)
        bench.read("Q1", "diode", back, "lifted", pair.turned)
    assert bench.state("Q1") == "unproven"
    wanted = bench.point("Q1", "ohms", "lifted", PAIRS[0])
    assert wanted in cold_points(bench.file)
    readings.save_reading(bench.store, bench.number, wanted, "43", check_seen=False)
    assert bench.state("Q1") == "good"
    readings.save_reading(bench.store, bench.number, wanted, "4", check_seen=False)
    assert bench.state("Q1") == "failed"


def test_a_fresh_part_speaks_for_all_of_its_kind(store: Store) -> None:
    bench = Bench(store, parts="C31 100u 25V +5\nC32 100u 25V +12\nC33 100u 16V +12")
    bench.make_safe()
    for ref in ("C31", "C32", "C33"):
        bench.read(ref, "esr", "0.9", "lifted")  # C·V 2500: general grade typical 0.66 Ω
        assert bench.state(ref) == "good"
    expected = expect_of(bench, "C31")
    bench.read("C31", "fresh-esr", "0.25")
    assert expected == "below 1.32 Ω"  # 2 × the 0.66 Ω that the family's table gives
    assert expect_of(bench, "C31") == expect_of(bench, "C32") == "below 0.375 Ω"  # 1.5 × fresh
    assert [bench.state(ref) for ref in ("C31", "C32", "C33")] == ["failed", "failed", "good"]


def test_a_regulator_shorted_through_suspects_its_rail(store: Store) -> None:
    bench = Bench(store, "template:linear")
    bench.make_safe()
    bench.read("U1", "ohms", "0.2", "lifted")
    assert bench.state("U1") == "failed"
    with create_app(store).test_client() as client:
        page = client.get(f"/cases/{bench.number}?at={bench.id_of('U1')}")
        text = page.get_data(as_text=True)
    assert "suspect all of these" in text
    assert text.index(">C11<") < text.index(">Main board</a>")


@pytest.mark.parametrize(("rail", "suspects"), [("+12", True), ("", False)])
def test_a_shorted_pass_transistor_suspects_its_rail(
    store: Store, rail: str, suspects: bool
) -> None:
    bench = Bench(store, "template:linear", parts=f"Q9 {rail}\nC99 10u 16V +12 tant")
    bench.make_safe()
    bench.read("Q9", "ohms", "short", "lifted")
    with create_app(store).test_client() as client:
        page = client.get(f"/cases/{bench.number}?at={bench.id_of('Q9')}")
        text = page.get_data(as_text=True)
    assert ("suspect all of these" in text) is suspects
    assert not suspects or ">C99</a>" in text


def test_a_replaced_part_starts_afresh(bench: Bench) -> None:
    bench.make_safe()
    bench.read("C12", "esr", "8")
    assert bench.state("C12") == "failed"
    decisions.decide(bench.store, bench.number, bench.id_of("C12"), "fitted", "1000 µF 25 V")
    assert bench.state("C12") == "replaced"
    bench.read("C12", "esr", "9")
    assert bench.state("C12") == "failed"
    with pytest.raises(InputError):
        decisions.decide(bench.store, bench.number, bench.id_of("C12"), "eaten")


def test_after_a_replacement_the_points_ask_again_and_the_report_keeps_both(store: Store) -> None:
    bench = Bench(store, parts="C12 1000u 25V +12 bank A\nC40 1000u 25V +12 bank A")
    bench.make_safe()
    bank, fuse = bench.point("C12", "esr"), bench.point("F1", "ohms")
    bench.read("F1", "ohms", "OL")
    bench.read("C12", "esr", "3")
    bench.read("C12", "c", "900u")
    assert {bank.key, fuse.key} <= done(bench.file)
    for ref, what in (("C40", "1000 µF 25 V"), ("F1", "1.25 A slow")):
        decisions.decide(store, bench.number, bench.id_of(ref), "fitted", what)
    assert done(bench.file).isdisjoint({bank.key, fuse.key})
    assert fuse in cold_points(bench.file)
    assert "F1, C40 replaced, not measured since." in report(bench.file).undone
    bench.read("F1", "ohms", "0.2")
    assert fuse.key in done(bench.file)
    assert bench.state("F1") == "replaced"
    rows = {row[0]: row for s in report(bench.file).sections for row in s.rows}
    assert rows["F1"][2] == "before: ohms OL; after: ohms 0.2\u00a0Ω"
    assert "1.25 A slow" in rows["F1"][3]
    bench.read("C12", "esr", "40m")
    assert bank.key in done(bench.file)


def test_a_decision_changes_the_list_at_once_and_needs_its_reason(bench: Bench) -> None:
    bench.make_safe()
    bench.read("C12", "esr", "8")
    c12 = bench.id_of("C12")

    def listed() -> set[str]:
        lines = recap_lines(bench.file, RecapPolicy.PROVEN)
        return {p.part.ref for line in lines for p in line.positions}

    assert listed() == {"C12"}
    with pytest.raises(InputError, match="why"):
        decisions.decide(bench.store, bench.number, c12, "keep", " ")
    decisions.decide(bench.store, bench.number, c12, "keep", "original, shown in a case")
    assert listed() == set()
    assert [p.part.ref for p in kept(bench.file)] == ["C12"]
    decisions.decide(bench.store, bench.number, bench.id_of("C13"), "replace", "same age")
    assert listed() == {"C13"}
    decisions.decide(bench.store, bench.number, c12, "undone")
    assert listed() == {"C12", "C13"}


def test_rails_prove_their_regulator_and_carry_the_band(store: Store) -> None:
    bench = Bench(store, "template:linear")
    power.apply_power(store, bench.number, "mains")
    bench.read("+5 V", "volts", "5.02", "dummy")
    assert bench.state("U1") == "good"
    assert power_reach(bench.file).live["+5 V"] > 0
    assert power_reach(bench.file).live["+12 V"] == 0
