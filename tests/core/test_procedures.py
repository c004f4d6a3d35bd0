"""Procedures and points: addresses, what is understood at each, what is expected, accuracy."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from hale_rail.core import procedures as proc
from hale_rail.core.errors import InputError, QuantityError, RangeError
from hale_rail.core.parts.families import Family
from hale_rail.core.parts.kinds import KINDS
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import (
    PROCEDURES,
    Accuracy,
    Condition,
    Point,
    Procedure,
    Subject,
    last_digit,
    rounding,
)
from hale_rail.core.quantities import Unit
from hale_rail.core.supply.templates import make_part
from hale_rail.core.targets import Pair, Place, Target, TargetKind, part_target, rail_target

C7 = Subject("C7", rated_v=10.0, marked_farad=100e-6)
M12 = Subject("−12 V", nominal_v=-12.0)
P5 = Subject("+5 V", nominal_v=5.0, band_v=(4.75, 5.25))
PINS = st.sampled_from(["~1", "~2", "+", "-", "A", "K", "B", "E", "IN", "OUT", "12"])
TARGETS = st.one_of(
    st.builds(part_target, st.integers(1, 10**9), st.none() | st.builds(Pair, PINS, PINS)),
    st.builds(rail_target, st.sampled_from(["+5 V", "−12 V"]), st.sampled_from(Place)),
    st.builds(
        lambda kind, plus: Target(kind, plus=plus),
        st.sampled_from([TargetKind.PAD, TargetKind.ITEM, TargetKind.CHANNEL]),
        PINS,
    ),
    st.builds(lambda a, b: Target(TargetKind.CONNECTION, plus=a, minus=b), PINS, PINS),
)


@given(TARGETS, st.sampled_from(PROCEDURES))
def test_an_address_leads_back_to_its_point(target: Target, procedure: Procedure) -> None:
    assert procedure.conditions
    for condition in procedure.conditions:
        point = Point(target, procedure, condition)
        if target.kind in procedure.targets:
            assert proc.parse_point(point.key) == point
        else:
            with pytest.raises(InputError):
                proc.parse_point(point.key)


@pytest.mark.parametrize(
    "key",
    ["", "7", "7~esr", "7~nonsense~", "x~esr~in-circuit", "7~esr~sideways", "7:B>~ohms~lifted",
     "r+5 V~ground~upside", "r+5 V@moon~volts~dummy", "٣~esr~in-circuit", "7~volts~dummy",
     f"{'9' * 30}~esr~lifted", "pad!!~ohms~lifted"],
)  # fmt: skip
def test_an_address_of_nothing_is_refused(key: str) -> None:
    with pytest.raises(InputError):
        proc.parse_point(key)


@pytest.mark.parametrize(
    ("procedure", "subject", "text", "value"),
    [
        (proc.ESR, C7, "0R56", 0.56),
        (proc.CAPACITANCE, C7, "97", 97e-6),
        (proc.CAPACITANCE, C7, "OL", math.inf),
        (proc.LEAKAGE, C7, "12u", 12e-6),
        (proc.LEAKAGE, C7, "12", 12e-6),  # a plain number is microamperes
        (proc.DIODE, C7, "short", 0.0),
        (proc.DIODE, C7, "1.0", 1.0),
        (proc.VOLTS, P5, "-0.2", -0.2),
        (proc.VOLTS, replace(M12, is_filed=True), "11.9", 11.9),
        (proc.CAPACITANCE, C7, "short", math.inf),
        (proc.LEAKAGE, C7, "OL", math.inf),
        (proc.OHMS, C7, "short", 0.0),
        (proc.STORE, C7, "-3.2", -3.2),
        (proc.INJECT, P5, "0.4 V 120 mA", 0.4 / 0.12),
        (proc.INJECT, P5, "0.31V/780m", 0.31 / 0.78),
        (proc.DIODE, C7, "543", 0.543),
        (proc.DIODE, C7, "0.543", 0.543),
        (proc.DIODE, C7, "43m", 0.043),
        (proc.DIODE, C7, "OL", math.inf),
        (proc.BATTERY, C7, "3.6", 3.6),
        (proc.VOLTS, P5, "4.8..5.2", 4.8),
        (proc.GROUND, P5, "148", 148.0),
        (proc.FRESH_ESR, C7, "0.08", 0.08),
    ],
)
def test_understood(procedure: Procedure, subject: Subject, text: str, value: float) -> None:
    found = procedure.understand(text, procedure.conditions[0], subject)
    assert found.value == pytest.approx(value)
    assert found.echo


@pytest.mark.parametrize(
    ("procedure", "subject", "text", "error"),
    [
        (proc.ESR, C7, "100n F", QuantityError),
        (proc.ESR, C7, "-0.2", RangeError),
        (proc.CAPACITANCE, C7, "5 F", RangeError),
        (proc.CAPACITANCE, C7, "200000 u", RangeError),  # 2000 times what is marked
        (proc.STORE, C7, "900", RangeError),  # 900 V across a 10 V part
        (proc.STORE, C7, "OL", QuantityError),
        (proc.INJECT, P5, "5 V 1 A", RangeError),
        (proc.INJECT, P5, "0.4 V", QuantityError),
        (proc.LEAKAGE, C7, "2 A", RangeError),
        (proc.INJECT, P5, "0.4 120", QuantityError),  # amperes or milliamperes?
        (proc.DIODE, C7, "1", QuantityError),  # over-range on old meters
        (proc.DIODE, C7, "5", QuantityError),
        (proc.VOLTS, P5, "short", QuantityError),
        (proc.VOLTS, P5, "-4.9", QuantityError),
        (proc.VOLTS, M12, "11.9", QuantityError),
        (proc.VOLTS, M12, "-12.1..11.8", QuantityError),
        (proc.DIODE, C7, "543 V", RangeError),
        (proc.DIODE, C7, "-0.5", RangeError),
        (proc.BATTERY, C7, "3k6", RangeError),
        (proc.BATTERY, C7, "OL", QuantityError),
        (proc.VOLTS, P5, "900", RangeError),
    ],
)
def test_refused(
    procedure: Procedure, subject: Subject, text: str, error: type[InputError]
) -> None:
    with pytest.raises(error):
        procedure.understand(text, procedure.conditions[0], subject)


def test_an_injection_keeps_its_volts_and_amperes() -> None:
    found = proc.INJECT.understand("0.4 V 120 mA", Condition.ATTACHED, P5)
    assert found.figures == {"volt": pytest.approx(0.4), "ampere": pytest.approx(0.12)}
    assert proc.VOLTS.understand("4.8..5.2", Condition.DUMMY, P5).high == 5.2


@pytest.mark.parametrize(
    ("procedure", "condition", "subject", "says"),
    [
        (proc.STORE, Condition.NONE, C7, "at most 60 V to touch"),
        (proc.VOLTS, Condition.DUMMY, P5, "4.75 V to 5.25 V"),
        (proc.GROUND, Condition.ISOLATED, P5, "a bleeder of 100 Ω"),
        (proc.GROUND, Condition.ATTACHED, P5, "above 1 Ω"),
        (proc.GROUND, Condition.ATTACHED, Subject("+5 V", sheet_ohm=22.0), "about 22 Ω"),
        (proc.GROUND, Condition.ATTACHED, Subject("+5 V", record_ohm=70.0, sheet_ohm=22.0),
         "70 Ω, as a like unit"),
        (proc.ESR, Condition.LIFTED, Subject("C7", part_words="below 2 Ω"), "below 2 Ω"),
    ],
)  # fmt: skip
def test_expected(procedure: Procedure, condition: Condition, subject: Subject, says: str) -> None:
    assert says in procedure.expect(condition, subject).replace("\u00a0", " ")


def test_a_meters_error_is_a_share_digits_and_a_fixed_part() -> None:
    assert Accuracy(0.05, 0, 0.010).error(0.2, 0.01, Unit.OHM) == pytest.approx(0.020)
    assert Accuracy(0.01, 2).error(-100.0, 0.1, Unit.VOLT) == pytest.approx(1.2)


@pytest.mark.parametrize(
    ("value", "digit", "unit", "weighs", "rounded"),
    [
        (5.0, 1.0, Unit.VOLT, 1e-3, 0.5),  # 6.000 V is the range; typed without decimals
        (5.02, 0.01, Unit.VOLT, 1e-3, 0.005),
        (12.0, 1.0, Unit.VOLT, 1e-2, 0.5),
        (12.04, 0.01, Unit.VOLT, 1e-2, 0.0),
        (0.543, 0.001, Unit.VOLT, 1e-3, 0.0),
        (1e3, 1e3, Unit.OHM, 1.0, 500.0),
        (0.7, 0.1, Unit.OHM, 0.1, 0.0),  # 600.0 ohms is the lowest range
        (47e-6, 1e-6, Unit.FARAD, 1e-8, 0.5e-6),
        (0.0, 1.0, Unit.VOLT, 1e-3, 0.5),
        (math.inf, 0.0, Unit.OHM, 0.1, 0.0),
    ],
)
def test_what_a_meter_shows_and_what_was_rounded_off(
    value: float, digit: float, unit: Unit, weighs: float, rounded: float
) -> None:
    assert last_digit(value, unit) == pytest.approx(weighs)
    assert rounding(value, digit, unit) == pytest.approx(rounded)


def test_every_procedure_has_a_code_of_its_own() -> None:
    assert len({p.code for p in PROCEDURES}) == len(PROCEDURES)


@pytest.mark.parametrize(
    ("part", "first"),
    [
        (make_part(1, "C1", "capacitor", "main", 1, value=1e-4, family=Family.ALUMINIUM), "esr"),
        (make_part(1, "C1", "capacitor", "main", 1, value=1e-7, family=Family.FILM), "c"),
        (make_part(1, "C1", "capacitor", "main", 1, value=4.7e-7, family=Family.ALUMINIUM), "c"),
        (make_part(1, "F1", "fuse", "main", 1), "ohms"),
        (make_part(1, "U1", "optocoupler", "main", 1), "diode"),
    ],
)
def test_the_most_telling_procedure_comes_first(part: Part, first: str) -> None:
    assert part.kind.asks(part)[0].procedure.code == first


def test_every_kind_asks_only_what_its_procedures_can_take_and_says_what_to_expect() -> None:
    asked = 0
    for kind in KINDS:
        part = make_part(1, "P1", kind.code, "main", 1, value=1e-5, family=Family.ALUMINIUM)
        asked += bool(part.all_asks)
        for ask in part.all_asks:
            point = part.point(ask.procedure, None, ask.pair)
            assert point.target.kind in ask.procedure.targets
            assert proc.parse_point(point.key) == point
            if ask.procedure.expect is proc.ESR.expect and kind.code != "capacitor":
                assert kind.expect(part, ask, point.condition)
    assert asked > 20
