"""UNIT.json and READINGS.csv: what goes out comes in again."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from hale_rail.core.errors import InputError
from hale_rail.core.parts.families import Family
from hale_rail.core.procedures import Accuracy, Condition
from hale_rail.core.quantities import Unit
from hale_rail.core.supply.sheet import Sheet, Topology
from hale_rail.core.supply.templates import template
from hale_rail.core.targets import Pair, Place
from hale_rail.formats.readings.readings_csv import read_accuracy, read_readings, write_accuracy
from hale_rail.formats.tables.texts import decoded
from hale_rail.formats.units.marked_values import marked_farad
from hale_rail.formats.units.unit_json import read_unit, write_unit
from larkmoor import units


def plain(sheet: Sheet) -> Sheet:
    """The sheet as its file has it, numbered in power order."""
    parts = [
        replace(part, id=place, order=10 * place, uid="", is_primary=part.is_primary or None)
        for place, part in enumerate(sheet.in_power_order, start=1)
    ]
    return replace(sheet, parts=tuple(parts), rails=tuple(replace(r, uid="") for r in sheet.rails))


@pytest.mark.parametrize(
    "sheet",
    [
        *(template(topology) for topology in Topology),
        units.loomwright(),
        units.draftmaster(),
        units.pattern_editor(),
        units.shed_terminal(),
    ],
    ids=lambda sheet: sheet.name,
)
def test_a_unit_written_out_is_read_back(sheet: Sheet) -> None:
    back = read_unit(write_unit(sheet))
    assert write_unit(back) == write_unit(read_unit(write_unit(back)))
    wanted, got = plain(sheet), plain(back)
    assert got.rails == wanted.rails
    assert [(p.ref, p.kind, p.line, p.marking, p.bank, p.role) for p in got.parts] == [
        (p.ref, p.kind, p.line, p.marking, p.bank, p.role) for p in wanted.parts
    ]


@given(st.recursive(
    st.none() | st.booleans() | st.floats() | st.integers() | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(
        st.sampled_from(["name", "topology", "rails", "parts", "key", "nominal_v", "ref", "kind",
                         "value", "tolerance", "windings", "year", "line"]), inner, max_size=5),
    max_leaves=20,
))  # fmt: skip
def test_no_json_breaks_the_reader(data: object) -> None:
    import json

    text = json.dumps({"topology": "linear", **(data if isinstance(data, dict) else {"x": data})})
    problem = "none"
    try:
        read_unit(text)
    except InputError as error:
        problem = str(error)
    assert problem


def test_a_row_is_read_as_far_as_it_needs_no_unit() -> None:
    rows, problems = read_readings(
        "Value,pair,Target,procedure,condition,taken_at,accuracy,amps\n"
        "0R15,b>e,Q1,OHMS,lifted,2026-03-02T10:00:00+01:00,3%+1,\n"
        "4.9,,+5 V,volts,machine@far,,,6A\n"
        "1,,F1,ohms,in-circuit,yesterday,,\n"
        "1,B,F1,ohms,in-circuit,,,\n"
        "1,,F1,ohms,in-circuit,,,-3\n"
        "1,,F1,ohms,dummy@moon,,,\n"
    )
    assert [problem.line for problem in problems] == [4, 5, 6, 7]
    first, second = rows
    assert (first.pair, first.procedure, first.at) == (
        Pair("B", "E"), "ohms", "2026-03-02T09:00:00.000000+00:00",
    )  # fmt: skip
    assert (second.condition, second.place, second.ampere) == (Condition.MACHINE, Place.FAR, 6.0)


@pytest.mark.parametrize(
    ("text", "unit", "accuracy"),
    [
        ("3%+1", Unit.FARAD, Accuracy(0.03, 1)),
        ("0,5% + 2", Unit.VOLT, Accuracy(0.005, 2)),
        ("5%+10m", Unit.OHM, Accuracy(0.05, 0, 0.010)),
        ("2%", Unit.OHM, Accuracy(0.02)),
    ],
)
def test_an_accuracy(text: str, unit: Unit, accuracy: Accuracy) -> None:
    found = read_accuracy(text, unit)
    assert found.share == pytest.approx(accuracy.share)
    assert (found.digits, found.fixed) == (accuracy.digits, pytest.approx(accuracy.fixed))
    assert read_accuracy(write_accuracy(found), unit) == found


@pytest.mark.parametrize("text", ["", "lots", "3", "90%", "3%+x", "3%+10mV"])
def test_an_accuracy_that_cannot_be(text: str) -> None:
    with pytest.raises(InputError):
        read_accuracy(text, Unit.OHM)


@pytest.mark.parametrize(
    ("text", "family", "farad"),
    [
        ("104", Family.CERAMIC, 100e-9),
        ("473", Family.FILM, 47e-9),
        ("225", Family.TANTALUM, 2.2e-6),
        ("104", Family.SUPPRESSION_PAPER, 100e-9),
        ("470", Family.ALUMINIUM, 470e-6),
        ("2200", Family.ALUMINIUM, 2200e-6),
        ("104n", Family.FILM, 104e-9),
    ],
)
def test_a_marked_value(text: str, family: Family, farad: float) -> None:
    value, hint = marked_farad(text, family)
    assert value == pytest.approx(farad)
    assert ("code" in hint) == (len(text) == 3 and family is not Family.ALUMINIUM)


@pytest.mark.parametrize(("text", "family"), [("104", None), ("470", Family.TANTALUM)])
def test_a_value_of_two_meanings_is_asked_back(text: str, family: Family | None) -> None:
    with pytest.raises(InputError, match="or the code for"):
        marked_farad(text, family)


def test_bytes_that_are_no_text_are_refused_by_name() -> None:
    with pytest.raises(InputError, match=r"x\.csv is not UTF-8 text"):
        decoded(b"abc\xff\x01", "x.csv")
    assert decoded("Größe;5 µF".encode("cp1252"), "x.csv") == "Größe;5 µF"
