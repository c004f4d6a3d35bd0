"""Facts from under power: ripple records once analysed, rails of one loop, volts on the bulk."""

from __future__ import annotations

import io
import math
import time
from collections.abc import Callable

import numpy as np
import pytest
from msgspec.structs import replace

from hale_rail.actions.diagnosis.diagnosis import say
from hale_rail.actions.intake.cases import open_with
from hale_rail.actions.parts import decisions
from hale_rail.actions.ripple import waves
from hale_rail.actions.safety import power
from hale_rail.case import worker
from hale_rail.case.diagnosis.diagnosis import diagnosis, weighed
from hale_rail.case.diagnosis.facts import facts
from hale_rail.case.diagnosis.ripple_facts import ripple_figures, waiting
from hale_rail.case.ripple.waves import wave_records
from hale_rail.case.worker import PATIENCE_S, AnalysisState
from hale_rail.core.diagnosis.facts import (
    DidFact,
    HeldFact,
    JumpFact,
    PartFact,
    ResultFact,
    RippleFact,
    TogetherFact,
    VoltsFact,
)
from hale_rail.core.diagnosis.inference import weigh
from hale_rail.core.supply.sheet import Topology
from hale_rail.core.supply.templates import template
from hale_rail.store.cases import Fields
from hale_rail.store.database import Store
from tests.conftest import Bench, Client

KHZ = 33e3
TIME = np.arange(int(0.05 / 4e-6)) * 4e-6


def file_of(wave: Callable[[np.ndarray], np.ndarray], volt: float = 5.0) -> bytes:
    rows = np.column_stack([TIME, volt + wave(TIME)])
    return "\n".join(f"{t:.6f},{v:.5f}" for t, v in rows).encode()


def switching(t: np.ndarray) -> np.ndarray:
    """240 mV p-p at the switching frequency."""
    return 0.24 * np.abs(((t * KHZ) % 1.0) * 2 - 1) - 0.12


def rectified(t: np.ndarray) -> np.ndarray:
    """300 mV p-p at twice 50 Hz, and a little switching."""
    return 0.15 * np.sin(2 * math.pi * 100 * t) + 0.02 * switching(t)


@pytest.fixture
def bench(store: Store) -> Bench:
    made = Bench(store, "template:flyback")
    made.make_safe()
    return made


def take(bench: Bench, data: bytes, rail: str = "+5 V", load: str = "dummy") -> None:
    waves.take(bench.store, bench.number, rail, "scope.csv", io.BytesIO(data), {"load": load})


def heard(bench: Bench) -> None:
    """Wait until every record is analysed."""
    until = time.monotonic() + 30
    while waiting(bench.file) and time.monotonic() < until:
        time.sleep(0.02)
    assert len(ripple_figures(bench.file)) == len(wave_records(bench.file))


def chances(bench: Bench) -> dict[str, float]:
    return {group.id: share for group, share in diagnosis(bench.file).diagnosis.chances}


def of(bench: Bench, kind: type) -> list:  # type: ignore[type-arg]
    return [fact for fact in facts(bench.file) if isinstance(fact, kind)]


@pytest.mark.parametrize(("wave", "band", "rises", "falls"), [
    (switching, "switching", "bank-dry", "bulk-dry"),
    (rectified, "rectified", "bulk-dry", "bank-dry"),
])  # fmt: skip
def test_a_record_counts_once_its_analysis_has_ended(
    bench: Bench, wave: Callable[[np.ndarray], np.ndarray], band: str, rises: str, falls: str
) -> None:
    say(bench.store, bench.number, "symptom", "ripple", "yes")
    say(bench.store, bench.number, "result", "ripple-live", "small")
    before = chances(bench)
    assert len(of(bench, ResultFact)) == 1
    take(bench, file_of(wave))
    heard(bench)
    [fact] = of(bench, RippleFact)
    shares = {"switching": fact.switching, "rectified": fact.rectified, "mains": fact.mains}
    assert max(shares, key=lambda name: shares[name]) == band
    assert shares[band] > 3
    # the record answers the test: what the hand said of it is no second witness
    assert not of(bench, ResultFact)
    stand = diagnosis(bench.file).state_of("ripple-live")
    assert stand is not None
    assert stand.is_done
    now = chances(bench)
    assert now[rises] > before[rises]
    assert now[rises] > now[falls]
    assert fact.words in {f.words for f in weighed(bench.file).facts}


def test_a_diagnosis_waits_for_no_analysis(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    take(bench, file_of(switching))
    waited: list[float] = []

    def ask(
        store: Store, of: object, inputs: object, patience_s: float = PATIENCE_S
    ) -> AnalysisState:
        waited.append(patience_s)
        return AnalysisState(share=0.5)

    monkeypatch.setattr(worker, "ask", ask)
    assert not of(bench, RippleFact)
    assert diagnosis(bench.file)
    assert waiting(bench.file) == ("+5 V",)
    assert set(waited) == {0.0}


@pytest.mark.parametrize(("seconds", "shows"), [(0.05, "mains"), (0.004, "switching")])
def test_a_record_tells_of_the_bands_that_it_can_show(
    bench: Bench, seconds: float, shows: str
) -> None:
    """A record shorter than two periods of the mains tells nothing of them."""
    rows = file_of(rectified).decode().splitlines()
    take(bench, "\n".join(rows[: int(seconds / 4e-6)]).encode())
    heard(bench)
    [fact] = of(bench, RippleFact)
    assert (fact.mains is None) is (shows == "switching")
    assert fact.switching is not None
    assert ("mains" in fact.words) is (shows == "mains")


def test_a_mean_says_that_it_runs_until_a_meter_reads(bench: Bench) -> None:
    take(bench, file_of(switching))
    heard(bench)
    [volts], [runs] = of(bench, VoltsFact), of(bench, DidFact)
    assert volts.share == pytest.approx(1.0, abs=0.01)
    assert dict(runs.regimes)["runs"] > 0.9
    assert dict(runs.regimes)["late"] > 0.9  # one that starts late stands as well
    bench.read("+12 V", "volts", "12.1", "dummy")
    assert [f.rail for f in of(bench, VoltsFact)] == ["+12 V"]


def test_a_replacement_opens_the_test_of_ripple_again(bench: Bench) -> None:
    take(bench, file_of(switching))
    heard(bench)
    power.remove_power(bench.store, bench.number)
    for ref in ("C10", "C11"):
        decisions.decide(bench.store, bench.number, bench.id_of(ref), "fitted")
    stand = diagnosis(bench.file).state_of("ripple-live")
    assert stand is not None
    assert not stand.is_done


def test_rails_that_are_right_are_weighed_together_and_not_told(bench: Bench) -> None:
    say(bench.store, bench.number, "symptom", "ripple", "yes")
    for rail, volts in (("+5 V", "5.01"), ("+12 V", "12.1")):
        bench.read(rail, "volts", volts, "dummy")
    [alike] = of(bench, TogetherFact)
    assert not alike.is_off
    found = weighed(bench.file)
    assert alike in found.facts
    told = [*(f for f, _ in found.told), *found.misfits]
    told += [f for f, _ in found.evidence(bench.id_of("C1"))]
    assert alike not in told
    assert not diagnosis(bench.file).diagnosis.misfit


def test_rails_of_one_loop_are_held_against_each_other(bench: Bench) -> None:
    say(bench.store, bench.number, "symptom", "rails-low", "yes")
    for rail, volts in (("+5 V", "4.6"), ("+12 V", "11.05")):
        bench.read(rail, "volts", volts, "dummy")
    [alike] = of(bench, TogetherFact)
    assert "stand alike, at 92 % of nominal" in alike.words
    low = chances(bench)["feedback"]
    bench.read("+12 V", "volts", "13.6", "dummy")
    [apart] = of(bench, TogetherFact)
    assert "not off alike: 92 and 113 % of nominal" in apart.words
    assert chances(bench)["feedback"] < 0.2 * low


@pytest.mark.parametrize(("volts", "has_jumped"), [("4.6-5.2", True), ("4.98-5.02", False)])
def test_a_rail_that_jumps_is_told_apart_from_a_digit_that_does(
    bench: Bench, volts: str, has_jumped: bool
) -> None:
    bench.read("+12 V", "volts", "12.1", "machine")
    bench.read("+5 V", "volts", volts, "machine")
    [jump] = of(bench, JumpFact)
    assert jump.has_jumped is has_jumped
    assert jump.words == ("+5 V" if has_jumped else "no rail") + (
        " jumps while it is read, in the machine"
    )
    # either end of what jumps would say something of the loop that the other denies
    assert bool(of(bench, TogetherFact)) is not has_jumped


def test_no_jump_on_dummies_and_none_in_the_machine_are_one_witness_and_a_half(
    bench: Bench,
) -> None:
    for load in ("dummy", "machine"):
        bench.read("+5 V", "volts", "5.01", load)
    first, second = of(bench, JumpFact)
    found = weighed(bench.file)
    model = found.model
    joint = max(
        (n for n, e in enumerate(model.effects) if not e.in_machine),
        key=lambda n: model.effects[n].jumps,
    )

    def odds(*told: JumpFact) -> float:
        """ln of what that fault's chance has become against that of nothing wrong."""
        chances = weigh(model, told, (), found.now).chances
        return math.log(chances[1 + joint] / chances[0])

    one, both = odds(first) - odds(), odds(first, second) - odds()
    assert one < 0
    assert both == pytest.approx(1.5 * one)


def test_the_bulk_under_power_is_weighed_by_its_volts(bench: Bench) -> None:
    say(bench.store, bench.number, "symptom", "dead-whole", "yes")
    power.apply_power(bench.store, bench.number, "mains")
    before = chances(bench)
    bench.read("C1", "store", "310")
    [held] = of(bench, HeldFact)
    assert held.share == pytest.approx(1.0, abs=0.5)
    assert chances(bench)["mains-path"] < 0.2 * before["mains-path"]


@pytest.mark.parametrize(("topology", "mains", "rated", "volts", "share"), [
    ("flyback", 230, 400, "325", 1.0),       # the peak
    ("flyback", 230, 200, "160", 0.98),      # one of two in series, by its rating
    ("half-bridge", 230, 200, "163", 1.0),   # half of the peak
    ("half-bridge", 115, 200, "162", 1.0),   # each half filled by a doubler
    ("half-bridge", 115, 100, "81", 1.0),    # rated for a half of the lower peak
    ("half-bridge", 230, 200, "82", 0.5),    # starved
    ("half-bridge", 230, None, "163", 1.0),  # not known: two in series on the higher mains
])  # fmt: skip
def test_what_a_bulk_capacitor_should_hold(
    store: Store, topology: str, mains: float, rated: float | None, volts: str, share: float
) -> None:
    sheet = template(next(t for t in Topology if t.code == topology))
    bulk = next(p for p in sheet.parts if p.ref == "C1")
    marked = replace(bulk, marking=replace(bulk.marking, volt=rated))
    parts = tuple(marked if p.ref == "C1" else p for p in sheet.parts)
    fields = Fields("Box", "dead", "", "proven", "strict", None)
    sheet = replace(sheet, mains_v=mains, parts=parts)
    open_with(store, "T-9", fields, sheet, "2026-11-30T10:00", ("dead-whole",))
    bench = Bench.at(store, "T-9")
    power.apply_power(store, "T-9", "mains")
    bench.read("C1", "store", volts)
    [held] = of(bench, HeldFact)
    assert held.share == pytest.approx(share, abs=0.02)


def test_a_zener_that_breaks_down_where_it_is_marked_is_sound(store: Store) -> None:
    bench = Bench(store, "template:flyback", "ZD1 zener +5 V 6.2 V")
    bench.make_safe()
    bench.read("ZD1", "breakdown", "6.1")
    [fact] = of(bench, PartFact)
    told = weighed(bench.file).evidence(bench.id_of("ZD1"))
    assert told[0][0] == fact
    assert told[0][1] < -0.5


def test_the_page_tells_that_a_record_is_still_being_analysed(
    client: Client, monkeypatch: pytest.MonkeyPatch, demo: Store
) -> None:
    page = "/cases/LW-031/diagnosis"
    assert "is being analysed" not in client.get(page).text
    monkeypatch.setattr("hale_rail.stages.diagnosis.diagnosis.waiting", lambda _: ("+5 V",))
    assert "The ripple of +5 V is being analysed" in client.get(page).text
