"""The end of the work in an empty workshop: kept, superseded, taken back, and refused."""

from __future__ import annotations

from typing import Any

import pytest

from hale_rail.actions import readings
from hale_rail.actions.bring_up import continuity, machine
from hale_rail.actions.change import changing
from hale_rail.actions.intake import drawings
from hale_rail.actions.soak import soaks
from hale_rail.case.bring_up.bring_up import chip_pins, events, regulators
from hale_rail.case.bring_up.continuity import list_of, lists
from hale_rail.case.bring_up.harness import harness
from hale_rail.case.history import entries
from hale_rail.case.safety.energy import energy
from hale_rail.case.soak.soaks import hours_done, soak_plan, verdict_of
from hale_rail.case.soak.soaks import soaks as rail_soaks
from hale_rail.core.intake.drawings import Trust
from hale_rail.core.procedures import CONTINUITY, EARTH, PIN_VOLTS, Point, parse_point
from hale_rail.core.procedures.bring_up import (
    EARTH_TARGET,
    HARNESS,
    joint_target,
    machine_words,
    pin_target,
)
from hale_rail.core.rails.judge import RailVerdict
from hale_rail.core.safety.energy import Energy
from hale_rail.core.soak.soak import Sample, SoakVerdict
from hale_rail.errors import GuardError, InputError, NotFoundError, RangeError
from hale_rail.formats.readings.soak_csv import LogRow
from hale_rail.stages.bring_up import harness as harness_stage
from hale_rail.stages.frame.tray import lay_tray, tray_point
from hale_rail.stages.stage import PageQuery
from hale_rail.store.machine_notes import MACHINE_NOTES, MachineNote
from hale_rail.store.soaks import SOAK_ROWS
from larkmoor.pictures import drawing_pdf
from tests.conftest import Bench

SOURCE = "rail_v,amps,conductors,awg,pin_amps\n5,9,2,18,6\n12,2,1,18,6\n0,,3,18,6\n"
TARGET = "pin,kind,rail_v,amps\n1,rail,5,2\n2,rail,12,1\n3,ground,,\n4,nc,,\n"
PAIRS = "one,other,joined\nA1,B1,yes\nA2,B2,no\n"


def planned(bench: Bench) -> None:
    machine.plan_harness(bench.store, bench.number, SOURCE, TARGET, 0.4)


def read(bench: Bench, point: Point, text: str) -> None:
    readings.save_reading(bench.store, bench.number, point, text, check_seen=False)


@pytest.mark.parametrize(
    "point",
    [
        Point(pin_target(HARNESS, "3"), PIN_VOLTS),
        Point(joint_target("1", "U7 pin 16", "P1.3"), CONTINUITY),
        Point(EARTH_TARGET, EARTH),
    ],
)
def test_a_pins_point_is_an_address_and_back(point: Point) -> None:
    assert parse_point(point.key) == point
    assert machine_words(point.target)


@pytest.mark.parametrize(
    ("texts", "verdicts"),
    [
        (["5.02", "12.1", "0.01", "0.0"], ["pass", "pass", "pass", "pass"]),
        (["4.70", "12.1", "0.01", "0.0"], ["fail", "pass", "pass", "pass"]),
        (["4.76", "12.1", "0.200", "0.90"], ["marginal", "pass", "fail", "fail"]),
        (["4.9..5.6", "-12.1", "0.01", "0.0"], ["fail", "fail", "pass", "pass"]),
    ],
)
def test_every_pin_is_held_against_the_table(
    bench: Bench, texts: list[str], verdicts: list[str]
) -> None:
    planned(bench)
    assert not harness(bench.file).may_connect
    for pin, text in zip(harness(bench.file).pins, texts, strict=True):
        read(bench, pin.point, text)
    facts = harness(bench.file)
    assert [pin.verdict.value for pin in facts.pins] == verdicts
    assert facts.may_connect == (RailVerdict.FAIL.value not in verdicts)
    assert energy(bench.file).energy is Energy.LIVE


def test_another_table_is_another_harness_and_its_pins_are_read_anew(bench: Bench) -> None:
    planned(bench)
    read(bench, harness(bench.file).pins[0].point, "5.0")
    machine.say_colour(bench.store, bench.number, "1", " red  wire ")
    planned(bench)
    facts = harness(bench.file)
    assert len(facts.unread) == 4 and facts.pins[0].colour == "red wire"
    point = tray_point(bench.file, harness_stage.STAGE, PageQuery())
    assert point == facts.pins[0].point
    assert lay_tray(bench.file, harness_stage.STAGE, PageQuery(), point).done_count == 0
    machine.say_colour(bench.store, bench.number, "1", "")
    assert harness(bench.file).pins[0].colour == ""


def test_a_pin_that_is_on_no_list_is_not_read(bench: Bench) -> None:
    with pytest.raises(NotFoundError):
        read(bench, Point(pin_target(HARNESS, "1"), PIN_VOLTS), "5")
    planned(bench)
    with pytest.raises(NotFoundError):
        read(bench, Point(pin_target(HARNESS, "77"), PIN_VOLTS), "5")
    with pytest.raises(RangeError):
        read(bench, harness(bench.file).pins[0].point, "230")
    with pytest.raises(NotFoundError):
        machine.say_colour(bench.store, bench.number, "77", "red")


def test_a_list_is_walked_dead_only_and_what_came_of_it_can_be_taken_back(bench: Bench) -> None:
    store, number = bench.store, bench.number
    key = continuity.take_list(store, number, "Bus", "Board C", PAIRS, None)
    first = lists(bench.file)[0].pairs[0]
    with pytest.raises(GuardError):
        read(bench, first.point, "0.2")
    bench.make_safe()
    read(bench, first.point, "0.2")
    with pytest.raises(InputError, match="reads as it should"):
        continuity.mark_pair(store, number, key, 1, "bodge")
    read(bench, first.point, "OL")
    with pytest.raises(InputError, match="from A1 along the pins of B1"):
        continuity.mark_pair(store, number, key, 1, "bodge", "a wire")
    with pytest.raises(InputError, match="goes to C50: no wire is missing"):
        continuity.mark_pair(store, number, key, 1, "bodge", "a wire", "C50")
    continuity.mark_pair(store, number, key, 1, "bodge", "a wire", "none")
    found = list_of(bench.file, key)
    assert found and found.open == () and found.results[0].note == "a wire"
    continuity.mark_pair(store, number, key, 1, "")
    found = list_of(bench.file, key)
    assert found and [pair.number for pair in found.open] == [1]
    for wrong in ({"key": "9"}, {"pair_number": 9}):
        with pytest.raises(NotFoundError):
            continuity.mark_pair(
                store, number, **({"key": key, "pair_number": 1} | wrong), what="bodge"
            )
    continuity.drop_list(store, number, key)
    assert lists(bench.file) == ()
    assert continuity.take_list(store, number, "Bus", "Board C", PAIRS, None) != key


def test_three_opens_ask_first_whether_the_list_is_of_this_board(bench: Bench) -> None:
    store, number = bench.store, bench.number
    pairs = "one,other\n" + "".join(f"U1.{n},U2.{n}\n" for n in range(1, 6))
    key = continuity.take_list(store, number, "Bus", "Board C", pairs, None)
    bench.make_safe()
    for n, pair in enumerate(lists(bench.file)[0].pairs[:3], 1):
        read(bench, pair.point, "OL")
        assert lists(bench.file)[0].asks_board == (n == 3)
    with pytest.raises(InputError, match="whether this list is of the board in hand"):
        continuity.mark_pair(store, number, key, 1, "bodge", "", "none")
    continuity.say_whose(store, number, key, "another-board")
    found = lists(bench.file)[0]
    assert found.is_distrusted and not found.asks_board
    continuity.say_whose(store, number, key, "this-board")
    continuity.mark_pair(store, number, key, 1, "bodge", "", "none")
    continuity.mark_pair(store, number, key, 2, "meant", "", "U2.7")
    found = lists(bench.file)[0]
    assert [pair.partner for pair in found.pairs[:2]] == ["none", "U2.7"] and not found.asks_board
    assert [pair.told for pair in found.pairs[:2]] == ["", "U1.2 goes to U2.7"]
    for wrong in (("perhaps", InputError), ("this-board", NotFoundError)):
        with pytest.raises(wrong[1]):
            continuity.say_whose(store, number, "9" if wrong[1] is NotFoundError else key, wrong[0])


def test_a_drawing_that_proves_wrong_opens_what_was_concluded_from_it(bench: Bench) -> None:
    store, number = bench.store, bench.number
    drawings.attach(store, number, drawing_pdf("Board"), "b.pdf", "Board", "B")
    bench.make_safe()
    key = continuity.take_list(store, number, "Bus", "Board B", PAIRS, 1)
    one, two = lists(bench.file)[0].pairs
    read(bench, one.point, "OL")
    read(bench, two.point, "OL")
    continuity.mark_pair(store, number, key, 1, "bodge", partner="none")
    for end in ("1", "2", "3"):
        drawings.prove(store, number, 1, f"P1.{end}", f"C{end} +", True, "0.1")
    found = lists(bench.file)[0]
    assert found.drawing and found.drawing.trust is Trust.PROVEN and found.open == ()
    drawings.prove(store, number, 1, "P1.4", "C4 +", True, "OL")
    found = lists(bench.file)[0]
    assert found.is_distrusted and [pair.number for pair in found.open] == [1]
    with pytest.raises(NotFoundError):
        continuity.take_list(store, number, "Bus", "Board B", PAIRS, 99)


def test_a_pin_named_before_chips_were_listed_is_read_and_judged(bench: Bench) -> None:
    with changing(bench.store, bench.number) as change:
        log_id = change.log("edited", "U1 pin 8 is to have +5 V")
        note = MachineNote("chip", "U1 pin 8", {"rail": "+5 V"})
        change.append(MACHINE_NOTES, log_id, note)
    read(bench, chip_pins(bench.file)[0].point, "4.60")
    assert chip_pins(bench.file)[0].judgement
    assert chip_pins(bench.file)[0].judgement.verdict is RailVerdict.FAIL


def test_a_rail_event_stands_until_it_is_taken_back(bench: Bench) -> None:
    machine.add_event(bench.store, bench.number, "+5 V", "over-voltage", 6.2)
    assert events(bench.file)[0].peak_v == 6.2
    machine.take_back(bench.store, bench.number, "event", "1")
    assert events(bench.file) == ()


@pytest.mark.parametrize(
    ("action", "fields"),
    [
        ("plan_harness", {"source": "x", "target": TARGET, "length_m": 0.4}),
        ("plan_harness", {"source": SOURCE, "target": TARGET, "length_m": 99.0}),
        ("plan_harness", {"source": SOURCE, "target": TARGET, "length_m": 0.4, "side": "up"}),
        ("plan_harness", {"source": SOURCE + " " * 50_000, "target": TARGET, "length_m": 0.4}),
        ("add_event", {"rail": "+5 V", "event": "sad", "peak_v": None}),
        ("take_back", {"kind": "harness", "key": ""}),
    ],
)
def test_what_cannot_be_is_refused_and_nothing_is_logged(
    bench: Bench, action: str, fields: dict[str, Any]
) -> None:
    before = len(entries(bench.file))
    with pytest.raises(InputError):
        getattr(machine, action)(bench.store, bench.number, **fields)
    assert len(entries(bench.file)) == before


def test_a_rail_the_unit_has_not_is_told(bench: Bench) -> None:
    with pytest.raises(NotFoundError):
        machine.add_event(bench.store, bench.number, "+99 V", "missing", None)


def hours(volts: list[float], key: str = "+5 V") -> list[tuple[str, Sample]]:
    return [(key, Sample(1e9 + 3600 * n, volt)) for n, volt in enumerate(volts)]


def test_a_soak_is_of_the_rails_that_were_read_and_of_the_worst(bench: Bench) -> None:
    store, number = bench.store, bench.number
    assert verdict_of(bench.file) is None and hours_done(bench.file) == 0.0
    assert soaks.add_rows(store, number, hours([5.0] * 25)) == 25
    assert verdict_of(bench.file) is SoakVerdict.PASS
    assert soaks.add_rows(store, number, hours([12.0] * 7, "+12 V")) == 7
    assert verdict_of(bench.file) is SoakVerdict.TOO_SHORT and hours_done(bench.file) == 6.0
    soaks.plan_soak(store, number, 6.0, 600.0)
    assert verdict_of(bench.file) is SoakVerdict.PASS
    assert soaks.add_rows(store, number, hours([5.0] * 25)) == 0  # the same rows again
    soaks.add_rows(store, number, [("+5 V", Sample(1e9 + 90_000, 5.9))])
    assert verdict_of(bench.file) is SoakVerdict.FAIL
    last = max(row.id for row in bench.file.rows.active(SOAK_ROWS))
    soaks.strike_row(store, number, last, "leads slipped")
    assert verdict_of(bench.file) is SoakVerdict.PASS
    with pytest.raises(InputError, match="already"):
        soaks.strike_row(store, number, last)
    soaks.plan_soak(store, number, 24.0, 600.0, anew=True)
    assert rail_soaks(bench.file) == () and soak_plan(bench.file).hours == 24.0


def test_a_log_in_seconds_begins_where_one_says_and_wants_its_rail(bench: Bench) -> None:
    rows = [LogRow(Sample(100.0 + 60 * n, 5.0, 8.0, 30.0), "", False) for n in range(5)]
    with pytest.raises(InputError, match="choose the rail"):
        soaks.add_log(bench.store, bench.number, rows, "", 0.0)
    soaks.add_log(bench.store, bench.number, rows, "+5 V", 2e9)
    first = bench.file.rows.active(SOAK_ROWS)[0].sample
    assert (first.at_s, first.ripple_mv, first.celsius) == (2e9, 8.0, 30.0)
    assert energy(bench.file).energy is Energy.LIVE


@pytest.mark.parametrize(
    ("rows", "error"),
    [
        ([], InputError), ([("+5 V", Sample(0.0, 1e6))], InputError),
        ([("+99 V", Sample(0.0, 5.0))], NotFoundError),
    ],
)  # fmt: skip
def test_rows_that_cannot_be_are_refused(
    bench: Bench, rows: list[tuple[str, Sample]], error: type[Exception]
) -> None:
    with pytest.raises(error):
        soaks.add_rows(bench.store, bench.number, rows)
    with pytest.raises(NotFoundError):
        soaks.strike_row(bench.store, bench.number, 7)
    for wrong in ((0.0, 0.0), (1e9, 0.0), (1.0, 7200.0)):
        with pytest.raises(InputError):
            soaks.plan_soak(bench.store, bench.number, *wrong)


def test_a_regulator_is_reckoned_anew_by_its_name(bench: Bench) -> None:
    body = {"v_in": 9.0, "v_out": 5.0, "amps": 1.0, "efficiency": 0.9, "case_c": None}
    machine.reckon_regulator(bench.store, bench.number, "U1", body)
    machine.reckon_regulator(bench.store, bench.number, "U1", {**body, "amps": 2.0})
    (found,) = regulators(bench.file)
    assert found.judged.heat_w == pytest.approx(8.0)
    with pytest.raises(InputError):
        machine.reckon_regulator(bench.store, bench.number, "", body)
