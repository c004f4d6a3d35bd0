"""Banks read together in circuit: what is proven, what is hidden, how many legs to lift."""

from __future__ import annotations

import math

import pytest

from hale_rail.core.parts.bank_verdicts import judge_bank, judge_member
from hale_rail.core.parts.banks import Meter
from hale_rail.core.parts.capacitors import Capacitor, Readings
from hale_rail.core.parts.families import Family
from hale_rail.core.parts.taken import Taken
from hale_rail.core.parts.verdicts import Action, Verdict

CAP = Capacitor(Family.ALUMINIUM, 1800e-6, 10.0)
WIDE = Capacitor(Family.ALUMINIUM, 1800e-6, 10.0, (0.2, 0.5))
G, W, X, U = Verdict.GOOD, Verdict.WORN, Verdict.FAILED, Verdict.UNPROVEN


def bank(cap: Capacitor, count: int) -> list[tuple[str, Capacitor]]:
    return [(f"C{i}", cap) for i in range(1, count + 1)]


def circuit(**values: float) -> Readings:
    return Readings(**{name: Taken(value, False) for name, value in values.items()})


@pytest.mark.parametrize(
    ("cap", "count", "values", "verdict", "code", "legs"),
    [
        (CAP, 4, {"farad": 7200e-6}, G, "open-excluded", 0),
        (CAP, 4, {"farad": 6500e-6}, U, "open-hidden", 1),
        (CAP, 4, {"farad": 5700e-6}, X, "bank-lost", 0),
        (CAP, 2, {"farad": 3500e-6}, G, "open-excluded", 0),
        (CAP, 2, {"farad": 1900e-6}, X, "bank-lost", 0),
        (WIDE, 3, {"farad": 5400e-6}, U, "open-hidden", 1),
        (CAP, 3, {"esr": 0.05}, U, "open-hidden", 1),
        (CAP, 3, {"esr": 0.15}, W, "esr-worn", 0),
        (CAP, 3, {"esr": 0.40}, X, "esr-failed", 0),
        (CAP, 3, {"esr": math.inf}, X, "esr-open", 0),
        (CAP, 3, {"farad": 5400e-6, "esr": 0.40}, X, "esr-failed", 0),
        (CAP, 3, {"ohm": 0.2}, U, "short-on-node", 1),
        (CAP, 3, {"farad": math.inf}, U, "cap-over", 1),
        (CAP, 3, {}, U, None, 0),
    ],
)
def test_bank(
    cap: Capacitor,
    count: int,
    values: dict[str, float],
    verdict: Verdict,
    code: str | None,
    legs: int,
) -> None:
    found = judge_bank(bank(cap, count), circuit(**values), Meter())
    assert found.judgement.verdict is verdict
    assert found.legs == legs
    if code:
        assert code in [r.code for r in found.judgement.reasons if r.argues in (verdict, None)]


def test_a_loss_is_said_in_members() -> None:
    found = judge_bank(bank(CAP, 4), circuit(farad=5600e-6), Meter())
    text = found.judgement.reasons[0].text.replace("\u00a0", " ")
    assert "short by 1600 µF, as if 0.9 of a part were missing" in text


def test_unproven_asks_for_a_lift_and_names_the_suspects() -> None:
    judgement = judge_bank(bank(CAP, 3), circuit(esr=0.05), Meter()).judgement
    assert judgement.action is Action.LIFT
    assert "C1 or C2 or C3" in judgement.reasons[0].text
    assert any("Lift 1 leg of 3, C1 first" in reason.text for reason in judgement.reasons)


def test_states_that_show_the_same_stand_together() -> None:
    small = Capacitor(Family.ALUMINIUM, 470e-6, 10.0)
    members = [*bank(CAP, 2), ("C9", small)]
    found = judge_bank(members, circuit(farad=4000e-6), Meter())
    rows = [(state.kind, names) for names, state in found.grouped]
    assert rows == [
        ("nominal", ()),
        ("open", ("C1", "C2")),
        ("dried", ("C1", "C2")),
        ("shorted", ("C1", "C2", "C9")),
        ("open", ("C9",)),
        ("dried", ("C9",)),
    ]
    assert sum(len(names) for _, names in rows) == len(found.states) - 1


def test_expected_values_are_the_banks() -> None:
    judgement = judge_bank(bank(CAP, 4), circuit(farad=7200e-6), Meter()).judgement
    assert judgement.expected_farad == pytest.approx(7200e-6)
    single = CAP.expected_esr()
    assert single is not None
    assert judgement.expected_esr_ohm == pytest.approx(single.ohm / 4)


@pytest.mark.parametrize(
    ("farad", "visual", "verdict"),
    [
        (7200e-6, (), G),
        (7200e-6, ("bulge",), X),
        (7200e-6, ("corroded",), W),
        (7200e-6, ("none",), G),
        (5600e-6, ("corroded",), X),
    ],
)
def test_a_members_look_is_its_own(farad: float, visual: tuple[str, ...], verdict: Verdict) -> None:
    found = judge_bank(bank(CAP, 4), circuit(farad=farad), Meter()).judgement
    assert judge_member(found, CAP, visual, 2026).verdict is verdict
