"""Captures into a case: through real sockets to the shipped simulators, and what is not saved."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import suppress

import pytest

from hale_rail.actions.instruments import capturing, instruments
from hale_rail.bench.link import FakeLink
from hale_rail.bench.simulated.server import Instruments
from hale_rail.case.instruments.capturing import capture_of
from hale_rail.case.instruments.instruments import all_instruments
from hale_rail.case.ripple.waves import wave_records
from hale_rail.core.procedures import ReadingSource
from hale_rail.core.simulate.faults import find_fault
from hale_rail.core.simulate.unit import SimulatedUnit
from hale_rail.core.supply.sheet import Topology
from hale_rail.core.supply.templates import template
from hale_rail.errors import InputError, InstrumentError, NoAnswerError, NotFoundError
from hale_rail.store.database import Store
from hale_rail.store.soaks import SOAK_ROWS
from tests.conftest import Bench

FAMILY = """
name = "Mine"
[procedures.ohms]
command = "R?"
unit = "Ω"
accuracy = "0.5%+3"
"""
NO_ERROR = {"SYST:ERR?": '0,"No error"'}


@pytest.fixture
def served() -> Iterator[Instruments]:
    sheet = template(Topology.FLYBACK)
    with Instruments(SimulatedUnit(sheet, find_fault(sheet, "dry:C12"), 7)) as found:
        yield found


def add_all(store: Store, served: Instruments) -> None:
    for kind, port in served.ports.items():
        address = f"TCPIP0::127.0.0.1::{port}::SOCKET"
        instruments.add(store, f"Bench {kind}", address, f"simulated-{kind}")


def test_one_press_captures_with_unit_source_and_meter(bench: Bench, served: Instruments) -> None:
    add_all(bench.store, served)
    bench.make_safe()
    point = bench.point("C12", "c")
    assert capture_of(bench.file, point).name == "Bench lcr"
    saved = capturing.capture(bench.store, bench.number, point)
    reading = saved.file.rows.readings[saved.reading_id]
    assert reading.source is ReadingSource.CAPTURED
    assert 250e-6 < reading.value < 520e-6
    assert reading.typed.endswith("uF")
    assert saved.file.rows.meters[reading.meter_id].name == "Bench lcr"
    assert bench.state("C12") == "failed"
    ohms = capturing.capture(bench.store, bench.number, bench.point("F1", "ohms"))
    assert ohms.understood.value == pytest.approx(0.3, abs=0.1)


def test_an_injection_wants_its_word_each_time(bench: Bench, served: Instruments) -> None:
    add_all(bench.store, served)
    bench.make_safe()
    point = bench.point("+5 V", "inject", "isolated")
    assert "0.4 V" in capture_of(bench.file, point).confirm
    for _ in range(2):
        with pytest.raises(InputError, match="Confirm"):
            capturing.capture(bench.store, bench.number, point)
        saved = capturing.capture(bench.store, bench.number, point, confirmed=True)
        assert saved.understood.value == pytest.approx(150, rel=0.05)


def test_a_scopes_record_lands_in_the_lab_and_shows_the_esr(
    bench: Bench, served: Instruments
) -> None:
    add_all(bench.store, served)
    served.hand.power("mains")
    said = {"load": "machine"}
    record = capturing.capture_record(bench.store, bench.number, "+12 V", said)
    found = wave_records(bench.file)
    assert [r.row.id for r in found] == [record]
    assert found[0].row.name == "Bench scope.csv"


def test_a_series_feeds_the_soak(bench: Bench, served: Instruments) -> None:
    add_all(bench.store, served)
    served.hand.power("mains")
    for second in range(3):
        capturing.capture_soak(bench.store, bench.number, "+5 V", 1_700_000_000.0 + 10 * second)
    rows = bench.file.rows.active(SOAK_ROWS)
    assert [row.sample.at_s for row in rows] == [1.7e9, 1.7e9 + 10, 1.7e9 + 20]
    assert all(4.8 < row.sample.volt < 5.2 for row in rows)


@pytest.mark.parametrize(
    "replies",
    [
        {}, {"R?": "9.9E37"}, {"R?": "2.2 V"}, {"R?": "gibberish"}, {"R?": ""},
        {"R?": "1", "SYST:ERR?": "garbled"},
    ],
)  # fmt: skip
def test_nothing_of_a_failure_is_saved(bench: Bench, replies: dict[str, str]) -> None:
    instruments.add_family(bench.store, "mine", FAMILY)
    instruments.add(bench.store, "Mine", "TCPIP0::127.0.0.1::9::SOCKET", "mine")
    bench.make_safe()
    before = bench.file.case.revision
    link = FakeLink({**NO_ERROR, **replies})
    with pytest.raises(InstrumentError):
        capturing.capture(
            bench.store, bench.number, bench.point("F1", "ohms"), opener=lambda *_: link
        )
    assert bench.file.case.revision == before
    assert link.is_closed


def test_a_familys_own_accuracy_goes_with_the_reading(bench: Bench) -> None:
    instruments.add_family(bench.store, "mine", FAMILY)
    instruments.add(bench.store, "Mine", "TCPIP0::127.0.0.1::9::SOCKET", "mine")
    bench.make_safe()
    link = FakeLink({**NO_ERROR, "R?": "0.42"})
    saved = capturing.capture(
        bench.store, bench.number, bench.point("F1", "ohms"), opener=lambda *_: link
    )
    accuracy = saved.file.rows.readings[saved.reading_id].accuracy
    assert (accuracy.share, accuracy.digits) == (0.005, 3)


def test_instruments_are_added_assigned_and_removed(store: Store) -> None:
    address = "TCPIP0::127.0.0.1::9::SOCKET"
    first = instruments.add(store, "A", address, "simulated-meter")
    for name, where, family, field in (
        ("", address, "simulated-meter", "name"), ("A", address, "simulated-meter", "name"),
        ("B", "nowhere", "simulated-meter", "address"), ("B", address, "none", "family"),
    ):  # fmt: skip
        with pytest.raises(InputError) as told:
            instruments.add(store, name, where, family)
        assert told.value.field == field
    instruments.assign(store, first, ["ohms", "esr", "drop tables"])
    assert all_instruments(store)[0].procedures == ("ohms",)
    with pytest.raises(NoAnswerError):
        capturing.ask_who(store, first)
    said = capturing.ask_who(store, first, opener=lambda *_: FakeLink({"*IDN?": "ELSE,X"}))
    assert "is not a Simulated multimeter" in said
    instruments.remove(store, first)
    with pytest.raises(NotFoundError):
        instruments.remove(store, first)
    for code, text, field in (("simulated-meter", FAMILY, "code"), ("Ü", FAMILY, "code"),
                              ("mine", "x", "text")):  # fmt: skip
        with pytest.raises(InputError) as told:
            instruments.add_family(store, code, text)
        assert told.value.field == field


def test_only_some_instruments_are_asked_at_a_time(bench: Bench, served: Instruments) -> None:
    """Silent ones hold a quarter of the threads at most; who comes then is told at once."""
    add_all(bench.store, served)
    first = all_instruments(bench.store)[0].id
    asked, gate = threading.Barrier(5), threading.Event()

    class Silent(FakeLink):
        def query(self, command: str) -> str:
            asked.wait(10)
            gate.wait(10)
            return super().query(command)

    def ask() -> None:
        with suppress(InstrumentError):
            capturing.ask_who(bench.store, first, opener=lambda *_: Silent({}))

    threads = [threading.Thread(target=ask) for _ in range(4)]
    for thread in threads:
        thread.start()
    asked.wait(10)
    with pytest.raises(NoAnswerError, match="Press again"):
        capturing.ask_who(bench.store, first)
    gate.set()
    for thread in threads:
        thread.join(10)
    assert "is a" in capturing.ask_who(bench.store, first)
