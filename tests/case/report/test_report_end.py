"""What the report says first, the end of the work in it, and that what was issued is read back."""

from __future__ import annotations

import pytest

from hale_rail.actions import readings
from hale_rail.actions.bring_up import machine
from hale_rail.actions.parts import decisions
from hale_rail.actions.report import closing
from hale_rail.actions.safety import power
from hale_rail.actions.soak import soaks
from hale_rail.actions.workshop import workshop
from hale_rail.case.file import open_case
from hale_rail.case.report.owner_words import wrong_sentences
from hale_rail.case.report.report import Report, report
from hale_rail.case.report.report_blocks import blocks, states_of
from hale_rail.case.report.report_end import earth, next_inspection, rails_since, wet_words
from hale_rail.core.parts.age import Use, years_to_inspection
from hale_rail.core.procedures import EARTH, VOLTS, Condition, Point
from hale_rail.core.procedures.bring_up import EARTH_TARGET
from hale_rail.core.report.document import DocumentFigure, DocumentTable, Heading, Map, Title
from hale_rail.core.soak.soak import Sample
from hale_rail.core.targets import Place, rail_target
from hale_rail.errors import InputError
from hale_rail.formats.codec import from_text, to_text
from hale_rail.store.database import Store
from tests.conftest import Bench


@pytest.mark.parametrize(
    ("ages", "years"),
    [
        ([0.0, 0.0], 5.0),  # 21.9 years at 45 °C and 4 h a day, half of it, at most five
        ([14.0], (32000 / (365.25 * 4) - 14) / 2),
        ([0.0, 41.0], 1.0),
        ([], 5.0),
    ],
)
def test_years_to_the_next_inspection(ages: list[float], years: float) -> None:
    assert years_to_inspection(ages, Use()) == pytest.approx(years)


def test_hotter_and_longer_use_asks_for_an_earlier_look() -> None:
    assert years_to_inspection([2.0], Use(12.0, 55.0)) < years_to_inspection([2.0], Use(4.0, 45.0))


def summary(bench: Bench) -> dict[str, str]:
    return dict(report(bench.file).summary)


def test_the_first_page_tells_what_was_wrong_done_reads_and_is_open(bench: Bench) -> None:
    store, number = bench.store, bench.number
    assert summary(bench)["What was done"] == "No part was replaced."
    assert "No part was found bad" in summary(bench)["What was wrong"]
    bench.make_safe()
    bench.read("F1", "ohms", "OL")
    bench.read("C12", "esr", "14", "lifted")
    found = summary(bench)
    assert "F1 (fuse on the mains side) was open (measured)." in found["What was wrong"]
    assert "C12 (output filter capacitor" in found["What was wrong"]
    assert "far above a new part's resistance" in found["What was wrong"]
    assert "C12" in found["What stays open"]
    assert "F1 and C12 are failed, not replaced." in found["What stays open"]
    decisions.decide(store, number, bench.id_of("F1"), "fitted", "1.25 A slow")
    power.apply_power(store, number, "mains")
    bench.read("+5 V", "volts", "5.03", "machine")
    soaks.add_rows(store, number, [("+5 V", Sample(1e9 + 3600 * n, 5.02)) for n in range(25)])
    found = summary(bench)
    assert "Replaced: F1 (1.25 A slow)." in found["What was done"]
    assert found["What was done"].startswith("1 of its ")
    assert ("+5 V", "5.03\u00a0V", "in the machine", "pass") in report(bench.file).rails_now
    assert "Soak of 24 h: pass." in found["What it reads now"]
    assert "F1 (fuse" in found["What was wrong"]  # as it came in


def test_what_the_eye_found_is_told_of_a_part_replaced_since(bench: Bench) -> None:
    bench.make_safe()
    bench.look("C10", "bulge")
    bench.read("C12", "c", "210u", "lifted")
    bench.look("C12", "leak")
    for ref in ("C10", "C12"):
        decisions.decide(bench.store, bench.number, bench.id_of(ref), "fitted", "new")
    wrong = summary(bench)["What was wrong"].split("\n")
    assert any(line.startswith("C10 (") and "bulged (by eye)" in line for line in wrong), wrong
    for ref in ("C10", "C11"):
        bench.look(ref, "bulge")
    wrong_now = summary(bench)["What was wrong"]
    assert "were seen: bulged (by eye)" in wrong_now and "{" not in wrong_now
    own = next(line for line in wrong if line.startswith("C12 ("))
    assert "% of its capacitance (measured)" in own and "leaking (by eye)" in own


def test_the_demos_reports_tell_an_owner_where_each_part_is(warm_demo: Store) -> None:
    """A board is on no rail, and one of a bank is not several."""
    told = [
        sentence
        for number in ("LW-009", "LW-014", "LW-031")
        for sentence in wrong_sentences(open_case(warm_demo, number))
    ]
    assert "Backplane (board) was flat (measured)" in " ".join(told)
    assert any("C20 (output filter capacitor on +5 V) had lost capacitance, read with its bank" in s
               for s in told)  # fmt: skip
    assert not [s for s in told if " on )" in s or "{" in s]


def test_nothing_bad_goes_back_as_repaired_without_a_word(bench: Bench) -> None:
    """Each rail's worst place and load, what its line loses, what was passed unread."""
    power.pass_guard(bench.store, bench.number, "not plugged in for a year")
    power.apply_power(bench.store, bench.number, "mains")
    bench.read("+5 V", "volts", "5.06 at 8A", "machine")
    for place, text in ((Place.SUPPLY, "5.06 at 8A"), (Place.FAR, "4.71 at 8A")):
        point = Point(rail_target("+5 V", place), VOLTS, Condition.MACHINE)
        readings.save_reading(bench.store, bench.number, point, text, check_seen=False)
    found = report(bench.file)
    now = next(row for row in found.rails_now if row[0] == "+5 V")
    assert now[1:] == ("4.71\u00a0V", "in the machine, at the far end", "fail")
    told = " ".join(found.undone)
    assert "4.71\u00a0V (in the machine, at the far end): out of band" in told
    assert "+5 V loses 0.35\u00a0V" in told.replace("350\u00a0mV", "0.35\u00a0V")
    assert "without a reading: not plugged in for a year" in told
    with pytest.raises(InputError, match="Say why"):
        closing.hand_back(bench.store, bench.number, bench.version, "repaired")


def test_a_rail_is_told_before_and_after_the_first_new_part(bench: Bench) -> None:
    power.apply_power(bench.store, bench.number, "mains")
    bench.read("+5 V", "volts", "4.61", "machine")
    assert rails_since(bench.file) == ()
    decisions.decide(bench.store, bench.number, bench.id_of("C10"), "fitted", "new")
    assert rails_since(bench.file) == ()
    bench.read("+5 V", "volts", "5.02", "machine")
    assert rails_since(bench.file) == (("+5 V", "4.61\u00a0V", "5.02\u00a0V"),)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (None, "was not read"),
        ("0.05", "within"),
        ("0.10", "within"),
        ("0.4", "above"),
        ("OL", "above"),
    ],
)
def test_earth_continuity_where_it_applies(bench: Bench, text: str | None, words: str) -> None:
    bench.make_safe()
    if text:
        point = Point(EARTH_TARGET, EARTH)
        readings.save_reading(bench.store, bench.number, point, text, check_seen=False)
    assert words in earth(bench.file)
    other = Bench(bench.store, "template:dc-fed", number="T-2")
    assert earth(other.file) == ""
    assert len(report(other.file).cautions) < len(report(bench.file).cautions)


def test_the_next_inspection_follows_the_workshops_use_and_says_why(bench: Bench) -> None:
    day, why = next_inspection(bench.file, "2026-01-01T00:00:00+00:00")
    assert day.startswith("20") and "at least one year and at most five" in why
    workshop.save_settings(
        bench.store, touch_limit_v=60.0, school="proven", tolerance="strict",
        hours_a_day=24.0, core_c=65.0,
    )  # fmt: skip
    hot, why = next_inspection(bench.file, "2026-01-01T00:00:00+00:00")
    assert hot <= day and "24 h a day" in why


def test_what_is_left_undone_names_the_end_of_the_work(bench: Bench) -> None:
    source = "rail_v,amps,conductors,awg,pin_amps\n5,20,4,18,6\n0,,3,18,6\n"
    machine.plan_harness(
        bench.store, bench.number, source, "pin,kind,rail_v,amps\n1,rail,5,1\n", 0.4
    )
    soaks.add_rows(bench.store, bench.number, [("+5 V", Sample(1e9, 5.0))])
    undone = " ".join(report(bench.file).undone)
    assert "Harness pins not proven: 1." in undone and "The soak: too short." in undone


def test_a_report_is_kept_whole(bench: Bench) -> None:
    soaks.add_rows(
        bench.store, bench.number, [("+5 V", Sample(1e9 + 3600 * n, 5.0)) for n in range(9)]
    )
    found = report(bench.file, "2026-05-01T10:00:00+00:00", "repaired")
    assert from_text(to_text(found), Report) == found
    assert [type(block) for block in blocks(found)][:2] == [Title, Heading]
    assert set(states_of(found, bench.file.sheet)) == {part.id for part in bench.file.sheet.parts}


def test_blocks_come_in_the_order_in_which_one_reads(demo: Store) -> None:
    from hale_rail.case.file import open_case
    from hale_rail.case.report.report_figures import wait_for_records

    case = open_case(demo, "LW-009")
    wait_for_records(case)
    found = blocks(report(case))
    assert isinstance(found[0], Title) and found[1] == Heading("What was wrong")
    headings = [block.text for block in found if isinstance(block, Heading)]
    order = ["Cautions", "State now", "Rails", "Replaced", "The board behind the supply",
             "Ripple of +5 V", "Soak of +5 V", "Left undone", "Notes"]  # fmt: skip
    assert [text for text in headings if text in order] == order
    assert sum(isinstance(block, Map) for block in found) == 1
    figures = [block for block in found if isinstance(block, DocumentFigure)]
    assert figures[0].name == "Ripple of +5 V"
    assert "before 420" in figures[0].text and "after 16" in figures[0].text
    assert all(
        len(row) == len(t.shares) for t in found if isinstance(t, DocumentTable) for row in t.rows
    )


def test_handing_back_keeps_the_figures(bench: Bench) -> None:
    soaks.add_rows(
        bench.store, bench.number, [("+5 V", Sample(1e9 + 3600 * n, 5.0)) for n in range(9)]
    )
    closing.hand_back(bench.store, bench.number, bench.version, "as-it-is")
    from hale_rail.case.history import issued_reports

    kept = from_text(issued_reports(bench.file)[0].body, Report)
    assert [figure.title for figure in kept.figures] == ["Soak of +5 V"]
    assert kept.figures[0].chart.shapes


@pytest.mark.parametrize(("made", "words"), [
    ((), "it has no wet capacitor"),
    ((2026, 2026), "2 of its 2 wet capacitors are new"),
    ((2026, 1986), "its oldest wet capacitor is 40 years old, 1 of its 2 wet capacitors are new"),
    # of unknown year is not new: old is the risk
    ((2026, None, None), ("2 of 3 are of unknown year, which counts as old, "
                         "1 of its 3 wet capacitors are new")),
])  # fmt: skip
def test_new_parts_are_told_by_count(made: tuple[int | None, ...], words: str) -> None:
    assert wet_words(made, 2026) == words
