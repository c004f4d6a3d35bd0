"""Work on a unit's sheet: lists added, parts corrected and taken off, patterns kept."""

from __future__ import annotations

import pytest

from hale_rail.actions import casebook, record, sheetwork
from hale_rail.core.supply.points import Point, Quantity
from hale_rail.core.supply.sheet import Kind, Rail, Regulation
from hale_rail.errors import ConflictError, InputError, NotFoundError
from hale_rail.formats.parts_text import write_part
from hale_rail.store.database import Store

from ..conftest import Bench


def marked(bench: Bench, ref: str) -> str:
    return write_part(next(s for s in bench.dossier.sheet.stations if s.ref == ref))


def correct(bench: Bench, ref: str, text: str) -> None:
    was = marked(bench, ref)
    sheetwork.correct_part(bench.store, bench.number, bench.id_of(ref), was, text)


def test_a_correction_judges_the_readings_anew_and_is_logged(bench: Bench) -> None:
    bench.make_safe()
    bench.read("C12", Quantity.ESR, "0.9")  # 1000 µF 25 V: typical 0.096 Ω
    assert bench.state("C12") == "failed"
    correct(bench, "C12", "22u 25V +12 out 1984")  # typical 1.1 Ω
    assert bench.state("C12") == "good"
    station = bench.dossier.facts[bench.id_of("C12")].station
    assert (station.role, station.year, station.line) == ("output-filter", 1984, "+12 V")
    assert bench.dossier.log[-1].text == (
        "C12 corrected: 1000u 25V alu out +12 is 22u 25V alu out +12 1984"
    )
    correct(bench, "C12", "22u 25V +5 out bank A")
    walked = [s.ref for s in bench.dossier.sheet.on_line("+5 V")]
    assert walked[-1] == "C12"
    assert bench.dossier.facts[bench.id_of("C12")].station.bank == "A"


def test_a_role_that_notes_have_no_word_for_stays(bench: Bench) -> None:
    correct(bench, "CX1", "220n 275V X2 paper main 1984")
    station = bench.dossier.facts[bench.id_of("CX1")].station
    assert (station.role, station.value) == ("suppressor-x", pytest.approx(220e-9))
    correct(bench, "C1", "220u 400V main store")
    c1 = bench.dossier.facts[bench.id_of("C1")].station
    assert (c1.role, c1.is_store) == ("", True)


def test_the_sheet_knows_the_kind_that_a_letter_only_guesses(store: Store) -> None:
    bench = Bench(store, parts="D10 +5 fast")  # the template's D10 is a Schottky, its L1 a filter
    assert [s.kind for s in bench.dossier.sheet.stations if s.ref == "D10"] == [Kind.SCHOTTKY]
    correct(bench, "D10", "+12")
    assert bench.dossier.facts[bench.id_of("D10")].station.line == "+12 V"
    correct(bench, "L1", "main")
    correct(bench, "D12", "fast +12")
    d12 = bench.dossier.facts[bench.id_of("D12")].station
    assert (d12.kind, d12.role, marked(bench, "D12")) == (Kind.DIODE, "fast", "fast +12")


@pytest.mark.parametrize(
    ("text", "says"),
    [("nonsense", "No capacitance"), ("", "No capacitance"), ("5 F", "between"),
     ("10u 25V +24", "no rail"), ("10u 25V +12 shiny", "shiny")],
)  # fmt: skip
def test_a_correction_that_cannot_be_changes_nothing(bench: Bench, text: str, says: str) -> None:
    before = marked(bench, "C12")
    with pytest.raises(InputError, match=says):
        correct(bench, "C12", text)
    assert marked(bench, "C12") == before


def test_a_second_tab_corrects_nothing_unseen(bench: Bench) -> None:
    was, c12 = marked(bench, "C12"), bench.id_of("C12")
    sheetwork.correct_part(bench.store, bench.number, c12, was, "470u 25V +12")
    with pytest.raises(ConflictError, match="470u 25V alu"):
        sheetwork.correct_part(bench.store, bench.number, c12, was, "330u 25V +12")
    with pytest.raises(NotFoundError):
        sheetwork.correct_part(bench.store, bench.number, 999_999, "", "1u")


def test_a_part_that_is_not_there_is_taken_off_unless_it_was_worked_on(bench: Bench) -> None:
    c12, c13 = bench.id_of("C12"), bench.id_of("C13")
    sheetwork.remove_part(bench.store, bench.number, c13)
    assert c13 not in bench.dossier.facts
    assert "C13 taken off" in bench.dossier.log[-1].text
    with pytest.raises(InputError, match="holds a charge"):
        sheetwork.remove_part(bench.store, bench.number, bench.id_of("C1"))
    bench.make_safe()
    bench.read("C12", Quantity.ESR, "0.1")
    record.decide(bench.store, bench.number, bench.id_of("C10"), "keep", "hard to reach")
    for station_id in (c12, bench.id_of("C10")):
        with pytest.raises(InputError, match="leave it out by decision"):
            sheetwork.remove_part(bench.store, bench.number, station_id)
    assert {c12, bench.id_of("C10")} <= set(bench.dossier.facts)


def test_parts_are_added_beside_and_never_rewrite_a_station(bench: Bench) -> None:
    before = bench.dossier.sheet.stations
    sheetwork.add_parts(bench.store, bench.number, "C10 47u 25V +12\nC77 1u 50V +12\nbad")
    after = bench.dossier.sheet.stations
    assert after[: len(before)] == before
    assert [s.ref for s in after[len(before) :]] == ["C10", "C77"]


def test_a_sheet_is_kept_as_a_pattern(bench: Bench) -> None:
    sheetwork.keep_pattern(bench.store, bench.number, "  Marl   Lane MP-4 ")
    assert [(p.name, p.stations) for p in casebook.patterns(bench.store)] == [
        ("Marl Lane MP-4", len(bench.dossier.sheet.stations))
    ]
    assert bench.dossier.sheet.name == "Marl Lane MP-4"
    again = Bench(bench.store, f"pattern:{casebook.patterns(bench.store)[0].id}", number="T-2")
    assert [s.ref for s in again.dossier.sheet.stations] == [
        s.ref for s in bench.dossier.sheet.stations
    ]
    for taken in ("marl lane mp-4", "Linear", " ", "x" * 61):
        with pytest.raises(InputError):
            sheetwork.keep_pattern(bench.store, bench.number, taken)


def rail_of(bench: Bench, key: str) -> Rail:
    rail = bench.dossier.sheet.rail(key)
    assert rail is not None
    return rail


def test_rails_named_in_a_list_are_added_or_corrected(store: Store) -> None:
    text = "rail +24 0.5..2A raw 10%\nC90 1000u 35V +24\nrail +5 12A\nrail -12 loud"
    bench = Bench(store, parts=text)
    added = rail_of(bench, "+24 V")
    assert (added.nominal_v, added.regulation) == (24.0, Regulation.RAW)
    assert (added.load_min_a, added.load_max_a, added.tolerance) == (0.5, 2.0, (0.1, 0.1))
    five = rail_of(bench, "+5 V")
    assert (five.load_min_a, five.load_max_a, five.regulation) == (0.8, 12.0, Regulation.MAIN)
    assert [s.ref for s in bench.dossier.sheet.on_line("+24 V")] == ["C90"]
    joint = bench.dossier.facts[bench.id_of("P1")].station
    assert joint.rails[-1] == "+24 V"
    assert "loud" in next(e.text for e in bench.dossier.log if e.kind == "left out")
    sheetwork.add_parts(store, bench.number, "rail -5 0.2A linear\nU7 -5\nrail +24 3A")
    assert rail_of(bench, "−5 V").regulation is Regulation.LINEAR
    assert rail_of(bench, "+24 V").load_max_a == 3.0
    assert [r.key for r in bench.dossier.sheet.rails][-2:] == ["+24 V", "−5 V"]
    board = next(s for s in bench.dossier.sheet.stations if s.kind is Kind.BOARD)
    assert board.rails[-1] == "−5 V"


def test_a_rail_that_is_not_there_is_taken_off_with_its_line(bench: Bench) -> None:
    sheetwork.remove_rail(bench.store, bench.number, "−12 V")
    sheet = bench.dossier.sheet
    assert sheet.rail("−12 V") is None
    assert all(s.line != "−12 V" and "−12 V" not in s.rails for s in sheet.stations)
    record.apply_power(bench.store, bench.number, "mains")
    point = Point(Quantity.RAIL, None, "+12 V", "dummy")
    reading = record.save_reading(bench.store, bench.number, point, "12.1").reading_id
    with pytest.raises(InputError, match="was read"):
        sheetwork.remove_rail(bench.store, bench.number, "+12 V")
    record.strike(bench.store, bench.number, reading, "wrong unit")
    bench.make_safe()
    bench.read("C12", Quantity.ESR, "0.1")
    with pytest.raises(InputError, match="by decision"):
        sheetwork.remove_rail(bench.store, bench.number, "+12 V")
    assert rail_of(bench, "+12 V")
    with pytest.raises(NotFoundError):
        sheetwork.remove_rail(bench.store, bench.number, "+99 V")
