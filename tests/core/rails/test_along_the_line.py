"""Stretches of a harness, the trimming aid, power good, and the blip: by hand."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from hale_rail.core.procedures import Accuracy, Condition
from hale_rail.core.rails.harness import stretches
from hale_rail.core.rails.judge import RailReading, RailVerdict, Tolerance
from hale_rail.core.rails.patterns import patterns
from hale_rail.core.rails.power_good import judge_power_good
from hale_rail.core.rails.trim import trim
from hale_rail.core.supply.sheet import Rail, Regulation
from hale_rail.core.targets import Place

EXACT = Accuracy(0.0, 1)
P5 = Rail("+5 V", 5.0, Regulation.MAIN, 1.0, 10.0)
P12 = Rail("+12 V", 12.0, Regulation.AUXILIARY)
M12 = Rail("−12 V", -12.0, Regulation.AUXILIARY)
M5 = Rail("−5 V", -5.0, Regulation.LINEAR)


def at(rail: Rail, volt: float, place: Place = Place.NONE, amps: float | None = None,
       high: float | None = None, load: Condition = Condition.MACHINE) -> RailReading:  # fmt: skip
    top = volt if high is None else high
    return RailReading(rail, volt, top, 0.001, load, EXACT, place, amps)


def test_each_stretch_loses_its_own() -> None:
    read = [at(P5, 5.05, Place.SUPPLY, 9.0), at(P5, 4.96, Place.CONNECTOR, 9.0),
            at(P5, 4.70, Place.FAR, 9.0)]  # fmt: skip
    first, second = stretches(read)
    assert first.ohm == pytest.approx(0.01)
    assert not first.is_too_much
    assert second.ohm == pytest.approx(0.26 / 9)
    assert second.is_too_much
    (pattern,) = [p for p in patterns(read, Tolerance.STRICT) if p.code == "harness-drop"]
    assert "connector to far end" in pattern.text
    assert "29\u00a0mΩ" in pattern.text
    assert "supply end to connector" not in pattern.text


@pytest.mark.parametrize(("near", "far", "amps", "is_too_much"), [
    (5.00, 4.82, 9.0, False),  # 20 mΩ less the meter's error
    (5.00, 4.80, 9.0, True), (5.00, 4.99, 9.0, False), (5.00, 4.80, None, False),
    (-12.0, -11.7, 1.0, True),
])  # fmt: skip
def test_twenty_milliohms_are_what_contacts_may_have(
    near: float, far: float, amps: float | None, is_too_much: bool
) -> None:
    rail = P5 if near > 0 else M12
    (found,) = stretches([at(rail, near, Place.SUPPLY, amps), at(rail, far, Place.FAR, amps)])
    assert found.is_too_much is is_too_much


def test_without_load_nothing_is_lost_and_loads_are_kept_apart() -> None:
    read = [at(P5, 5.0, Place.SUPPLY, load=Condition.NO_LOAD),
            at(P5, 4.0, Place.FAR, load=Condition.NO_LOAD),
            at(P5, 5.0, Place.SUPPLY, load=Condition.DUMMY), at(P5, 4.9, Place.FAR)]  # fmt: skip
    assert stretches(read) == []


@pytest.mark.parametrize(("volt", "way", "off", "is_over"), [
    (4.85, "up", -0.15, False), (5.20, "down", 0.20, False), (5.0005, "", 0.0005, False),
    (5.6, "down", 0.6, True), (5.4995, "down", 0.4995, True),
])  # fmt: skip
def test_the_trimmers_figure(volt: float, way: str, off: float, is_over: bool) -> None:
    found = trim(at(P5, volt), [], Tolerance.STRICT)
    assert (found.way, found.is_over) == (way, is_over)
    assert found.off_v == pytest.approx(off)
    assert found.is_right is (way == "")
    assert found.is_inside is (4.75 <= volt <= 5.25)


def test_a_negative_rail_is_turned_by_its_size() -> None:
    assert trim(at(M12, -11.4), [], Tolerance.STRICT).way == "up"
    assert trim(at(M12, -12.6), [], Tolerance.STRICT).way == "down"


def test_auxiliaries_follow_the_main_loop_in_proportion_and_linear_rails_stay() -> None:
    others = [at(P12, 11.7), at(M12, -13.1), at(M5, -5.0)]
    found = trim(at(P5, 4.80), others, Tolerance.STRICT).followers
    assert [f.rail.key for f in found] == ["+12 V", "−12 V"]
    assert found[0].then_v == pytest.approx(11.7 * 5 / 4.8)
    assert [f.is_inside for f in found] == [True, False]
    assert trim(at(P12, 11.7), [at(P5, 5.0)], Tolerance.STRICT).followers == ()


@pytest.mark.parametrize(("after", "passes", "verdict", "says"), [
    (None, True, RailVerdict.FAIL, "comparator"), (None, False, RailVerdict.FAIL, "out of band"),
    (0.05, True, RailVerdict.FAIL, "too soon"), (0.1, True, RailVerdict.PASS, "between"),
    (0.5, True, RailVerdict.PASS, "between"), (0.7, True, RailVerdict.MARGINAL, "late"),
])  # fmt: skip
def test_power_good(after: float | None, passes: bool, verdict: RailVerdict, says: str) -> None:
    found = judge_power_good(after, rails_pass=passes)
    assert found.verdict is verdict
    assert says in found.text


@pytest.mark.parametrize(("guards", "volts", "code"), [
    ("−12 V", {"+5 V": 5.0, "+12 V": 0.1, "−12 V": -12.0}, "guard-missing"),
    ("−12 V", {"+5 V": 5.0, "+12 V": 0.1, "−12 V": -0.1}, None),
    ("−12 V", {"+5 V": 5.0, "+12 V": 12.0, "−12 V": -12.0}, None),
    ("+9 V", {"+12 V": 0.1, "−5 V": -0.1}, None),  # the sheet's own rules stand, not the usual one
    ("", {"+12 V": 12.0, "−5 V": -0.1}, "minus5-missing"),
])  # fmt: skip
def test_which_rail_must_not_be_there_alone_is_on_the_sheet(
    guards: str, volts: dict[str, float], code: str | None
) -> None:
    rails = {r.key: replace(r, guards=guards if r is P12 else "") for r in (P5, P12, M12, M5)}
    read = [at(rails[key], volt) for key, volt in volts.items()]
    urgent = [p.code for p in patterns(read, Tolerance.STRICT) if p.urgent]
    assert urgent == ([code] if code else [])


@pytest.mark.parametrize(("rail", "low", "high", "is_blip"), [
    (P5, 0.2, 3.9, True), (P12, 0.0, 11.0, True), (P5, 1.0, 3.9, False), (P5, 0.2, 1.5, False),
    (M5, -5.0, -0.3, False),
])  # fmt: skip
def test_a_blip_again_and_again_is_a_hiccup(
    rail: Rail, low: float, high: float, is_blip: bool
) -> None:
    codes = {p.code for p in patterns([at(rail, low, high=high)], Tolerance.STRICT)}
    assert ("hiccup" in codes) is is_blip
