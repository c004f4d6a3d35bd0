"""Banks read together in circuit: what is proven, what is hidden, how many legs to lift."""

from __future__ import annotations

import math

import pytest

from hale_rail.core.parts.bank_verdicts import judge_bank, judge_member
from hale_rail.core.parts.banks import Meter
from hale_rail.core.parts.capacitors import Capacitor, Readings
from hale_rail.core.parts.families import Family
from hale_rail.core.parts.measured import MeasuredValue
from hale_rail.core.parts.verdicts import Action, Verdict

CAP = Capacitor(Family.ALUMINIUM, 1800e-6, 10.0)
FILM = Capacitor(Family.FILM, 1e-6, 63.0)
WIDE = Capacitor(Family.ALUMINIUM, 1800e-6, 10.0, (0.2, 0.5))
G, W, X, U = Verdict.GOOD, Verdict.WORN, Verdict.FAILED, Verdict.UNPROVEN


def bank(cap: Capacitor, count: int) -> list[tuple[str, Capacitor]]:
    return [(f"C{i}", cap) for i in range(1, count + 1)]


def circuit(**values: float) -> Readings:
    return Readings(**{name: MeasuredValue(value, False) for name, value in values.items()})


@pytest.mark.parametrize(
    ("cap", "count", "values", "verdict", "code", "legs"),
    [
        # good only by both: C excludes an open member, ESR is at most twice the bank's typical
        (CAP, 4, {"farad": 7200e-6, "esr": 0.05}, G, "open-excluded", 0),
        (CAP, 4, {"farad": 7200e-6}, U, "open-excluded", 0),
        (CAP, 4, {"farad": 6600e-6, "esr": 0.05}, U, "open-hidden", 1),
        (CAP, 2, {"farad": 3500e-6, "esr": 0.08}, G, "open-excluded", 0),
        # 160 µF below the floor of 5760, within 3 %: nominal is not excluded, so nothing is proven
        (CAP, 4, {"farad": 5600e-6}, U, "bank-low", 1),
        (CAP, 4, {"farad": 5500e-6}, X, "bank-lost", 0),
        (CAP, 2, {"farad": 3100e-6, "esr": 0.08}, U, "bank-low", 1),  # below nine tenths
        (CAP, 2, {"farad": 4600e-6, "esr": 0.08}, U, "bank-high", 0),
        (CAP, 2, {"farad": 1900e-6}, X, "bank-lost", 0),
        (WIDE, 3, {"farad": 5400e-6}, U, "open-hidden", 1),
        (CAP, 3, {"esr": 0.06}, U, "cap-unread", 0),
        (CAP, 3, {"esr": 0.003}, U, "esr-too-good", 0),
        (CAP, 3, {"farad": 5400e-6, "esr": 0.003}, U, "esr-too-good", 0),
        (CAP, 3, {"esr": 0.15}, W, "esr-worn", 0),
        (CAP, 3, {"esr": 0.40}, X, "esr-failed", 0),
        (CAP, 3, {"esr": math.inf}, X, "esr-open", 0),
        (CAP, 3, {"farad": 5400e-6, "esr": 0.40}, X, "esr-failed", 0),
        (CAP, 3, {"ohm": 0.2}, U, "short-on-node", 1),
        (CAP, 3, {"ohm": 1.2}, U, "maybe-short", 0),
        (CAP, 3, {"farad": math.inf}, U, "cap-over", 1),
        (FILM, 2, {"farad": 2e-6}, G, "open-excluded", 0),  # no ESR is known to ask for
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
    text = " ".join(r.text for r in found.judgement.reasons).replace("\u00a0", " ")
    assert "short by 1600 µF, as if 0.9 of a part were missing" in text


def test_unproven_asks_for_a_lift_and_names_the_suspects() -> None:
    judgement = judge_bank(bank(WIDE, 3), circuit(farad=5000e-6, esr=0.06), Meter()).judgement
    assert judgement.action is Action.LIFT
    assert any("C1 or C2 or C3" in reason.text for reason in judgement.reasons)
    assert any("Lift 1 leg of 3, C1 first" in reason.text for reason in judgement.reasons)


def test_volts_on_the_rail_exclude_a_shorted_member() -> None:
    for rail_has_volts in (True, False):
        readings = circuit(farad=7200e-6, esr=0.05)
        found = judge_bank(bank(CAP, 4), readings, Meter(), rail_has_volts=rail_has_volts)
        assert {s.excluded for s in found.states if s.kind == "shorted"} == {rail_has_volts}


def test_a_bank_past_what_can_be_told_apart_is_refused_in_words() -> None:
    found = judge_bank(bank(CAP, 65), circuit(farad=0.1), Meter())
    assert found.judgement.verdict is U
    assert "at most 64" in found.judgement.reasons[0].sentence


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
        (5400e-6, ("corroded",), X),
    ],
)
def test_a_members_look_is_its_own(farad: float, visual: tuple[str, ...], verdict: Verdict) -> None:
    found = judge_bank(bank(CAP, 4), circuit(farad=farad, esr=0.05), Meter()).judgement
    assert judge_member(found, CAP, visual, 2026).verdict is verdict
