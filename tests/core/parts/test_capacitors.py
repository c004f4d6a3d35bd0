"""Single capacitors: hand-worked cases for each rule, and that worse readings never look better."""

from __future__ import annotations

import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from msgspec.structs import replace

from hale_rail.core.parts.capacitor_verdicts import judge
from hale_rail.core.parts.capacitors import Capacitor, Readings
from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.parts.measured import MeasuredValue
from hale_rail.core.parts.verdicts import Action, Verdict

YEAR = 2026
AL = Capacitor(Family.ALUMINIUM, 1000e-6, 25.0)  # C·V 25 000: low 0.032, general 0.096 Ω
SKEWED = Capacitor(Family.ALUMINIUM, 4700e-6, 16.0, (0.10, 0.50))  # began high
BULK = Capacitor(Family.ALUMINIUM, 220e-6, 400.0)  # 0.30 Ω
TANT = Capacitor(Family.TANTALUM, 10e-6, 16.0)  # 1.5 Ω, 1.6 µA
FILM = Capacitor(Family.FILM, 100e-9, 63.0)
PAPER = Capacitor(Family.SUPPRESSION_PAPER, 100e-9, 250.0, year=1984)
FRESH = Capacitor(Family.ALUMINIUM, 1000e-6, 25.0, fresh_esr_ohm=0.05, fresh_farad=950e-6)
WIDE = Capacitor(Family.ALUMINIUM, 1000e-6, 25.0, (0.20, 0.20))
TIGHT = Capacitor(Family.ALUMINIUM, 1000e-6, 25.0, (0.05, 0.05))
FILM10 = Capacitor(Family.FILM, 100e-9, 63.0, (0.10, 0.10))
POLYMER = Capacitor(Family.POLYMER, 1000e-6, 25.0)
SMALL = Capacitor(Family.ALUMINIUM, 1e-6, 50.0)  # 9 Ω by nature
NO_VOLTS = Capacitor(Family.ALUMINIUM, 1000e-6)

G, W, X, U = Verdict.GOOD, Verdict.WORN, Verdict.FAILED, Verdict.UNPROVEN


def taken(lifted: bool, **values: float) -> Readings:
    return Readings(**{name: MeasuredValue(value, lifted) for name, value in values.items()})


CASES = [
    # lifted capacitance, aluminium: 10 and 20 % of nominal
    (AL, True, {"farad": 905e-6}, G, "cap-good"),
    (AL, True, {"farad": 850e-6}, W, "cap-worn"),
    (AL, True, {"farad": 790e-6}, X, "cap-failed"),
    (AL, True, {"farad": 0.0}, X, "cap-failed"),
    # marked far to the plus side it began high: near nominal good by C, but ESR decides
    (SKEWED, True, {"farad": 4700e-6}, G, "began-high"),
    (SKEWED, True, {"farad": 4100e-6}, W, "cap-worn"),
    (SKEWED, True, {"farad": 3700e-6}, X, "cap-failed"),
    (SKEWED, True, {"farad": 7000e-6}, G, "cap-good"),  # +49 %, inside the marking
    (SKEWED, True, {"farad": 7400e-6}, U, "cap-high"),  # above +50 % by more than 3 %
    # a marking is good down to its minus, worn for ten points below, never tighter than 10 %
    (WIDE, True, {"farad": 790e-6}, W, "cap-worn"),
    (WIDE, True, {"farad": 810e-6}, G, "cap-good"),
    (WIDE, True, {"farad": 690e-6}, X, "cap-failed"),
    (TIGHT, True, {"farad": 910e-6}, G, "cap-good"),
    (TIGHT, True, {"farad": 1060e-6}, G, "cap-good"),  # above +5 % by less than the error
    (TIGHT, True, {"farad": 1100e-6}, U, "cap-high"),
    (FILM10, True, {"farad": 86e-9}, W, "cap-worn"),
    (FILM10, True, {"farad": 84e-9}, X, "cap-failed"),
    # film: 5 and 10 %
    (FILM, True, {"farad": 96e-9}, G, "cap-good"),
    (FILM, True, {"farad": 93e-9}, W, "cap-worn"),
    (FILM, True, {"farad": 89e-9}, X, "cap-failed"),
    # far above nominal is leakage until ESR or leakage says otherwise
    (AL, True, {"farad": 1600e-6}, U, "cap-high"),
    (FILM, True, {"farad": 130e-9}, U, "cap-high"),
    (AL, True, {"farad": 1600e-6, "leak": 100e-6}, G, "leak-good"),
    (AL, True, {"farad": 1600e-6, "esr": 0.10}, G, "esr-good"),
    (AL, True, {"farad": math.inf}, U, "cap-over"),
    # in circuit capacitance proves a loss and nothing else
    (AL, False, {"farad": 770e-6}, X, "cap-lost"),
    (AL, False, {"farad": 780e-6}, U, "cap-near-floor"),  # 20 µF below, 23 µF of error
    (AL, False, {"farad": 850e-6}, U, "cap-in-circuit"),
    (AL, False, {"farad": 1300e-6}, U, "cap-in-circuit"),
    (Capacitor(Family.ALUMINIUM, 1e-3, 25.0, (0.1, 0.1)), False, {"farad": 850e-6}, W, "cap-lost"),
    # ESR, alone on its node: twice and five times typical
    (AL, False, {"esr": 0.19}, G, "esr-good"),
    (AL, False, {"esr": 0.20}, W, "esr-worn"),
    (AL, False, {"esr": 0.50}, X, "esr-failed"),
    (AL, False, {"esr": math.inf}, X, "esr-open"),
    (BULK, False, {"esr": 0.59}, G, "esr-good"),
    (BULK, False, {"esr": 1.6}, X, "esr-failed"),
    (SMALL, False, {"esr": 8.0}, G, "esr-good"),
    (Capacitor(Family.ALUMINIUM, 1e-3, 25.0, grade=Grade.LOW), False, {"esr": 0.1}, W, "esr-worn"),
    # a fresh part's figure: 1.5 and 3 times
    (FRESH, True, {"esr": 0.07}, G, "esr-good"),
    (FRESH, True, {"esr": 0.09}, W, "esr-worn"),
    (FRESH, True, {"esr": 0.16}, X, "esr-failed"),
    (FRESH, True, {"farad": 860e-6}, G, "cap-good"),
    # no figure, or below the meter's range: no reading
    (FILM, True, {"esr": 3.0}, U, "esr-below-range"),
    (FILM, True, {"esr": 3.0, "farad": 99e-9}, G, "cap-good"),
    # an unknown rating is held against 6.3 V: 0.103 × 3 Ω; only what no rating excuses has failed
    (NO_VOLTS, True, {"esr": 0.5}, G, "esr-rating-assumed"),
    (NO_VOLTS, True, {"esr": 1.0}, W, "esr-worn"),
    (NO_VOLTS, True, {"esr": 1.7}, X, "esr-failed"),
    # polymer: a fifth of low impedance, 0.0304 / 5 Ω
    (POLYMER, False, {"esr": 0.013}, W, "esr-worn"),
    (POLYMER, False, {"esr": 0.05}, X, "esr-failed"),
    # too good is not good, until ohms tell that it is not a short
    (AL, False, {"esr": 0.009}, U, "esr-too-good"),
    (BULK, True, {"esr": 0.02}, U, "esr-too-good"),
    (TANT, True, {"esr": 0.0}, U, "esr-too-good"),
    (FILM, True, {"esr": 0.0}, U, "esr-too-good"),
    (BULK, True, {"esr": 0.02, "ohm": 5e6}, G, "esr-good"),
    (BULK, True, {"esr": 0.02, "ohm": 0.3}, X, "shorted"),
    # leakage: 250 µA allowed; three and ten times
    (AL, True, {"leak": 240e-6}, G, "leak-good"),
    (AL, True, {"leak": 700e-6}, W, "leak-worn"),
    (AL, True, {"leak": 2e-3}, W, "leak-reform"),
    (AL, True, {"leak": 3e-3}, X, "leak-failed"),
    (AL, False, {"leak": 3e-3}, U, "leak-in-circuit"),
    (TANT, True, {"leak": 1.5e-6}, G, "leak-good"),
    (TANT, True, {"leak": 20e-6}, X, "leak-failed"),
    # resistance
    (TANT, True, {"ohm": 0.4}, X, "shorted"),
    (TANT, False, {"ohm": 0.4}, U, "short-on-node"),
    (TANT, False, {"ohm": 40.0}, U, "no-dead-short"),
    (TANT, True, {"ohm": 1.3}, X, "leak-failed"),  # short or leak, it has failed
    (TANT, True, {"ohm": 1.6}, X, "leak-failed"),
    # DC ohms of a lifted part are its leakage at rated volts: 25 V / 10 kΩ is 2.5 mA of 250 µA
    (AL, True, {"ohm": 10e3}, W, "leak-reform"),
    (AL, True, {"ohm": 5e3}, X, "leak-failed"),
    (AL, True, {"ohm": 50e3}, W, "leak-worn"),
    (AL, True, {"ohm": 200e3}, G, "leak-good"),
    (AL, True, {"ohm": math.inf}, U, "no-dead-short"),
    # paper past 25 years is replaced whatever it measures
    (PAPER, True, {"farad": 101e-9}, W, "paper-age"),
    (PAPER, True, {"farad": 80e-9}, X, "cap-failed"),
    (PAPER, False, {}, U, "paper-age"),
    (Capacitor(Family.SUPPRESSION_PAPER, 1e-7), True, {"farad": 1e-7}, W, "paper-age"),
    (AL, False, {}, U, "not-measured"),
]


@pytest.mark.parametrize(("cap", "lifted", "values", "verdict", "code"), CASES)
def test_judgement(
    cap: Capacitor, lifted: bool, values: dict[str, float], verdict: Verdict, code: str
) -> None:
    found = judge(cap, taken(lifted, **values), YEAR)
    assert found.verdict is verdict
    assert code in [reason.code for reason in found.reasons]
    assert all(reason.text for reason in found.reasons)


@pytest.mark.parametrize(
    ("cap", "lifted", "values", "action"),
    [
        (AL, True, {"farad": 950e-6}, Action.KEEP),
        (AL, True, {"farad": 500e-6}, Action.REPLACE),
        (TANT, False, {"ohm": 0.2}, Action.LIFT),
        (AL, False, {"leak": 3e-3}, Action.LIFT),
        (AL, True, {"leak": 2e-3}, Action.REPLACE),
        (AL, False, {"esr": 0.0}, Action.MEASURE),
        (AL, False, {"farad": 1e-3}, Action.MEASURE),
        (FILM, False, {"farad": 1e-7}, Action.LIFT),
        (PAPER, False, {}, Action.REPLACE),
        (AL, False, {}, Action.MEASURE),
    ],
)
def test_what_to_do(cap: Capacitor, lifted: bool, values: dict[str, float], action: Action) -> None:
    assert judge(cap, taken(lifted, **values), YEAR).action is action


@pytest.mark.parametrize(
    ("family", "code", "verdict"),
    [
        (Family.ALUMINIUM, "bulge", X),
        (Family.ALUMINIUM, "leak", X),
        (Family.TANTALUM, "burnt", X),
        (Family.SUPPRESSION_PAPER, "craze", X),
        (Family.FILM, "craze", W),
        (Family.ALUMINIUM, "corroded", W),
    ],
)
def test_what_is_seen_outranks_a_good_reading(family: Family, code: str, verdict: Verdict) -> None:
    cap = Capacitor(family, 10e-6, 25.0, year=2020)
    readings = Readings(farad=MeasuredValue(10e-6, True), visual=(code,))
    assert judge(cap, readings, YEAR).verdict is verdict
    assert (
        judge(cap, Readings(farad=MeasuredValue(10e-6, True), visual=("none",)), YEAR).verdict is G
    )


def test_every_verdict_shows_its_threshold() -> None:
    """The deciding sentence names the number the reading was held against."""
    for cap, lifted, values, word in (
        (AL, False, {"esr": 0.3}, "worn to 5 ×"),
        (AL, True, {"farad": 700e-6}, "worn to 20 %"),
        (AL, True, {"leak": 3e-3}, "250 µA allowed"),
    ):
        text = judge(cap, taken(lifted, **values), YEAR).reasons[0].text
        assert word in text.replace("\u00a0", " ")


@pytest.mark.parametrize(
    ("year", "unit_year", "is_old"),
    [(1984, None, True), (2010, 1984, False), (None, 1984, True), (None, 2015, False),
     (None, None, True)],
)  # fmt: skip
def test_paper_of_unknown_year_is_as_old_as_its_unit(
    year: int | None, unit_year: int | None, is_old: bool
) -> None:
    cap = replace(PAPER, year=year)
    found = judge(cap, taken(True, farad=100e-9), YEAR, unit_year=unit_year)
    assert (found.action is Action.REPLACE) is is_old
    assert (found.verdict is G) is not is_old


def test_a_limit_inside_the_meters_error_is_said() -> None:
    near = judge(AL, taken(False, esr=0.19), YEAR)
    assert "near-limit" in [r.code for r in near.reasons]
    assert "near-limit" not in [r.code for r in judge(AL, taken(False, esr=0.14), YEAR).reasons]


#: from the mildest to the hardest
RANK = [G, U, W, X]


@given(
    st.sampled_from([AL, SKEWED, BULK, TANT, FRESH, POLYMER, NO_VOLTS, WIDE]),
    st.booleans(),
    st.sampled_from(["esr", "leak"]),
    st.floats(1e-9, 50.0),
    st.floats(1.0, 100.0),
)
def test_more_esr_or_leakage_never_looks_better(
    cap: Capacitor, lifted: bool, name: str, value: float, factor: float
) -> None:
    """But for an ESR that is too good to be true, which is not a reading of health."""
    before = judge(cap, taken(lifted, **{name: value}), YEAR)
    after = judge(cap, taken(lifted, **{name: value * factor}), YEAR)
    assume("esr-too-good" not in [r.code for r in before.reasons])
    assert RANK.index(after.verdict) >= RANK.index(before.verdict)


@given(st.sampled_from([AL, BULK, TANT]), st.floats(0.0, 1e8), st.floats(1.0, 100.0))
def test_fewer_ohms_of_a_lifted_part_never_look_better(
    cap: Capacitor, ohm: float, factor: float
) -> None:
    before = judge(cap, taken(True, ohm=ohm * factor), YEAR).verdict
    assert RANK.index(judge(cap, taken(True, ohm=ohm), YEAR).verdict) >= RANK.index(before)


@given(
    st.sampled_from([AL, SKEWED, BULK, FILM, FRESH]),
    st.booleans(),
    st.floats(0, 1.15),
    st.floats(0, 1),
)
def test_less_capacitance_never_looks_better(
    cap: Capacitor, lifted: bool, share: float, less: float
) -> None:
    before = judge(cap, taken(lifted, farad=share * cap.farad), YEAR).verdict
    after = judge(cap, taken(lifted, farad=share * less * cap.farad), YEAR).verdict
    assert after is not G or before is G
    assert before is not X or after is X
