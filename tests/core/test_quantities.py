"""What is typed at a bench is read wholly or refused, and written back in the trade's signs."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.errors import InputError, QuantityError, RangeError
from hale_rail.core.quantities import (
    Unit,
    farad_spellings,
    rated_volts,
    read,
    read_code,
    show,
    show_duration,
    show_exact,
)
from hale_rail.core.ranges import read_span

F, OHM, V, A, S = Unit.FARAD, Unit.OHM, Unit.VOLT, Unit.AMPERE, Unit.SECOND


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("4n7", F, 4.7e-9),
        ("4u7", F, 4.7e-6),
        ("4N7", F, 4.7e-9),
        ("2200 pF", F, 2.2e-9),
        ("2200u", F, 2.2e-3),
        ("4,7uF", F, 4.7e-6),
        ("4700µF", F, 4.7e-3),
        ("4700 μF", F, 4.7e-3),
        ("100NF", F, 1e-7),
        ("22MFD", F, 22e-6),
        ("470 mmfd", F, 470e-12),
        ("1e-6F", F, 1e-6),
        ("2.2e-3", F, 2.2e-3),
        (".22", F, 0.22e-6),
        ("2200", F, 2.2e-3),
        ("10 000 u", F, 10e-3),
        ("0", F, 0.0),
        (".22", OHM, 0.22),
        ("0R15", OHM, 0.15),
        ("R47", OHM, 0.47),
        ("4k7", OHM, 4700.0),
        ("4K7", OHM, 4700.0),
        ("2M2", OHM, 2.2e6),
        ("35m", OHM, 0.035),
        ("35 mΩ", OHM, 0.035),
        ("35 m\u2126", OHM, 0.035),
        ("1,5", OHM, 1.5),
        ("0,470", OHM, 0.47),
        ("150 ohms", OHM, 150.0),
        ("1e+3", OHM, 1000.0),
        ("2.2e3", OHM, 2200.0),
        ("22 mfd", F, 22e-6),
        ("2200uF/25V", F, 2.2e-3),
        ("4700µF / 16 VDC", F, 4.7e-3),
        ("10.000", OHM, 10.0),
        ("12V DC", V, 12.0),
        ("5 Volts", V, 5.0),
        ("—5", V, -5.0),
        ("−5", V, -5.0),
        ("short", V, 0.0),
        ("1 min", S, 60.0),
        ("2m", S, 120.0),
        ("2min", S, 120.0),
        ("2ms", S, 2e-3),
        ("1:30", S, 90.0),
        ("1:02:03", S, 3723.0),
        ("90s", S, 90.0),
        ("short", OHM, 0.0),
        ("-11.9", V, -11.9),
        ("−11,9 V", V, -11.9),
        ("5V1", V, 5.1),
        ("336 VDC", V, 336.0),
        ("900 mV", V, 0.9),
        ("12u", A, 12e-6),
        ("1.3 A", A, 1.3),
        ("30", S, 30.0),
    ],
)
def test_reads(text: str, unit: Unit, value: float) -> None:
    assert read(text, unit).value == pytest.approx(value, rel=1e-15, abs=0)


@pytest.mark.parametrize(
    "text",
    ["OL", "ol", "0L", "O.L", "open", "inf", "∞", "OVLD", ">20M", "> 20 MΩ", "OL MΩ", "OL Ω"],
)
def test_over_range_is_infinite_and_only_where_words_are_allowed(text: str) -> None:
    assert read(text, OHM).is_over
    with pytest.raises(QuantityError):
        read(text, OHM, allow_words=False)


@pytest.mark.parametrize(
    ("text", "unit", "error", "says"),
    [
        ("", OHM, QuantityError, "Nothing typed"),
        ("nan", OHM, QuantityError, "not a resistance"),
        ("fluffy", V, QuantityError, "not a voltage"),
        ("0.15 Ω", F, QuantityError, "is a resistance"),
        ("100 nF", OHM, QuantityError, "is a capacitance"),
        ("4700µF/25", F, QuantityError, "not a capacitance"),
        ("10mF", F, QuantityError, "10 µF or 10 mF"),
        ("8mf", F, QuantityError, "8 µF or 8 mF"),
        ("0.1 MF", F, QuantityError, "0.1u, or 100u"),
        ("4m7", F, QuantityError, "4.7 µF or 4.7 mF"),
        ("0E22", OHM, QuantityError, "0R22"),
        ("4E7", OHM, QuantityError, "4R7"),
        ("1e3", OHM, QuantityError, "1R3"),
        ("10,000", OHM, QuantityError, "10.000 or 10000"),
        ("100²", OHM, QuantityError, "raised, circled"),
        ("①", OHM, QuantityError, "plain figures"),
        ("½", OHM, QuantityError, "plain figures"),
        ("٣", OHM, QuantityError, "plain figures"),
        ("1:75", S, QuantityError, "go to 59"),
        ("7" * 5000, V, RangeError, "far too long"),
        ("OL V", OHM, QuantityError, "not a resistance"),
        ("4k7k", OHM, QuantityError, "not understood"),
        ("1.2.3", OHM, QuantityError, ".3"),
        ("--5", V, QuantityError, "not a voltage"),
        ("1,500", OHM, QuantityError, "1.500 or 1500"),
        ("22 MF", F, QuantityError, "22u, or 22000u"),
        ("5 F", F, RangeError, "0 F and 1 F"),
        ("-3", OHM, RangeError, "between"),
        ("1e+400", OHM, RangeError, "outside anything"),
        ("90000 V", V, RangeError, "50 kV"),
    ],
)
def test_refuses_and_says_why(text: str, unit: Unit, error: type[InputError], says: str) -> None:
    with pytest.raises(error) as caught:
        read(text, unit)
    assert says in str(caught.value).replace("\u00a0", " ")


@pytest.mark.parametrize(
    ("text", "digit"), [("4.98", 0.01), ("12", 1.0), ("5.0", 0.1), ("1.25k", 10.0), ("0R15", 0.01)]
)
def test_keeps_the_weight_of_the_last_digit(text: str, digit: float) -> None:
    assert read(text, OHM).resolution == pytest.approx(digit)


@pytest.mark.parametrize(
    ("text", "farad"),
    [
        ("104", 100e-9),
        ("473", 47e-9),
        ("225", 2.2e-6),
        ("470", 47e-12),
        ("100n", None),
        ("1040", None),
    ],
)
def test_a_three_figure_code_is_two_figures_and_a_power(text: str, farad: float | None) -> None:
    assert read_code(text) == (pytest.approx(farad) if farad else None)


def test_a_rating_behind_a_value_is_no_part_of_it() -> None:
    assert rated_volts("2200uF/25V") == 25.0
    assert rated_volts("2200uF") is None
    assert "rated 25" in read("2200uF/25V", F).hint


@given(st.floats(1e-3, 9e8), st.sampled_from(["{:.6f}", "{:.6f} Ω", "{:.9e}", "{:.6f}ohm"]))
def test_notations_of_one_value_agree(value: float, notation: str) -> None:
    assert read(notation.format(value), OHM).value == pytest.approx(value, rel=1e-6, abs=1e-6)


def test_an_assumption_is_said() -> None:
    assert read("2200", F).hint == "a plain number is read as µF"
    assert read("2200u", F).hint == ""


@pytest.mark.parametrize(
    ("text", "low", "high"),
    [("4.8..5.2", 4.8, 5.2), ("5.2 to 4.8", 4.8, 5.2), ("-11.8..-12.3", -12.3, -11.8)],
)
def test_reads_a_jumping_voltage(text: str, low: float, high: float) -> None:
    span = read_span(text, V)
    assert (span.value, span.high, span.is_span) == (low, high, True)


@pytest.mark.parametrize(
    ("value", "unit", "text"),
    [
        (0.56, OHM, "0.56 Ω"),
        (0.035, OHM, "35 mΩ"),
        (4700, OHM, "4.7 kΩ"),
        (2.2e-3, F, "2200 µF"),
        (0.015, F, "15000 µF"),
        (4.7e-9, F, "4.7 nF"),
        (1e-6, F, "1 µF"),
        (-11.9, V, "−11.9 V"),
        (math.inf, OHM, "OL"),
        (12e-6, A, "12 µA"),
        (0.0, OHM, "0 Ω"),
    ],
)
def test_writes(value: float, unit: Unit, text: str) -> None:
    assert show(value, unit).replace("\u00a0", " ") == text


@pytest.mark.parametrize(
    ("seconds", "text"),
    [(0.01, "at once"), (3.79, "3.8 s"), (63.8, "64 s"), (150, "2 min 30 s"), (3900, "1 h 5 min")],
)
def test_writes_a_wait(seconds: float, text: str) -> None:
    assert show_duration(seconds).replace("\u00a0", " ") == text


@pytest.mark.parametrize(
    ("value", "spellings"),
    [
        (2.2e-3, ("", "2200000 nF", "2200 µF")),
        (4.7e-9, ("4700 pF", "4.7 nF", "0.0047 µF")),
        (22e-12, ("22 pF", "0.022 nF", "0.000022 µF")),
    ],
)
def test_one_value_three_spellings(value: float, spellings: tuple[str, ...]) -> None:
    shown = farad_spellings(value)
    assert tuple(text.replace("\u00a0", " ") for text in shown) == spellings
    for text in filter(None, shown):
        assert read(text, F).value == pytest.approx(value)


@given(st.floats(1e-11, 0.4), st.sampled_from([F, OHM, A]))
def test_what_is_written_reads_back(value: float, unit: Unit) -> None:
    """Six figures survive the round trip, whatever prefix the writer chose."""
    assert read(show_exact(value, unit), unit).value == pytest.approx(value, rel=6e-6)


@given(st.integers(1, 999), st.integers(0, 9), st.sampled_from("pnu"))
def test_a_letter_for_the_point_is_the_point(whole: int, tenth: int, prefix: str) -> None:
    assert read(f"{whole}{prefix}{tenth}", F).value == read(f"{whole}.{tenth}{prefix}F", F).value


@given(st.text(max_size=20), st.sampled_from(list(Unit)))
def test_any_text_is_read_or_refused(text: str, unit: Unit) -> None:
    try:
        value = read(text, unit).value
    except InputError as error:
        assert str(error)
    else:
        assert not math.isnan(value) and (math.isinf(value) or unit.low <= value <= unit.high)
