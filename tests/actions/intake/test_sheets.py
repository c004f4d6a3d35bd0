"""Work on a unit's sheet: lists added, parts corrected and taken off, patterns kept."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from hale_rail.actions import readings
from hale_rail.actions.intake import sheets
from hale_rail.actions.parts import decisions
from hale_rail.actions.rails import rails
from hale_rail.actions.safety import power
from hale_rail.case.history import entries
from hale_rail.case.parts.parts import parts
from hale_rail.case.rails.rails import rails as judged_rails
from hale_rail.case.safety.energy import energy
from hale_rail.core.parts.kinds import board, diode, schottky
from hale_rail.core.safety.energy import Energy
from hale_rail.core.supply.sheet import Rail, Regulation
from hale_rail.errors import ConflictError, InputError, NotFoundError
from hale_rail.formats.units.part_words import write_part
from hale_rail.formats.units.rails_text import read_rail_words, write_rail
from hale_rail.store import sheets as sheet_rows
from hale_rail.store import unit_types
from hale_rail.store.database import Store
from tests.conftest import Bench


def marked(bench: Bench, ref: str) -> str:
    return write_part(bench.part(ref))


def correct(bench: Bench, ref: str, text: str) -> None:
    was = marked(bench, ref)
    sheets.correct_part(bench.store, bench.number, bench.id_of(ref), was, text)


def test_a_correction_judges_the_readings_anew_and_is_logged(bench: Bench) -> None:
    bench.make_safe()
    bench.read("C12", "esr", "0.9")  # 1000 µF 25 V: typical 0.096 Ω
    assert bench.state("C12") == "failed"
    correct(bench, "C12", "22u 25V +12 out 1984")  # typical 1.1 Ω
    assert bench.state("C12") == "good"
    part = bench.part("C12")
    assert (part.role, part.year, part.line) == ("output-filter", 1984, "+12 V")
    assert entries(bench.file)[-1].text == (
        "C12 corrected: 1000u 25V alu out +12 is 22u 25V alu out +12 1984"
    )
    correct(bench, "C12", "22u 25V +5 out bank A")
    walked = [s.ref for s in bench.file.sheet.on_line("+5 V")]
    assert walked[-1] == "C12"
    assert bench.part("C12").bank == "A"


def test_a_role_that_notes_have_no_word_for_stays(bench: Bench) -> None:
    correct(bench, "CX1", "220n 275V X2 paper main 1984")
    part = bench.part("CX1")
    assert (part.role, part.value) == ("suppressor-x", pytest.approx(220e-9))
    correct(bench, "C1", "220u 400V main store")
    c1 = bench.part("C1")
    assert (c1.role, c1.is_store) == ("", True)


def test_a_correction_cannot_drop_a_store(bench: Bench) -> None:
    """It follows from value and rating; what is not known of the mains side is taken at worst."""
    for text, is_store in (
        ("150u 400V main", True),
        ("150u main", True),
        ("47n 400V film main", False),
        ("1u 63V film main", True),
    ):
        correct(bench, "C1", text)
        assert bench.part("C1").is_store is is_store, text
    power.remove_power(bench.store, bench.number)
    bench.read("C1", "store", "61")
    correct(bench, "C1", "47n 63V film main")
    assert energy(bench.file).energy is Energy.CHARGED  # what was read across it still counts


def test_the_sheet_knows_the_kind_that_a_letter_only_guesses(store: Store) -> None:
    bench = Bench(store, parts="D10 +5 fast")  # the template's D10 is a Schottky, its L1 a filter
    assert [p.kind for p in bench.file.sheet.parts if p.ref == "D10"] == [schottky.KIND]
    correct(bench, "D10", "+12")
    assert bench.part("D10").line == "+12 V"
    correct(bench, "L1", "main")
    correct(bench, "D12", "fast +12")
    d12 = bench.part("D12")
    assert (d12.kind, d12.role, marked(bench, "D12")) == (diode.KIND, "fast", "fast +12")


@pytest.mark.parametrize(
    ("text", "says"),
    [("nonsense", "No capacitance"), ("", "No capacitance"), ("5 F", "between"),
     ("10u 25V +24", "No rail"), ("10u 25V +12 shiny", "shiny")],
)  # fmt: skip
def test_a_correction_that_cannot_be_changes_nothing(bench: Bench, text: str, says: str) -> None:
    before = marked(bench, "C12")
    with pytest.raises(InputError, match=says):
        correct(bench, "C12", text)
    assert marked(bench, "C12") == before


def test_a_second_tab_corrects_nothing_unseen(bench: Bench) -> None:
    was, c12 = marked(bench, "C12"), bench.id_of("C12")
    sheets.correct_part(bench.store, bench.number, c12, was, "470u 25V +12")
    with pytest.raises(ConflictError, match="470u 25V alu"):
        sheets.correct_part(bench.store, bench.number, c12, was, "330u 25V +12")
    with pytest.raises(NotFoundError):
        sheets.correct_part(bench.store, bench.number, 999_999, "", "1u")


def test_a_part_that_is_not_there_is_taken_off_unless_it_was_worked_on(bench: Bench) -> None:
    c12, c13 = bench.id_of("C12"), bench.id_of("C13")
    sheets.remove_part(bench.store, bench.number, c13)
    assert c13 not in parts(bench.file)
    assert "C13 taken off" in entries(bench.file)[-1].text
    bench.make_safe()
    bench.read("C12", "esr", "0.1")
    decisions.decide(bench.store, bench.number, bench.id_of("C10"), "keep", "hard to reach")
    for station_id in (c12, bench.id_of("C10")):
        with pytest.raises(InputError, match="leave it out by decision"):
            sheets.remove_part(bench.store, bench.number, station_id)
    assert {c12, bench.id_of("C10")} <= set(parts(bench.file))


def test_parts_are_added_beside_and_never_rewrite_a_station(bench: Bench) -> None:
    before = bench.file.sheet.parts
    sheets.add_parts(bench.store, bench.number, "C10 47u 25V +12\nC77 1u 50V +12\nbad")
    after = bench.file.sheet.parts
    assert after[: len(before)] == before
    assert [s.ref for s in after[len(before) :]] == ["C10", "C77"]


def test_a_sheet_is_kept_as_a_pattern_and_a_type_of_unit(bench: Bench) -> None:
    sheets.keep_pattern(bench.store, bench.number, "  Marl   Lane MP-4 ")
    connection = bench.store.read()
    pattern = sheet_rows.patterns(connection)[0]
    assert (pattern.name, pattern.parts) == ("Marl Lane MP-4", len(bench.file.sheet.parts))
    assert bench.file.sheet.name == "Marl Lane MP-4"
    kind = unit_types.listed(connection)[0]
    assert (kind.name, kind.id) == (pattern.name, bench.file.case.unit_type_id)
    again = Bench(bench.store, f"pattern:{pattern.id}", number="T-2")
    assert [p.ref for p in again.file.sheet.parts] == [p.ref for p in bench.file.sheet.parts]
    assert again.file.case.unit_type_id == kind.id
    other = Bench(bench.store, f"pattern:{pattern.id}", number="T-3", unit_type="")
    assert other.file.case.unit_type_id is None
    for taken in ("marl lane mp-4", "Linear", " ", "x" * 61):
        with pytest.raises(InputError):
            sheets.keep_pattern(bench.store, bench.number, taken)


def test_the_sheets_earlier_versions_are_kept(bench: Bench) -> None:
    store, sheet_id = bench.store, bench.file.case.sheet_id
    first = bench.file.sheet
    correct(bench, "C12", "470u 35V +12 out")
    sheets.remove_part(store, bench.number, bench.id_of("C13"))
    sheets.add_parts(store, bench.number, "C77 1u 50V +12\nrail +24 2A")
    assert bench.file.rows.sheet_version == 4
    kept = [sheet_rows.load(store.read(), sheet_id, version) for version in (1, 2, 3, 4)]
    assert kept[0] == first
    assert kept[3] == bench.file.sheet
    volts = [next(p.volt for p in sheet.parts if p.ref == "C12") for sheet in kept]
    assert volts == [25.0, 35.0, 35.0, 35.0]
    assert ["C13" in {p.ref for p in sheet.parts} for sheet in kept] == [True, True, False, False]
    assert [sheet.rail("+24 V") is not None for sheet in kept] == [False, False, False, True]
    same = [next(p.id for p in sheet.parts if p.ref == "C12") for sheet in kept]
    assert len(set(same)) == 1  # its readings stay its own


def rail_of(bench: Bench, key: str) -> Rail:
    rail = bench.file.sheet.rail(key)
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
    assert [s.ref for s in bench.file.sheet.on_line("+24 V")] == ["C90"]
    joint = bench.part("P1")
    assert joint.rails[-1] == "+24 V"
    assert "loud" in next(e.text for e in entries(bench.file) if e.kind == "left-out")
    sheets.add_parts(store, bench.number, "rail -5 0.2A linear\nU7 -5\nrail +24 3A")
    assert rail_of(bench, "−5 V").regulation is Regulation.LINEAR
    assert rail_of(bench, "+24 V").load_max_a == 3.0
    assert [r.key for r in bench.file.sheet.rails][-2:] == ["+24 V", "−5 V"]
    behind = next(p for p in bench.file.sheet.parts if p.kind is board.KIND)
    assert behind.rails[-1] == "−5 V"


def test_a_rail_that_is_not_there_is_taken_off_with_its_line(bench: Bench) -> None:
    rails.remove_rail(bench.store, bench.number, "−12 V")
    sheet = bench.file.sheet
    assert sheet.rail("−12 V") is None
    assert all(s.line != "−12 V" and "−12 V" not in s.rails for s in sheet.parts)
    power.apply_power(bench.store, bench.number, "mains")
    reading = bench.read("+12 V", "volts", "12.1", "dummy")
    with pytest.raises(InputError, match="was read"):
        rails.remove_rail(bench.store, bench.number, "+12 V")
    readings.strike(bench.store, bench.number, reading, "wrong unit")
    bench.make_safe()
    bench.read("C12", "esr", "0.1")
    with pytest.raises(InputError, match="by decision"):
        rails.remove_rail(bench.store, bench.number, "+12 V")
    assert rail_of(bench, "+12 V")
    with pytest.raises(NotFoundError):
        rails.remove_rail(bench.store, bench.number, "+99 V")


def test_a_rail_is_corrected_in_the_words_of_notes_and_judged_anew(bench: Bench) -> None:
    store, number = bench.store, bench.number
    power.apply_power(store, number, "mains")
    bench.read("+12 V", "volts", "12.4", "machine")
    before = write_rail(bench.file.sheet.rails[1])
    text = "aux 0.5..3A 1% 120mV isolated 950R attached 14R"
    rails.correct_rail(store, number, "+12 V", before, text)
    rail = bench.file.sheet.rail("+12 V")
    assert rail is not None
    assert (rail.load_min_a, rail.load_max_a, rail.tolerance) == (0.5, 3.0, (0.01, 0.01))
    assert (rail.ripple_mv, rail.ohm_isolated, rail.ohm_attached) == (120.0, 950.0, 14.0)
    assert read_rail_words(
        Rail("+12 V", 12.0, Regulation.RAW), write_rail(rail).split()
    ) == replace(rail, uid="")
    volts = next(v for v in judged_rails(bench.file) if v.rail.key == "+12 V")
    assert volts.most_telling is not None
    assert volts.most_telling[1].verdict.value == "fail"
    with pytest.raises(ConflictError):
        rails.correct_rail(store, number, "+12 V", before, "aux")
    for wrong in ("velvet", "aux 5", "isolated", "attached 0R", "main 900%"):
        with pytest.raises(InputError):
            rails.correct_rail(store, number, "+12 V", write_rail(rail), wrong)
    with pytest.raises(NotFoundError):
        rails.correct_rail(store, number, "+99 V", "", "aux")


def test_rails_are_put_in_order_and_keep_it(bench: Bench) -> None:
    store, number = bench.store, bench.number

    def keys() -> list[str]:
        return [rail.key for rail in bench.file.sheet.rails]

    first, second, third = keys()
    rails.move_rail(store, number, third, "up")
    assert keys() == [first, third, second]
    rails.correct_rail(store, number, third, write_rail(bench.file.sheet.rails[1]), "aux 1A")
    sheets.add_parts(store, number, "rail +24 1A")
    assert keys()[:3] == [first, third, second]
    rails.move_rail(store, number, third, "down")
    assert keys()[:3] == [first, second, third]
    for key, way in ((first, "up"), (first, "sideways"), (keys()[-1], "down")):
        with pytest.raises(InputError):
            rails.move_rail(store, number, key, way)
