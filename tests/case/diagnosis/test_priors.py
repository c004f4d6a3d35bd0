"""What the ledger gives: into the trace, the offenders and the diagnosis, never into a verdict."""

from __future__ import annotations

from hale_rail.actions.diagnosis import diagnosis as diagnosing
from hale_rail.actions.intake import cases
from hale_rail.actions.parts import decisions
from hale_rail.actions.report import closing
from hale_rail.actions.workshop.bundles import judged
from hale_rail.case.diagnosis.diagnosis import diagnosis, met_faults
from hale_rail.case.ledger.ledger import ledger, line_of, refresh
from hale_rail.case.recap.recap import replaced
from hale_rail.case.workshop.workshop import workshop
from hale_rail.core.ledger.ledger import Priors
from hale_rail.formats.codec import to_text
from hale_rail.store import ledger as rows
from hale_rail.store.database import Store
from tests.conftest import Bench

PAPER = "CX9 X2 100n 275 paper"


def give(store: Store, priors: Priors) -> None:
    with store.jot() as connection:
        rows.put_priors(connection, to_text(priors))


def test_offenders_move_with_the_workshops_own_age(store: Store) -> None:
    bench = Bench(store, parts=f"{PAPER} 1996")
    cases.edit(store, bench.number, bench.version, school="offenders")
    refs = {p.part.ref for p in replaced(bench.file)}
    assert "CX9" in refs
    give(store, Priors(suppressor_years=35.0))
    assert "CX9" not in {p.part.ref for p in replaced(bench.file)}


def test_a_fault_that_was_met_often_weighs_more_and_no_verdict_moves(bench: Bench) -> None:
    bench.make_safe()
    diagnosing.say(bench.store, bench.number, "symptom", "ripple", "yes")
    before, verdicts = chances(bench), judged(bench.file)
    one = next(fault for fault, chance in before.items() if 0.001 < chance < 0.9)
    give(bench.store, Priors(faults=(("flyback", one, 3.0),)))
    assert chances(bench)[one] > before[one]
    assert judged(bench.file) == verdicts


def chances(bench: Bench) -> dict[str, float]:
    return {fault.id: chance for fault, chance in diagnosis(bench.file).diagnosis.chances}


def test_a_case_tells_its_lives_its_hours_and_what_found_its_faults(store: Store) -> None:
    bench = Bench(store, parts="C10 2200u 10V +5 out 1996\nC12 470u 25V +12 out 1996")
    bench.make_safe()
    bench.read("C10", "c", "600u", "lifted")
    bench.read("C10", "esr", "3", "lifted")
    bench.read("C12", "c", "480u", "lifted")
    bench.read("C12", "esr", "0.08", "lifted")
    decisions.decide(store, bench.number, bench.id_of("C10"), "fitted", "a new one")
    told = line_of(bench.file)
    lives = {(life.family, life.role, life.failed) for life in told.lives}
    assert ("aluminium", "output-filter", True) in lives
    assert ("aluminium", "output-filter", False) in lives
    assert told.tests["esr"] == (2, 1) and told.tests["c"] == (2, 0)
    assert told.topology == "flyback"
    assert set(told.faults) == set(met_faults(bench.file))


def test_only_what_was_handed_back_counts_and_a_reopened_case_counts_no_more(store: Store) -> None:
    bench = Bench(store, parts="C10 2200u 10V +5 out 1996")
    bench.make_safe()
    bench.read("C10", "esr", "3", "lifted")
    assert ledger(store).cases == 0 and workshop(store).priors == Priors()
    closing.hand_back(store, bench.number, bench.version, "as-it-is")
    found = ledger(store)
    assert found.cases == 1 and any(life.failed for life in found.lives)
    assert refresh(store) == Priors()  # one case allows nothing
    closing.reopen(store, bench.number, bench.version)
    assert ledger(store).cases == 0
