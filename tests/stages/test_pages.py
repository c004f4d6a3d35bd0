"""What each stage's page is given to show: settled by hand on a small unit."""

from __future__ import annotations

import pytest

from hale_rail.actions.diagnosis.diagnosis import say
from hale_rail.actions.parts import decisions, looks
from hale_rail.actions.readings import save_reading
from hale_rail.actions.safety import power
from hale_rail.case.report.report import report
from hale_rail.core.procedures import VOLTS, Condition, Point
from hale_rail.core.targets import Place, rail_target
from hale_rail.stages.diagnosis import diagnosis
from hale_rail.stages.frame import log
from hale_rail.stages.frame.panel import CasePanel, PartPanel, RailPanel, panel_of
from hale_rail.stages.frame.tray import lay_tray, tray_point
from hale_rail.stages.parts import capacitors, cold, look
from hale_rail.stages.rails import rails
from hale_rail.stages.recap import recap
from hale_rail.stages.report import hand_back
from hale_rail.stages.safety import safe
from hale_rail.stages.shorts import shorts
from hale_rail.stages.stage import PageQuery, Status, Urgency
from hale_rail.store.database import Store
from tests.conftest import Bench

NOTHING = PageQuery()


def plain(text: str) -> str:
    return text.replace("\u00a0", " ")


@pytest.fixture
def dead(bench: Bench) -> Bench:
    """A flyback unit, dead, with nothing else read."""
    bench.make_safe()
    return bench


def test_the_rails_stand_as_bars_with_a_tick_a_reading_and_the_band_of_the_sheet(
    dead: Bench,
) -> None:
    dead.read("+5 V", "volts", "5.02", "dummy")
    dead.read("+12 V", "volts", "11.1", "dummy")
    page = rails.page(dead.file, NOTHING)
    assert page.load is Condition.DUMMY
    assert [load.code for load in page.loads] == ["no-load", "dummy", "machine"]
    by_key = {row.rail.key: row for row in page.rows}
    assert by_key["+5 V"].band_v == pytest.approx((4.75, 5.25))  # 5 V ± 5 %
    assert by_key["+5 V"].bar.band == pytest.approx((-0.05, 0.05))
    assert [(tick.shape, tick.label) for tick in by_key["+5 V"].bar.ticks] == [("good", "dummy")]
    (tick,) = by_key["+12 V"].bar.ticks
    assert (tick.shape, tick.is_latest) == ("failed", True)
    assert tick.low == pytest.approx(11.1 / 12 - 1)
    assert tick.error == pytest.approx((0.005 * 11.1 + 0.02) / 12)  # 0.5 % and two digits
    assert by_key["−12 V"].bar.figure == ""
    assert rails.state(dead.file).status is Status.ATTENTION
    assert plain(rails.state(dead.file).note) == "+12 V out of band"
    power.remove_power(dead.store, dead.number)
    step = rails.next_step(dead.file)
    assert step
    assert (plain(step.text), step.urgency) == ("Rails: +12 V out of band", Urgency.REPAIR)


def test_a_rails_bar_shows_each_place_and_what_the_line_loses(dead: Bench) -> None:
    for place, text in (("supply", "5.05 at 9A"), ("far", "4.72 at 9 A")):
        point = Point(rail_target("+5 V", Place(place)), VOLTS, Condition.MACHINE)
        save_reading(dead.store, dead.number, point, text)
    bar = next(r.bar for r in rails.page(dead.file, NOTHING).rows if r.rail.key == "+5 V")
    assert [plain(tick.label) for tick in bar.ticks] == [
        "in the machine, supply end, 9 A", "in the machine, far end, 9 A",
    ]  # fmt: skip
    (loss,) = bar.losses
    assert loss.is_too_much
    assert plain(loss.text) == "supply end to far end: 330 mV, 37 mΩ"
    assert plain(bar.off) == "−5.6 %"
    at_far = rails.points(dead.file, PageQuery(by="far", load="machine"))
    assert {point.target.place for point in at_far} == {Place.FAR}


@pytest.mark.parametrize(
    ("asked", "read_at", "load"),
    [
        (PageQuery(), "", "dummy"),
        (PageQuery(), "machine", "machine"),
        (PageQuery(load="no-load"), "machine", "no-load"),
        (PageQuery(load="in-circuit"), "", "dummy"),
        (PageQuery(at="r+5 V~volts~machine"), "", "machine"),
        (PageQuery(at="r+5 V~volts~machine", load="dummy"), "", "machine"),
        (PageQuery(at="r+5 V~ground~attached"), "", "dummy"),
    ],
)
def test_the_load_that_is_read(dead: Bench, asked: PageQuery, read_at: str, load: str) -> None:
    if read_at:
        dead.read("+5 V", "volts", "5.02", read_at)
    assert rails.load_of(dead.file, asked).code == load
    assert {point.condition.code for point in rails.points(dead.file, asked)} == {load}


def test_the_shorts_table_says_which_side_and_what_it_is_made_of(dead: Bench) -> None:
    for condition, ohm in (
        ("attached", "0.4"),
        ("attached-reversed", "0.4"),
        ("isolated", "2k"),
        ("isolated-reversed", "1.9k"),
    ):
        dead.read("+5 V", "ground", ohm, condition)
    dead.read("+5 V", "inject", "0.31 V 780 mA", "attached")
    row = next(r for r in shorts.page(dead.file, NOTHING).rows if r.ground.rail.key == "+5 V")
    attached, isolated = row.sides
    assert [cell.reading and cell.reading.value for cell in attached.cells] == [0.4, 0.4]
    assert (attached.shape, attached.verdict, attached.cells[0].is_low) == ("failed", "short", True)
    assert (isolated.shape, isolated.verdict, isolated.cells[0].is_low) == ("good", "good", False)
    assert "the supply side is free of it" in row.ground.side_text
    assert "copper" in row.ground.polarity_text
    assert row.injections[0].reading
    assert row.injections[0].reading.value == pytest.approx(0.31 / 0.78)
    assert plain(shorts.state(dead.file).note) == "+5 V low"
    step = shorts.next_step(dead.file)
    assert step
    assert step.urgency is Urgency.FAULT


def test_the_capacitors_table_stands_by_line_in_power_order(store: Store) -> None:
    bench = Bench(store, parts="C31 100u 25V +5 bank Z\nC32 100u 25V +5 bank Z")
    bench.make_safe()
    bench.read("C31", "c", "205u")
    bench.read("C31", "esr", "0.1")
    page = capacitors.page(bench.file, NOTHING)
    assert [plain(line.name) for line in page.lines][:2] == ["Primary side", "+5 V"]
    rows = {row.facts.part.ref: row for line in page.lines for row in line.rows}
    esr, farad, leak, ohms = rows["C31"].figures
    assert esr
    assert farad
    assert (plain(esr.text), plain(farad.text), farad.is_lifted) == ("0.1 Ω", "205 µF", False)
    assert (leak, ohms) == (None, None)
    assert rows["C32"].why == "as C31, read together"
    assert rows["C1"].why == ""
    assert not page.caution
    bench.read("C1", "store", "20")
    assert "unread, or above" in capacitors.page(bench.file, NOTHING).caution


def test_the_recap_counts_what_each_school_replaces(store: Store) -> None:
    bench = Bench(store, parts="C31 100u 25V +5\nC77 X2 100n 275 paper 1980")
    bench.make_safe()
    bench.read("C31", "esr", "9", "lifted")
    own = recap.page(bench.file, NOTHING)
    counts = {count.school.code: count.count for count in own.schools}
    assert own.school.code == "proven"
    assert counts["proven"] == 1
    assert counts["proven"] < counts["offenders"] < counts["blanket"]
    assert [found.line.refs for found in own.lines] == ["C31"]
    other = recap.page(bench.file, PageQuery(by="offenders"))
    assert {ref for found in other.lines for ref in found.line.refs.split(", ")} >= {"C31", "C77"}
    decisions.decide(bench.store, bench.number, bench.id_of("C31"), "left-out", "none at hand")
    assert recap.state(bench.file).note == "1 replaced"
    assert recap.next_step(bench.file) is None
    assert [p.part.ref for p in recap.page(bench.file, NOTHING).kept] == ["C31"]


def test_the_look_over_says_what_a_press_makes_of_the_findings(dead: Bench) -> None:
    looks.look(dead.store, dead.number, dead.id_of("C1"), ["bulge"])
    page = look.page(dead.file, NOTHING)
    stop = next(stop for stop in page.stops if stop.stop.part.ref == "C1")
    assert page.is_dead
    assert stop.facts.seen == ("bulge",)
    assert stop.presses["bulge"] == ""
    assert stop.presses["leak"].split() == ["bulge", "leak"]
    assert stop.presses["none"] == "none"
    assert [s.stop.part.ref for s in page.stops][:2] == ["J1", "F1"]
    assert look.state(dead.file).note == f"1 of {len(dead.file.sheet.parts)} looked at"


def test_make_safe_gives_each_store_its_clock_and_its_resistor(dead: Bench) -> None:
    page = safe.page(dead.file, NOTHING)
    assert [clock.refs for clock in page.clocks] == ["C1", "C10, C11", "C12", "C13"]
    assert page.clocks[1].farad == pytest.approx(4400e-6)
    assert all(clock.is_safe for clock in page.clocks)
    assert [source.code for source in page.sources] == ["mains", "bench", "injected"]
    assert "every store rated above 60 V read at most 60 V" in plain(page.words)
    dead.read(dead.file.sheet.stores[0].ref, "store", "140")
    clock = safe.page(dead.file, NOTHING).clocks[0]
    farad = clock.part.value or 0.0
    assert not clock.is_safe
    assert clock.energy_j == pytest.approx(0.5 * farad * 140**2)  # E = CV²/2


def test_where_to_look_next_asks_first_then_leads_to_a_reading(dead: Bench) -> None:
    page = diagnosis.page(dead.file, NOTHING)
    assert page.sentence == "Say what it does: press the symptoms you see."
    assert sum(chance.share for chance in (*page.chances, *page.tail)) == pytest.approx(1.0)
    assert [c.share for c in page.chances] == sorted((c.share for c in page.chances), reverse=True)
    assert page.next
    assert page.next.ranked is page.weighed.diagnosis.tests[0]
    assert (page.next.stage, page.next.place) == ("look", "To the look-over")
    say(dead.store, dead.number, "symptom", "fuse-black", "yes")
    page = diagnosis.page(dead.file, NOTHING)
    assert page.next
    assert (page.next.stage, page.next.place) == (
        "capacitors",
        "Read C1, in circuit, resistance",
    )
    assert page.next.point_key == dead.point("C1", "ohms").key
    assert page.others == page.weighed.diagnosis.tests[1:9]


def test_the_log_offers_to_strike_what_stands(dead: Bench) -> None:
    dead.read("F1", "ohms", "0.2")
    dead.read("F1", "ohms", "0.3")
    newest, older = log.page(dead.file, NOTHING).lines[:2]
    assert (newest.can_strike, newest.is_struck) == (True, False)
    assert (older.can_strike, older.is_struck) == (False, True)
    opened = log.page(dead.file, NOTHING).lines[-1]
    assert (opened.entry.kind, opened.can_strike) == ("opened", False)


def test_hand_back_shows_the_draft_of_what_would_be_issued(dead: Bench) -> None:
    page = hand_back.page(dead.file, NOTHING)
    assert page.draft == report(dead.file)
    assert [outcome.code for outcome in page.outcomes] == ["repaired", "as-it-is"]
    assert page.issued == ()
    assert hand_back.state(dead.file).status is Status.OPEN


@pytest.mark.parametrize(
    ("ref", "procedure", "condition", "kind"),
    [("C1", "esr", "", PartPanel), ("+5 V", "volts", "dummy", RailPanel), ("", "", "", CasePanel)],
)
def test_the_panel_is_of_what_the_tray_reads(
    dead: Bench, ref: str, procedure: str, condition: str, kind: type
) -> None:
    point = dead.point(ref, procedure, condition) if ref else None
    assert isinstance(panel_of(dead.file, point), kind)


def test_a_parts_panel_lists_what_stands_and_what_was_put_aside(dead: Bench) -> None:
    for text in ("0.9", "0.5"):
        dead.read("C1", "esr", text)
    panel = panel_of(dead.file, dead.point("C1", "esr"))
    assert isinstance(panel, PartPanel)
    shown = [(plain(line.figure), line.aside) for line in panel.readings if "ESR" in line.words]
    assert shown == [("0.5 Ω", "")]
    assert [(plain(line.figure), line.aside) for line in panel.struck] == [("0.9 Ω", "superseded")]


def test_the_tray_walks_round_and_counts(dead: Bench) -> None:
    order = cold.points(dead.file, NOTHING)
    last = PageQuery(at=order[-1].key)
    point = tray_point(dead.file, cold.STAGE, last)
    assert point == order[-1]
    tray = lay_tray(dead.file, cold.STAGE, last, order[-1])
    assert (tray.before, tray.after) == (order[-2].key, order[0].key)
    assert (tray.done_count, tray.count) == (0, len(order))
    dead.read("F1", "ohms", "0.2")
    tray = lay_tray(dead.file, cold.STAGE, last, order[-1])
    assert tray.done_count == 1
    part = dead.file.sheet.part(order[0].part_id)
    assert part
    opened = tray_point(dead.file, cold.STAGE, PageQuery(at=str(part.id)))
    assert opened
    assert opened.part_id == part.id


@pytest.mark.parametrize(
    "at", ["", "0", "x", "~~", "r+99 V~volts~dummy", "999999~esr~lifted", "9" * 40]
)
def test_an_address_that_is_no_point_opens_with_the_next_one(dead: Bench, at: str) -> None:
    opened = tray_point(dead.file, cold.STAGE, PageQuery(at=at))
    assert opened == cold.points(dead.file, NOTHING)[0]
