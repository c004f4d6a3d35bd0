"""What changes nothing, and what never makes a verdict milder, over any bench's words."""

from __future__ import annotations

import itertools
import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.core.parts.families import Family
from hale_rail.core.parts.measured import MeasuredValue, PartReadings
from hale_rail.core.parts.verdicts import Action, Verdict
from hale_rail.core.procedures import LEAKAGE, OHMS, Procedure
from hale_rail.core.quantities import Unit, read
from hale_rail.core.supply.sheet import Topology
from hale_rail.core.supply.templates import make_part, template
from hale_rail.formats.plans.price_lists import guessed, offers_of, read_rows
from hale_rail.formats.readings.readings_csv import read_readings
from hale_rail.formats.tables.sheets import open_table
from hale_rail.formats.units.parts_text import read_parts
from tests.sizes import examples

RAILS = template(Topology.FLYBACK).rails
FAMILY = st.sampled_from(list(Family))
FARAD = st.sampled_from([1e-9, 4.7e-9, 100e-9, 10e-6, 470e-6, 4700e-6])
VOLT = st.sampled_from([None, 6.3, 25.0, 250.0, 400.0])
#: from the mildest; unproven says nothing yet, so that it may stand anywhere
RANK = {Verdict.GOOD: 0, Verdict.WORN: 1, Verdict.FAILED: 2}


def told(
    family: Family, farad: float, volt: float | None, procedure: Procedure, value: float
) -> tuple[Verdict, Action, str]:
    """What one lifted reading says of a capacitor."""
    part = make_part(1, "C1", "capacitor", "+5 V", 1, family=family, value=farad, volt=volt)
    taken = {(procedure.code, None): MeasuredValue(value, lifted=True)}
    found = part.kind.judge(part, PartReadings(taken, this_year=2026))
    return found.verdict, found.action, " ".join(r.sentence for r in found.reasons)


@given(FAMILY, FARAD, VOLT, st.floats(1e-9, 0.4), st.floats(1.0, 1e4))
@settings(max_examples=examples(400))
def test_a_larger_leak_is_never_milder(
    family: Family, farad: float, volt: float | None, ampere: float, more: float
) -> None:
    mild = told(family, farad, volt, LEAKAGE, ampere)
    harsh = told(family, farad, volt, LEAKAGE, min(ampere * more, 0.5))
    assert RANK.get(harsh[0], 1) >= RANK.get(mild[0], 0)
    if harsh[0] is not Verdict.GOOD:
        assert harsh[1] is not Action.KEEP
    is_told_to_reform = "reform it" in harsh[2]
    assert not is_told_to_reform or family.is_wet


@given(FAMILY, FARAD, VOLT, st.floats(0.1, 1e8), st.floats(1.0, 1e4))
@settings(max_examples=examples(400))
def test_fewer_ohms_across_a_lifted_one_are_never_milder(
    family: Family, farad: float, volt: float | None, ohm: float, less: float
) -> None:
    mild, harsh = (told(family, farad, volt, OHMS, value)[0] for value in (ohm, ohm / less))
    assert RANK.get(harsh, 1) >= RANK.get(mild, 0)
    assert told(family, farad, volt, OHMS, 50.0)[0] is not Verdict.GOOD


SPELT = {
    Unit.FARAD: (10e-9, ("10n", "10 nF", "10 nanofarad", "10 nanofarads", "0.01u", "0.01 µF",
                         "10000p", "10000 picofarads", "0.01 microfarad")),
    Unit.OHM: (4700.0, ("4k7", "4.7k", "4.7 kΩ", "4.7 kilohm", "4700", "4700 ohms")),
    Unit.AMPERE: (0.09, ("90m", "90 mA", "90mA", "90 milliamps", "0.09 A", "0.09", ".09")),
    Unit.VOLT: (-12.0, ("-12", "−12", "- 12 V", "minus 12", "-12.0 volts", "-12V", "–12")),
}  # fmt: skip


@pytest.mark.parametrize(
    ("unit", "text"), [(unit, text) for unit, (_, texts) in SPELT.items() for text in texts]
)
def test_the_spelling_of_a_unit_changes_nothing(unit: Unit, text: str) -> None:
    assert read(text, unit).value == pytest.approx(SPELT[unit][0])


@pytest.mark.parametrize(
    ("ref", "words"),
    [
        ("C10", ("1000u", "16V", "+5", "low-esr", "out")), ("CX1", ("100n", "X2", "275V~", "main")),
        ("F1", ("1.6A", "T", "250V")), ("R5", ("4k7", "5%", "+12")),
        ("U2", ("regulator", "+12")), ("D7", ("schottky", "+5")),
    ],
)  # fmt: skip
def test_the_order_of_a_lines_words_changes_nothing(ref: str, words: tuple[str, ...]) -> None:
    parts = []
    for order in itertools.permutations(words):
        (line,) = read_parts(" ".join((ref, *order)), RAILS)
        assert line.part, (order, line.problem)
        parts.append(line.part)
    assert all(part == parts[0] for part in parts[1:])


LIST = (
    {"SKU": "A1", "Type": "aluminium", "Capacitance (uF)": "470", "Volts": "25", "Price": "0.31",
     "ESR (mΩ)": "65", "Ripple [mA]": "760", "Stock": "1,250"},
    {"SKU": "A2", "Type": "aluminium", "Capacitance (uF)": "1000", "Volts": "16", "Price": "0.44",
     "ESR (mΩ)": "42", "Ripple [mA]": "980", "Stock": "In stock"},
)  # fmt: skip
READINGS = (
    {"target": "C10", "procedure": "c", "condition": "lifted", "value": "930u", "meter": "LCR"},
    {"target": "+5 V", "procedure": "volts", "condition": "machine", "value": "5.02", "meter": ""},
    {"target": "OC1", "procedure": "diode", "condition": "lifted", "value": "1.12", "pair": "A>K"},
)  # fmt: skip


def table(rows: tuple[dict[str, str], ...], columns: list[str], mark: str) -> str:
    """Rows under their headings, in an order of columns."""
    lines = [columns, *([row.get(name, "") for name in columns] for row in rows)]
    return "\n".join(mark.join(line) for line in lines)


@pytest.mark.parametrize("seed", range(6))
def test_the_order_of_columns_changes_nothing(seed: int) -> None:
    chance = random.Random(seed)
    offers, readings = [], []
    for is_mixed in (False, True):
        columns, of_readings = list(LIST[0]), ["target", "procedure", "condition", "value", "pair"]
        if is_mixed:
            chance.shuffle(columns)
            chance.shuffle(of_readings)
        found = open_table(table(LIST, columns, ";").encode(), "l.csv", ("sku", "type", "price"))
        offers.append(offers_of(read_rows(found, guessed(found.headings, {}), "Kettlewick")))
        rows, problems = read_readings(table(READINGS, of_readings, ","))
        assert not problems
        readings.append(rows)
    assert offers[0] == offers[1]
    assert len(offers[0]) == 2 and offers[0][0].build.ripple_a == pytest.approx(0.76)
    assert readings[0] == readings[1]
