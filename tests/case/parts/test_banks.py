"""Banks at the bench: read together, then leg by leg; changed part by part."""

from __future__ import annotations

import pytest

from hale_rail.actions.parts import decisions
from hale_rail.case.parts.parts import parts
from hale_rail.case.recap.recap import recap_lines
from hale_rail.case.walks import capacitor_points, done, next_undone
from hale_rail.core.procedures import Condition
from hale_rail.core.recap.demand import RecapPolicy
from hale_rail.store.database import Store
from tests.conftest import Bench

BANK = "C21 1000u 16V +5 bank Z\nC22 1000u 16V +5 bank Z\nC23 1000u 16V +5 bank Z"


def test_a_bank_is_judged_together_then_leg_by_leg(store: Store) -> None:
    bench = Bench(store, parts=BANK)
    bench.make_safe()
    bench.read("C21", "esr", "60m")
    bench.read("C21", "c", "2450u")
    assert [bench.state(ref) for ref in ("C21", "C22", "C23")] == ["unproven"] * 3
    lifts = [p for p in capacitor_points(bench.file) if p.condition is Condition.LIFTED]
    assert {p.part_id for p in lifts} == {bench.id_of("C21")}
    # the lifted one is dead; the rest read together are whole
    bench.read("C21", "c", "80u", "lifted")
    assert bench.state("C21") == "failed"
    bench.read("C22", "c", "1980u")
    assert [bench.state(ref) for ref in ("C22", "C23")] == ["unproven", "unproven"]
    bench.read("C22", "esr", "70m")
    assert [bench.state(ref) for ref in ("C22", "C23")] == ["good", "good"]
    facts = parts(bench.file)[bench.id_of("C22")]
    assert len(facts.mates) == 3
    bank = facts.bank
    assert bank is not None
    assert bank.judgement.expected_farad == pytest.approx(2e-3)


def test_a_bank_with_a_proven_loss_needs_no_more_probing(store: Store) -> None:
    bench = Bench(store, parts=BANK)
    bench.make_safe()
    bench.read("C21", "c", "1800u")
    assert [bench.state(ref) for ref in ("C21", "C22", "C23")] == ["failed"] * 3
    left = next_undone(capacitor_points(bench.file), done(bench.file))
    assert left is not None
    assert left.part_id not in {bench.id_of(ref) for ref in ("C21", "C22", "C23")}


def test_changing_one_part_of_a_bank_leaves_the_others_as_they_were_found(store: Store) -> None:
    bench = Bench(store, parts=BANK)
    bench.make_safe()
    bench.read("C21", "c", "1800u")
    decisions.decide(store, bench.number, bench.id_of("C21"), "fitted", "1000 µF 16 V")
    assert [bench.state(ref) for ref in ("C21", "C22", "C23")] == ["replaced", "failed", "failed"]
    bench.read("C22", "c", "2900u")  # across all three, the new one among them
    bench.read("C22", "esr", "45m")
    assert [bench.state(ref) for ref in ("C21", "C22", "C23")] == ["replaced", "good", "good"]


def test_a_reading_across_a_bank_is_no_members_own(store: Store) -> None:
    bench = Bench(store, parts=BANK)
    bench.make_safe()
    bench.read("C21", "esr", "60m")  # all three
    bench.read("C21", "c", "990u", "lifted")
    assert bench.codes("C21") == {"cap-good"}
    bench.read("C22", "c", "1970u")  # the two that stayed; no ESR of theirs was read
    assert "bank-esr" not in bench.codes("C22")
    assert bench.state("C22") == "unproven"
    bench.read("C22", "esr", "0.9")
    assert [bench.state(ref) for ref in ("C21", "C22", "C23")] == ["good", "failed", "failed"]
    bench.read("C22", "c", "1010u", "lifted")
    assert bench.codes("C22") == {"cap-good"}
    bench.read("C23", "esr", "0.2")  # the last one left, but the template's bank is beside it
    assert bench.codes("C23") == {"esr-hidden"}


def test_a_look_is_each_members_own(store: Store) -> None:
    bench = Bench(store, parts=BANK)
    bench.make_safe()
    bench.look("C22", "bulge")
    assert [bench.state(ref) for ref in ("C21", "C22", "C23")] == ["unseen", "failed", "unseen"]
    bench.read("C21", "c", "2950u")
    bench.read("C23", "esr", "60m")  # whichever member carries it
    assert [bench.state(ref) for ref in ("C21", "C22", "C23")] == ["good", "failed", "good"]


def test_paper_that_reads_well_is_on_no_list_of_what_was_proven_bad(store: Store) -> None:
    bench = Bench(store, parts="C41 X2 100n 275 paper 1984\nC42 X2 100n 275 paper 1984")
    bench.make_safe()
    bench.read("C41", "c", "99n", "lifted")
    bench.read("C42", "c", "80n", "lifted")
    assert (bench.state("C41"), bench.state("C42")) == ("worn", "failed")

    def listed(school: RecapPolicy) -> list[str]:
        refs = [line.refs for line in recap_lines(bench.file, school)]
        return [ref for line in refs for ref in line.split(", ") if ref in ("C41", "C42")]

    assert listed(RecapPolicy.PROVEN) == ["C42"]
    assert listed(RecapPolicy.OFFENDERS) == ["C41", "C42"]


def test_what_is_judged_together_is_walked_together(store: Store) -> None:
    bench = Bench(store, parts=BANK)
    walked = {p.part_id for p in capacitor_points(bench.file)}
    assert len(walked & {bench.id_of(ref) for ref in ("C21", "C22", "C23")}) == 1
    for facts in parts(bench.file).values():
        assert facts.mates == bench.file.sheet.bank_of(facts.part)


def test_only_what_a_change_touched_is_judged_again(store: Store) -> None:
    """A later state of the case shares the facts that its new rows leave true."""
    bench = Bench(store, parts=BANK)
    bench.make_safe()
    before = parts(bench.file)
    bench.read("C21", "esr", "60m")
    after = parts(bench.file)
    changed = {i for i in after if after[i] is not before[i]}
    assert changed == {bench.id_of(ref) for ref in ("C21", "C22", "C23")}
