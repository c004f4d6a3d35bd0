"""Rails: no alarm from digits that were not typed, and every over-voltage that stands there."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.core.procedures import Condition, last_digit
from hale_rail.core.quantities import Unit
from hale_rail.core.rails.judge import RailReading, RailVerdict, Tolerance
from hale_rail.core.rails.judge import judge as judge_rail
from hale_rail.core.rails.patterns import patterns
from hale_rail.core.supply.sheet import Rail, Regulation
from tests.settled.judging import judge, rail_of


@pytest.mark.parametrize(
    ("row", "verdict", "codes", "says"),
    [
        ("+5 V|volts|machine|5", "not-judged", [], "4.5 V to 5.5 V"),
        ("+5 V|volts|machine|5.0", "pass", [], ""),
        ("+5 V|volts|machine|6", "fail", ["over-voltage"], ""),
        ("+5 V|volts|machine|5.49", "fail", ["over-voltage"], "at once"),
        ("+5 V|volts|machine|5.4", "fail", [], ""),
        ("+5 V|volts|machine|~5", "not-judged", [], "4.75 V"),
        ("+12 V|volts|machine|12", "pass", [], ""),
        ("+12 V|volts|machine|16.0", "fail", ["over-voltage"], "at once"),
        ("+12 V|volts|no-load|14.9", "not-judged", [], ""),  # +24 %
        ("+12 V|volts|no-load|15.1", "fail", ["over-voltage"], ""),
        ("+12 V|volts|machine|14.3", "fail", [], ""),  # +19 %
        ("+24 V|volts|dummy|30.5", "fail", ["over-voltage"], ""),
        ("−12 V|volts|machine|-15.6", "fail", ["over-voltage"], ""),
        ("−12 V|volts|machine|minus 12", "pass", [], ""),
        ("−12 V|volts|machine|- 12.0", "pass", [], ""),
        ("−5 V|volts|machine|-7.9", "fail", ["over-voltage"], "passed its input"),
        ("+5 V|volts|machine|4.9-5.1", "pass", [], ""),
        ("+5 V|volts|machine|4.82 4.92", "pass", [], ""),
        ("+5 V|volts|machine|4.82 – 5.62", "fail", ["over-voltage"], ""),
    ],
)
def test_a_rail_of_another_bench(row: str, verdict: str, codes: list[str], says: str) -> None:
    found = judge(row)
    assert found["problems"] == []
    key, _, load, _ = row.split("|")
    said = rail_of(found, key)["volts"][load]
    assert said["verdict"] == verdict, said
    assert says in said["text"].replace("\u00a0", " ")
    assert [pattern["code"] for pattern in found["patterns"]] == codes
    assert all(pattern["urgent"] for pattern in found["patterns"])
    assert found["next"]["text"].startswith("Power off at once") is bool(codes)


@pytest.mark.parametrize(
    ("row", "says"),
    [
        ("+5 V|volts|machine|5.05 VAC", "set the meter to DC"),
        ("+5 V|volts|machine|5.05 V~", "set the meter to DC"),
        ("+5 V|volts|machine|5 MV", "5 MV"),
        ("+5 V|ground|attached|p2", "Check the prefix"),
        ("+5 V|inject|attached|0.4 120", "milliamperes or amperes"),
    ],
)
def test_what_is_asked_back(row: str, says: str) -> None:
    (problem,) = judge(row)["problems"]
    assert says in problem["text"].replace("\u00a0", " ")


@pytest.mark.parametrize(
    ("text", "ohm"),
    [
        ("0.4 V 120 mA", 0.4 / 0.12), ("90mA at 1.3V", 1.3 / 0.09), ("1.3 V @ 90mA", 1.3 / 0.09),
        ("1.3 V 90 milliamps", 1.3 / 0.09), ("120mA / 0.4V", 0.4 / 0.12),
    ],
)  # fmt: skip
def test_an_injection_is_read_either_way_round(text: str, ohm: float) -> None:
    from hale_rail.core.procedures import INJECT, Subject

    found = INJECT.understand(text, Condition.ATTACHED, Subject("+5 V"))
    assert found.value == pytest.approx(ohm)


RAILS = st.sampled_from(
    [
        Rail("+5 V", 5.0, Regulation.MAIN), Rail("−5 V", -5.0, Regulation.LINEAR),
        Rail("+12 V", 12.0, Regulation.AUXILIARY), Rail("+9 V", 9.0, Regulation.RAW),
    ]
)  # fmt: skip
LOADS = st.sampled_from([Condition.NO_LOAD, Condition.DUMMY, Condition.MACHINE])


@given(RAILS, LOADS, st.floats(0.0, 2.0), st.integers(0, 3))
@settings(max_examples=300)
def test_fewer_digits_never_raise_an_alarm(
    rail: Rail, load: Condition, share: float, decimals: int
) -> None:
    """The same figure typed with fewer digits: no pattern more, and no verdict but a held one."""
    volt = round(share * rail.nominal_v, decimals)
    coarse = RailReading(rail, volt, volt, 10.0**-decimals, load)
    shown = min(last_digit(volt, Unit.VOLT), 10.0**-decimals)
    fine = RailReading(rail, volt, volt, shown, load)
    said, meant = judge_rail(coarse, Tolerance.STRICT), judge_rail(fine, Tolerance.STRICT)
    assert said.verdict in (meant.verdict, RailVerdict.NOT_JUDGED)
    codes = [p.code for p in patterns([coarse], Tolerance.STRICT)]
    assert codes == [p.code for p in patterns([fine], Tolerance.STRICT)]
