"""The demo's ends of work against the truth that they were made with."""

from __future__ import annotations

import pytest

from hale_rail.case.bring_up.continuity import lists
from hale_rail.case.bring_up.harness import harness
from hale_rail.case.file import open_case
from hale_rail.case.ledger.ledger import ledger
from hale_rail.case.soak.soaks import soaks
from hale_rail.core.ledger.ledger import by
from hale_rail.core.ledger.lifetimes import Bounded, fit
from hale_rail.core.soak.soak import SoakVerdict
from hale_rail.store.database import Store
from larkmoor.closing import HARNESS_TRUTH, SOAK_GAP_H, SOAK_TRUTH
from larkmoor.history import TRUTH, UNITS


def test_the_soak_finds_the_drift_that_was_put_in(demo: Store) -> None:
    found = {one.rail.key: one.judged for one in soaks(open_case(demo, "LW-009"))}
    assert found.keys() == SOAK_TRUTH.keys()
    for key, truth in SOAK_TRUTH.items():
        line = found[key].trend
        assert line and found[key].verdict is SoakVerdict.PASS
        assert line.low - 2e-4 <= truth.v_per_hour <= line.high + 2e-4
        assert found[key].mean_v == pytest.approx(truth.volt, abs=0.01)
        (gap,) = found[key].gaps
        assert gap[0] <= SOAK_GAP_H[0] and gap[1] >= SOAK_GAP_H[1]


def test_the_harness_is_planned_as_by_hand(demo: Store) -> None:
    facts = harness(open_case(demo, "LW-038"))
    assert facts.plan
    drops = [(w.pin.name, w.conductors, (w.drop_v or 0) * 1e3) for w in facts.plan.wires]
    for found, wanted in zip(drops, HARNESS_TRUTH, strict=True):
        assert found[:2] == wanted[:2] and found[2] == pytest.approx(wanted[2], abs=0.1)
    assert [volt for volt, _ in facts.plan.missing] == [-5]
    assert not facts.may_connect and len(facts.unread) == 5


def test_a_list_of_another_boards_drawing_has_its_results_opened_again(demo: Store) -> None:
    (found,) = lists(open_case(demo, "LW-038"))
    assert found.is_distrusted and found.unread == 0
    assert [pair.number for pair in found.open] == [7, 9]
    assert all(pair.is_reopened and pair.mark for pair in found.open)


def test_the_ledger_finds_the_lives_that_were_put_in(demo: Store) -> None:
    found = ledger(demo)
    assert found.cases == UNITS + 1  # and the spare Draftmaster
    for family, (shape, scale) in TRUTH.items():
        own = by(found.lives, "family")[family.value]
        fitted = fit([life.years for life in own], [life.failed for life in own])
        if fitted.shape and fitted.scale_years:
            assert _holds(fitted.shape, shape) and _holds(fitted.scale_years, scale), family
        else:
            assert fitted.why, family
    assert found.tests["look"][1] and found.tests["esr"][1]


def _holds(found: Bounded, truth: float) -> bool:
    return (found.low or 0.0) <= truth <= (found.high or truth)
