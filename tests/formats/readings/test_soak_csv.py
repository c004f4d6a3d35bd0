"""Logs of a soak: moments, rails, what is refused, and the way back."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.bring_up.harness import plan
from hale_rail.core.bring_up.wiring import SignalUse
from hale_rail.core.errors import InputError
from hale_rail.core.soak.soak import Sample
from hale_rail.formats.readings.soak_csv import log_csv, moment_text, of_rail, read_log, read_moment
from hale_rail.formats.workshop.harness_csv import read_source, read_target, wiring_csv


@pytest.mark.parametrize(
    ("text", "seconds", "is_clock"),
    [
        ("0", 0.0, False), ("3600,5", 3600.5, False), ("-60", -60.0, False),
        ("1970-01-01T00:01", 60.0, True), ("1970-01-01 01:00+01:00", 0.0, True),
        ("1970-01-01T00:00:30.5Z", 30.5, True),
    ],
)  # fmt: skip
def test_moments(text: str, seconds: float, is_clock: bool) -> None:
    assert read_moment(text) == (pytest.approx(seconds), is_clock)


@pytest.mark.parametrize("text", ["", "noon", "1e400", "2026-13-01T00:00", "²", "nan", "10:30"])
def test_what_is_no_moment_is_refused(text: str) -> None:
    with pytest.raises(InputError):
        read_moment(text)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("volts\n5\n", "lacks at"),
        ("at,volts\n", "no row"),
        ("at,volts\n0,5,9\n", "line 2: more fields"),
        ("at,volts\n0,\n", "line 2: Nothing typed"),
        ("at,volts,ripple_mv\n0,5,-3\n", "line 2: ripple_mv is 0 or more"),
        ("at,volts,temp_c\n0,5,900\n", "line 2"),
        ("at,volts\n0,5 A\n", "line 2"),
        ('at,volts\n0,"10,000"\n', "line 2"),
    ],
)
def test_rows_that_cannot_be_are_refused_with_their_line(text: str, words: str) -> None:
    with pytest.raises(InputError, match=words):
        read_log(text)


def test_of_several_rails_one_is_named_however_it_is_spelt() -> None:
    rows = read_log("at,volts,rail\n0,5,+5 V\n0,-12,−12 V\n")
    assert [s.volt for s in of_rail(rows, "-12v")] == [-12]
    with pytest.raises(InputError, match="choose one of"):
        of_rail(rows, "")
    with pytest.raises(InputError, match="no rail"):
        of_rail(rows, "+3 V")
    assert len(of_rail(read_log("at,volts\n0,5\n"), "+5 V")) == 1


@given(
    st.lists(
        st.tuples(
            st.integers(0, 2**31), st.floats(-900, 900), st.none() | st.floats(0, 9e5),
            st.none() | st.floats(-50, 300),
        ),
        min_size=1, max_size=20,
    )
)  # fmt: skip
def test_a_log_that_goes_out_comes_in_again(
    rows: list[tuple[int, float, float | None, float | None]],
) -> None:
    told = [(moment_text(at), "+5 V", Sample(float(at), v, mv, c)) for at, v, mv, c in rows]
    back = read_log(log_csv(told))
    assert len(back) == len(told)
    for (_, key, wanted), found in zip(told, back, strict=True):
        assert (found.rail, found.is_clock, found.sample.at_s) == (key, True, wanted.at_s)
        for one, other in zip(
            (found.sample.volt, found.sample.ripple_mv, found.sample.celsius),
            (wanted.volt, wanted.ripple_mv, wanted.celsius),
            strict=True,
        ):
            assert (one is None) == (other is None)
            assert one is None or one == pytest.approx(other, rel=1e-9, abs=1e-12)


@pytest.mark.parametrize(
    ("text", "awg"), [("18", 18), ("AWG 18", 18), ("#22", 22), ("1/0", 0), ("2/0", -1), ("4/0", -3)]
)
def test_gauges_as_they_are_written(text: str, awg: int) -> None:
    source = f"rail_v,amps,conductors,awg,pin_amps\n5 V,20 A,4,{text},6\n"
    assert read_source(source)[0].awg == awg


def test_the_ends_of_a_harness_in_other_words_and_its_table_out() -> None:
    feeds = read_source(
        "rail_v;amps;conductors;awg;pin_amps;isolated\n+5;20;4;18;6;no\nGND;;6;18;6;yes\n"
    )
    pins = read_target(
        'pin,kind,rail_v,amps,use\nA1,,5,"1,5",\nA2,GND,,,\nA3,N/C,,,\nA4,signal,,,Power good\n'
    )
    assert [feed.rail_v for feed in feeds] == [5, 0] and feeds[1].isolated
    assert [pin.kind.value for pin in pins] == ["rail", "ground", "nc", "signal"]
    assert pins[0].amps == 1.5 and pins[3].use is SignalUse.POWER_GOOD
    assert wiring_csv(plan(feeds, pins)).splitlines()[1].startswith("A1,5,5,1,1.5,12.57")
