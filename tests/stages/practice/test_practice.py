"""The line of a practice under way, and the page of what came of those that are over."""

from __future__ import annotations

import pytest

from hale_rail.actions.instruments import instruments
from hale_rail.actions.practice import practice
from hale_rail.actions.safety import power
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.instruments.capturing import capture_of, record_source
from hale_rail.core.procedures import ESR, FRESH_ESR
from hale_rail.stages.instruments import instruments as listed
from hale_rail.stages.practice import practice as shown
from hale_rail.store.database import Store
from hale_rail.store.practice import Practised
from tests.conftest import Bench


@pytest.fixture
def number(store: Store) -> str:
    found = practice.start(store, Practised(8, "", "", 0))
    power.remove_power(store, found)
    return found


def case(store: Store, number: str) -> CaseFile:
    return open_case(store, number)


def test_the_line_counts_and_offers_what_the_hand_may_do(store: Store, number: str) -> None:
    part = case(store, number).sheet.parts[0]
    line = shown.line(case(store, number), part.id)
    assert line is not None
    assert (line.minutes, line.spent, line.is_over) == (0, (), False)
    assert line.look_name == part.ref
    practice.look_at(store, number, part.id)
    practice.bleed(store, number)
    line = shown.line(case(store, number), None)
    assert line is not None
    assert line.minutes == pytest.approx(2.2)
    assert line.look_at is None
    practice.end(store, number, "filter-short")
    line = shown.line(case(store, number), None)
    assert line is not None
    assert line.is_over
    assert line.test_id == ""


def test_the_page_keeps_the_best_of_each_graded_case(store: Store, number: str) -> None:
    before = shown.page(store)
    assert before.next_place == 1
    assert [row.number for row in before.under_way] == [number]
    assert before.graded[7].under_way == number
    practice.end(store, number, "control-dead")
    wrong = shown.page(store)
    assert wrong.right == 0
    assert not wrong.graded[7].best.review.right
    again = practice.start(store, Practised(8, "", "", 0))
    practice.end(store, again, "rectifier-short")
    page = shown.page(store)
    assert page.right == 1
    assert page.graded[7].best.row.number == again
    assert page.graded[7].best.share == 1.0
    assert len(page.over) == 2
    assert page.under_way == []


def test_a_case_of_the_workshop_has_no_line_and_no_end(bench: Bench) -> None:
    assert shown.line(bench.file, None) is None
    assert shown.end_page(bench.file) is None
    assert capture_of(bench.file, bench.point("C1", "esr")) is None
    assert record_source(bench.file) == ""


def test_what_captures_is_the_simulated_unit_or_an_instrument(
    store: Store, number: str, bench: Bench
) -> None:
    found = case(store, number)
    part = next(p for p in found.sheet.parts if p.ref == "C12")
    assert capture_of(found, part.point(ESR)).name == "the simulated unit"
    assert capture_of(found, part.point(FRESH_ESR)) is None
    assert capture_of(found, None) is None
    assert record_source(found) == "the simulated unit"
    address = "TCPIP0::127.0.0.1::9::SOCKET"
    instruments.add(store, "One", address, "simulated-lcr")
    instruments.add(store, "Two", address, "simulated-lcr")
    assert capture_of(bench.file, bench.point("C1", "esr")).name == "Two"
    practice.end(store, number, "crowbar")
    assert capture_of(case(store, number), part.point(ESR)) is None


def test_an_instrument_whose_family_is_gone_is_told(store: Store) -> None:
    instruments.add_family(store, "mine", '[procedures.c]\ncommand = "C?"\nunit = "F"')
    instruments.add(store, "Mine", "TCPIP0::127.0.0.1::9::SOCKET", "mine")
    with store.write() as connection:
        connection.execute("DELETE FROM instrument_family")
    line = listed.page(store).lines[0]
    assert line.family is None
    assert listed.procedure_words("waveform") == "wave record"
    assert listed.procedure_words("esr") == "ESR"
    assert listed.procedure_words("my-own") == "my-own"
