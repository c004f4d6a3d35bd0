"""Opening, editing, finding, handing back; records of like units; reports kept as issued."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from hale_rail.actions import readings
from hale_rail.actions.intake import case_place, cases, sheets
from hale_rail.actions.intake.cases import NewCase
from hale_rail.actions.parts import decisions
from hale_rail.actions.rails import rails
from hale_rail.actions.report import closing
from hale_rail.actions.safety import power
from hale_rail.case.file import forget, open_case
from hale_rail.case.history import entries, issued_reports
from hale_rail.case.parts.line_map import picture
from hale_rail.case.report.report import Report, report
from hale_rail.case.shorts.grounds import grounds
from hale_rail.case.subjects import subject_of
from hale_rail.core.procedures import Condition
from hale_rail.core.shorts.ground import GroundJudgement, GroundVerdict
from hale_rail.errors import ConflictError, InputError, NotFoundError
from hale_rail.formats.codec import from_text, to_text
from hale_rail.formats.units.part_words import write_part
from hale_rail.stages.frame.bench import bench as bench_page
from hale_rail.stages.frame.bench import suggest_number
from hale_rail.store import search
from hale_rail.store import sheets as sheet_rows
from hale_rail.store.cases import CasePlace
from hale_rail.store.database import Store
from tests.conftest import Bench

TYPED = NewCase("T-7", "Loom", "dead", "", "template:flyback", "", "blanket", "lenient")


def test_opening_from_a_template_brings_a_map(store: Store) -> None:
    parts = "C10 3300u 16V +5\nC50 10u 25V +12 tant\nrubbish here"
    cases.open_new(store, replace(TYPED, parts=parts))
    case = open_case(store, "t-7")
    by_ref = {p.ref: p for p in case.sheet.parts}
    assert by_ref["C10"].value == pytest.approx(3.3e-3)  # corrected in its place
    assert (by_ref["C10"].bank, by_ref["C10"].role) == ("out", "output-filter")
    assert by_ref["C50"].line == "+12 V"
    assert len(picture(case).stations) > 15
    assert any("rubbish" in e.text for e in entries(case) if e.kind == "left-out")


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"number": "no spaces allowed"}, "number"),
        ({"number": ""}, "number"),
        ({"machine": "  "}, "machine"),
        ({"symptom": ""}, "symptom"),
        ({"before": "x" * 2001}, "before"),
        ({"school": "guess"}, "school"),
        ({"tolerance": "some"}, "tolerance"),
        ({"unit_type": "99"}, "unit_type"),
    ],
)
def test_fields_are_checked(store: Store, change: dict[str, str], field: str) -> None:
    with pytest.raises(InputError) as caught:
        cases.open_new(store, replace(TYPED, **change))
    assert caught.value.field == field


@pytest.mark.parametrize("start", ["", "template:steam", "pattern:999", "pattern:x"])
def test_a_start_that_is_gone(store: Store, start: str) -> None:
    with pytest.raises(InputError):
        cases.open_new(store, replace(TYPED, start=start))


def test_a_number_is_taken_once_whatever_its_case(store: Store) -> None:
    cases.open_new(store, TYPED)
    with pytest.raises(InputError, match="already"):
        cases.open_new(store, replace(TYPED, number="t-7"))
    assert suggest_number(store) == "T-008"
    with pytest.raises(NotFoundError):
        open_case(store, "T-9")


def test_edits_are_refused_to_an_older_copy(bench: Bench) -> None:
    cases.edit(bench.store, bench.number, 1, symptom="hums")
    with pytest.raises(ConflictError):
        cases.edit(bench.store, bench.number, 1, symptom="smokes")
    with pytest.raises(InputError, match="Say what it does wrong"):
        cases.edit(bench.store, bench.number, 2, symptom=" ")
    assert bench.file.case.symptom == "hums"
    with pytest.raises(ConflictError):
        closing.hand_back(bench.store, bench.number, 1, "repaired")
    with pytest.raises(InputError):
        closing.hand_back(bench.store, bench.number, 2, "lost")
    closing.hand_back(bench.store, bench.number, 2, "repaired")
    assert bench.file.case.closed_at
    assert bench_page(bench.store, "")[1] == 0
    assert bench_page(bench.store, "hums", CasePlace.BACK)[1] == 1
    with pytest.raises(ConflictError):
        closing.reopen(bench.store, bench.number, 2)
    closing.reopen(bench.store, bench.number, 3)
    assert bench_page(bench.store, "hums")[1] == 1
    with pytest.raises(NotFoundError):
        closing.reopen(bench.store, bench.number, 4)


@pytest.mark.parametrize(
    ("query", "numbers"),
    [
        ("", ["LW-031", "LW-038", "LW-027", "LW-022", "LW-014", "LW-009"]),
        ("draftmaster", ["LW-022"]),
        ("fuse weaving", ["LW-014"]),
        ("LW-03", ["LW-031", "LW-038"]),
        ("100%", []),
        ("_", []),
    ],
)
def test_search(demo: Store, query: str, numbers: list[str]) -> None:
    lines, total = bench_page(demo, query)
    assert ([line.number for line in lines], total) == (numbers, len(numbers))


def ground_of(bench: Bench, rail: str, side: Condition = Condition.ATTACHED) -> GroundJudgement:
    found = next(g for g in grounds(bench.file) if g.rail.key == rail).sides[side].judgement
    assert found is not None
    return found


def like_units(store: Store, **later: str) -> tuple[Bench, Bench]:
    """A unit of a type of its own, repaired and handed back with its rails read; and another."""
    first = Bench(store, number="A-1")
    sheets.keep_pattern(store, "A-1", "Marl Lane MP-4")
    pattern = sheet_rows.patterns(store.read())[0].id
    first.make_safe()
    first.read("+12 V", "ground", "70", "attached")
    first.read("+12 V", "ground", "55", "attached-reversed")
    first.read("+5 V", "ground", "0.4", "attached")  # a short is nobody's expectation
    second = Bench(store, f"pattern:{pattern}", number="A-2", **later)
    second.make_safe()
    return first, second


def test_a_repaired_unit_of_the_same_type_is_the_next_ones_record(store: Store) -> None:
    first, second = like_units(store)
    closing.hand_back(store, "A-1", first.version, "repaired")
    second.read("+12 V", "ground", "11", "attached")
    judged = ground_of(second, "+12 V")
    assert "by the record of a like unit" in judged.text
    assert (judged.verdict, judged.expected and judged.expected.ohm) == (
        GroundVerdict.SUSPICIOUS, 70.0,
    )  # fmt: skip
    second.read("+5 V", "ground", "14", "attached")
    assert "record" not in ground_of(second, "+5 V").text


@pytest.mark.parametrize(
    ("unit_type", "outcome"),
    [("", "repaired"), ("pattern", "as-it-is")],
)
def test_no_record_of_a_unit_of_another_type_or_one_that_was_not_repaired(
    store: Store, unit_type: str, outcome: str
) -> None:
    """Two machines begun from one pattern are alike only where a person says so."""
    first, second = like_units(store, unit_type=unit_type)
    closing.hand_back(store, "A-1", first.version, outcome)
    second.read("+12 V", "ground", "11", "attached")
    assert "record" not in ground_of(second, "+12 V").text


def test_the_fate_of_another_unit_judges_no_reading_anew(store: Store) -> None:
    """A good rail stays good when a like unit is handed back; what is read later is held to it."""
    first, second = like_units(store)
    second.read("+12 V", "ground", "11", "attached")
    before = ground_of(second, "+12 V")
    closing.hand_back(store, "A-1", first.version, "repaired")
    forget()
    assert ground_of(second, "+12 V") == before
    expected = subject_of(second.file, second.point("+12 V", "ground", "attached"))
    assert expected.record_ohm == 70.0
    second.read("+12 V", "ground", "11", "attached")
    assert ground_of(second, "+12 V").verdict is GroundVerdict.SUSPICIOUS
    cases.edit(store, "A-2", second.version, unit_type="")
    assert "record" not in ground_of(second, "+12 V").text


def test_a_case_that_was_handed_back_keeps_its_report_as_issued(bench: Bench) -> None:
    store, number = bench.store, bench.number
    bench.make_safe()
    bench.read("C12", "esr", "8")
    closing.hand_back(store, number, bench.version, "as-it-is")
    issued = issued_reports(bench.file)[0]
    kept = from_text(issued.body, Report)
    assert [(s.title, s.rows[0][0]) for s in kept.sections] == [("Found failed", "C12")]
    assert (kept.outcome, kept.closed_at) == ("given back as it is", bench.file.case.closed_at)
    closing.reopen(store, number, bench.version)
    decisions.decide(store, number, bench.id_of("C12"), "fitted", "1000 µF 25 V")
    sheets.correct_part(
        store, number, bench.id_of("C13"), write_part(bench.part("C13")), "10u 63V -12"
    )
    closing.hand_back(store, number, bench.version, "repaired")
    reports = issued_reports(bench.file)
    assert from_text(reports[1].body, Report) == kept
    assert [s.title for s in from_text(reports[0].body, Report).sections] == ["Replaced"]
    assert (kept.sheet_version, from_text(reports[0].body, Report).sheet_version) == (1, 2)
    assert to_text(from_text(issued.body, Report)) == issued.body


def test_readings_are_append_only_through_a_hand_back(bench: Bench) -> None:
    """A reading struck out later does not reach the report, and is named in the next one."""
    bench.make_safe()
    reading = bench.read("F1", "ohms", "OL")
    power.remove_power(bench.store, bench.number)
    closing.hand_back(bench.store, bench.number, bench.version, "as-it-is")
    closing.reopen(bench.store, bench.number, bench.version)
    readings.strike(bench.store, bench.number, reading, "wrong fuse")
    kept = from_text(issued_reports(bench.file)[0].body, Report)
    assert (kept.struck, report(bench.file).struck) == ((), (("OL", "wrong fuse"),))


def test_the_report_is_made_before_the_lock_and_only_of_what_is_then_closed(
    bench: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Another tab can write while it is made; then it is not issued, since it is behind."""
    made = closing.report

    def while_another_writes(*arguments: Any) -> Any:
        decisions.note(bench.store, bench.number, "meanwhile")
        return made(*arguments)

    monkeypatch.setattr(closing, "report", while_another_writes)
    with pytest.raises(ConflictError, match="Look it through again"):
        closing.hand_back(bench.store, bench.number, bench.version, "repaired")
    assert bench.file.case.closed_at is None
    assert issued_reports(bench.file) == []
    monkeypatch.undo()
    closing.hand_back(bench.store, bench.number, bench.version, "as-it-is")
    assert bench.file.case.outcome == "as-it-is"


def test_a_case_is_renamed_put_away_and_taken_up(store: Store) -> None:
    bench, other = Bench(store), Bench(store, number="T-2")
    for wanted in ("T-2", "t-2", "new", "a b", ""):
        with pytest.raises(InputError):
            case_place.rename(store, bench.number, wanted)
    assert case_place.rename(store, bench.number, " T-9 ") == "T-9"
    assert open_case(store, "T-9").case.machine == "Test unit"
    with pytest.raises(NotFoundError):
        open_case(store, "T-1")
    assert entries(open_case(store, "T-9"))[-1].text == "T-1 is T-9"
    case_place.put_away(store, "T-9")
    assert [c.number for c in bench_page(store, "")[0]] == [other.number]
    assert [c.number for c in bench_page(store, "", CasePlace.AWAY)[0]] == ["T-9"]
    with pytest.raises(InputError):
        case_place.put_away(store, "T-9")
    case_place.take_up(store, "T-9")
    assert bench_page(store, "", CasePlace.AWAY)[1] == 0
    with pytest.raises(InputError):
        case_place.take_up(store, "T-9")


@pytest.mark.parametrize(
    ("query", "is_found"),
    [
        ("C12", True), ("c12", True), ("C1", True), ("C999", False), ("C", False),
        ("+12", True), ("-12V", True), ("−12", True), ("+13", False),
        ("crazed", True), ("craze", True), ("leaking", False), ("varnish", True),
        ("C12 crazed varnish", True), ("C12 leaking", False), ("%", False),
    ],
)  # fmt: skip
def test_the_search_finds_parts_findings_rails_and_notes(
    bench: Bench, query: str, is_found: bool
) -> None:
    bench.look("C12", "leak")
    bench.look("C12", "craze")
    decisions.note(bench.store, bench.number, "Smells of varnish")
    assert bench_page(bench.store, query)[1] == int(is_found)


def test_a_search_knows_a_case_as_it_stands(bench: Bench) -> None:
    """Texts, notes, designators, rails and findings as they are now; what was is found no more."""

    def numbers(query: str) -> list[str]:
        return [line.number for line in bench_page(bench.store, query)[0]]

    assert numbers("unit") == [bench.number]
    assert numbers("crazed") == []
    bench.look("CX1", "craze")
    assert numbers("crazed") == [bench.number]
    bench.look("CX1", "none")
    assert numbers("crazed") == []
    decisions.note(bench.store, bench.number, 'smells of 100% "fish" under_the fan')
    for word in ("fish", '"fish"', "100%", "under_the", "ISH", "nit fis", "0%"):
        assert numbers(word) == [bench.number], word
    for word in ("fish fowl", "under%the", "C999", "+9", "%%%"):
        assert numbers(word) == [], word
    assert numbers("c1") == numbers("+5") == numbers("+5v") == numbers("−12") == [bench.number]


def test_each_change_that_a_search_could_find_is_due_and_a_reading_is_not(bench: Bench) -> None:
    """Between two searches one thing changes; the next one knows it."""
    store, number = bench.store, bench.number

    def is_due() -> bool:
        return search.is_due(store.read())

    for change, word in (
        (lambda: sheets.add_parts(store, number, "C77 22u 50V"), "C77"),
        (lambda: sheets.remove_part(store, number, bench.id_of("C77")), "-C77"),
        (lambda: cases.edit(store, number, bench.version, machine="Quill"), "quill"),
        (lambda: cases.edit(store, number, bench.version, symptom="ticks"), "ticks"),
        (lambda: cases.edit(store, number, bench.version, before="flooded"), "flooded"),
        (lambda: rails.remove_rail(store, number, "−12 V"), "-−12v"),
        (lambda: bench.look("C1", "bulge"), "bulged"),
        (lambda: decisions.note(store, number, "varnish"), "varnish"),
        (lambda: case_place.rename(store, number, "Q-5"), "q-5"),
    ):
        is_gone, asked = word.startswith("-"), word.removeprefix("-")
        assert bench_page(store, asked)[1] == is_gone, word
        assert not is_due()
        change()
        assert is_due(), word
        assert bench_page(store, asked)[1] == (not is_gone), word
    bench.number = "Q-5"
    bench.make_safe()
    bench.read("F1", "ohms", "0.2")
    assert not is_due()


def test_all_that_is_due_is_taken_in_though_some_at_a_time(
    bench: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(search, "AT_A_TIME", 2)
    for number in range(5):
        cases.open_new(bench.store, replace(TYPED, number=f"D-{number}"))
    assert bench_page(bench.store, "loom")[1] == 5
    assert not search.is_due(bench.store.read())


@given(st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\x00"), max_size=12))
def test_no_query_breaks_a_search(warm_demo: Store, query: str) -> None:
    found, total = bench_page(warm_demo, query)
    assert len(found) <= total
