"""Opening, editing, finding cases; settings; the demo and its truth."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from hale_rail.actions import casebook, record
from hale_rail.actions.casebook import NewCase
from hale_rail.actions.dossier import open_case
from hale_rail.actions.report import report
from hale_rail.actions.stores import clocks
from hale_rail.core.parts.banks import shown
from hale_rail.core.parts.families import typical_esr
from hale_rail.core.safety.bleeding import Resistor
from hale_rail.core.supply.points import Quantity
from hale_rail.demo.load import ensure_demo
from hale_rail.demo.truth import TRUTH
from hale_rail.errors import ConflictError, InputError, NotFoundError, StoreError
from hale_rail.store.database import Store

from ..conftest import Bench

TYPED = NewCase("T-7", "Loom", "dead", "", "template:offline flyback", "", "blanket", "lenient")


def test_opening_from_a_template_brings_a_map(store: Store) -> None:
    parts = "C10 3300u 16V +5\nC50 10u 25V +12 tant\nrubbish here"
    casebook.open_new(store, replace(TYPED, parts=parts))
    dossier = open_case(store, "t-7")
    by_ref = {s.ref: s for s in dossier.sheet.stations}
    assert by_ref["C10"].value == pytest.approx(3.3e-3)  # corrected in its place
    assert (by_ref["C10"].bank, by_ref["C10"].role) == ("out", "output-filter")
    assert by_ref["C50"].line == "+12 V"
    assert len(dossier.map.spots) > 15
    assert any("rubbish" in e.text for e in dossier.log if e.kind == "left out")


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
    ],
)
def test_fields_are_checked(store: Store, change: dict[str, str], field: str) -> None:
    typed = replace(TYPED, **change)
    assert list(casebook.check_fields(typed)) == [field]
    with pytest.raises(InputError):
        casebook.open_new(store, typed)


@pytest.mark.parametrize("start", ["", "template:steam", "pattern:999", "pattern:x"])
def test_a_start_that_is_gone(store: Store, start: str) -> None:
    with pytest.raises(InputError):
        casebook.open_new(store, replace(TYPED, start=start))


def test_a_number_is_taken_once_whatever_its_case(store: Store) -> None:
    casebook.open_new(store, TYPED)
    with pytest.raises(InputError, match="already"):
        casebook.open_new(store, replace(TYPED, number="t-7"))
    assert casebook.suggest_number(store) == "T-008"
    with pytest.raises(NotFoundError):
        open_case(store, "T-9")


def test_edits_are_refused_to_an_older_copy(bench: Bench) -> None:
    casebook.edit(bench.store, bench.number, 1, symptom="hums")
    with pytest.raises(ConflictError):
        casebook.edit(bench.store, bench.number, 1, symptom="smokes")
    assert bench.dossier.case.symptom == "hums"
    casebook.edit(bench.store, bench.number, 2, is_closed=True)
    assert bench.dossier.case.closed_at
    assert casebook.bench(bench.store, "", is_open=True)[1] == 0
    assert casebook.bench(bench.store, "hums", is_open=False)[1] == 1


@pytest.mark.parametrize(
    ("query", "numbers"),
    [
        ("", ["LW-014", "LW-022", "LW-031", "LW-009"]),
        ("draftmaster", ["LW-022"]),
        ("fuse weaving", ["LW-014"]),
        ("LW-03", ["LW-031"]),
        ("100%", []),
        ("_", []),
    ],
)
def test_search(demo: Store, query: str, numbers: list[str]) -> None:
    lines, total = casebook.bench(demo, query)
    assert ([line.number for line in lines], total) == (numbers, len(numbers))


def test_a_like_unit_handed_back_is_the_next_ones_record(demo: Store) -> None:
    rail = next(r for r in open_case(demo, "LW-022").rails if r.rail.key == "+12 V")
    record_ohm = rail.records[("attached", "normal")]
    assert record_ohm == pytest.approx(70.5, rel=0.02)
    isolated = rail.ground["isolated"].judgement
    assert isolated is not None
    assert "by the record of a like unit" in isolated.text
    assert isolated.expected is not None
    assert isolated.expected.ohm == rail.records[("isolated", "normal")]
    casebook.edit(demo, "LW-003", 2, is_closed=False)  # back on the bench it is no record
    assert all(r.records == {} for r in open_case(demo, "LW-022").rails)
    assert all(r.records == {} for r in open_case(demo, "LW-014").rails)


def test_stores_count_down_each_by_its_own_clock(bench: Bench) -> None:
    record.remove_power(bench.store, bench.number)
    for at, volt in ((0, "300"), (30, "200")):
        moment = f"2026-01-01T00:00:{at:02d}.000000+00:00"
        record.save_reading(
            bench.store, bench.number, bench.point("C1", Quantity.STORE, ""), volt,
            at=moment, check_seen=False,
        )  # fmt: skip
    stock = [Resistor(1e3, 50, "wirewound", 500), Resistor(100, 1, "film", 500)]
    clock = clocks(bench.dossier, stock)[0]
    assert clock.tau_s == pytest.approx(30 / 0.405465, rel=1e-5)
    assert clock.wait_s == pytest.approx(clock.tau_s * 1.2039728, rel=1e-5)  # ln(200/60)
    assert clock.energy_j == pytest.approx(0.5 * 150e-6 * 200**2)
    assert clock.proposal is not None
    assert clock.proposal.resistor.ohm == 1e3


def test_the_report_says_what_was_found_and_what_is_left(demo: Store) -> None:
    found = report(open_case(demo, "LW-014"))
    assert {f.station.ref for f in found.failed} >= {"F1", "Q1", "C2", "CX1"}
    assert found.still_to_replace
    done = report(open_case(demo, "LW-009"))
    assert {f.station.ref for f in done.replaced} == {"C1", "C2", "C3", "C4", "C5"}
    assert (done.failed, done.still_to_replace) == ([], [])


def test_the_demo_reads_what_its_truth_says(demo: Store) -> None:
    """Every ESR reading of a lone part is its true ESR within the meter's error, independently."""
    checked = 0
    for number, truth in TRUTH.items():
        dossier = open_case(demo, number)
        for facts in dossier.facts.values():
            station = facts.station
            reading = facts.latest("esr")
            if reading is None or station.bank or station.ref not in truth or facts.decision:
                continue
            assert station.family and station.value
            typical = typical_esr(station.family, station.value, station.volt, station.grade)
            assert typical
            true = (station.value * truth[station.ref][0], typical.ohm * truth[station.ref][1])
            assert reading.value == pytest.approx(shown([true], 100e3).esr_ohm, rel=0.06)
            checked += 1
    assert checked >= 8


def test_the_demo_shows_every_state(demo: Store) -> None:
    states = {
        facts.state
        for line in casebook.bench(demo, "")[0]
        for facts in open_case(demo, line.number).facts.values()
    }
    assert states >= {"unseen", "good", "worn", "failed", "unproven", "replaced"}


def test_the_demo_never_touches_real_data(bench: Bench, tmp_path: Path) -> None:
    with pytest.raises(StoreError, match="no demo"):
        ensure_demo(bench.store.folder, reset=True)
    assert open_case(bench.store, bench.number)
