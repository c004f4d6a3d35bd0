"""The guard at other benches: charged, taken live, unread before power, stopped by a bang."""

from __future__ import annotations

from typing import Any

import pytest
from msgspec.structs import replace

from hale_rail.actions import readings
from hale_rail.actions.power import first_power as actions
from hale_rail.case.history import entries
from hale_rail.case.parts.parts import parts
from hale_rail.case.power.first_power import current, unread_before_power
from hale_rail.case.safety.energy import charge_words, energy
from hale_rail.core.power.plan import steps
from hale_rail.core.safety.energy import Energy
from hale_rail.core.supply.sheet import Topology
from hale_rail.core.supply.templates import template
from hale_rail.errors import InputError
from hale_rail.stages.frame.next_step import next_step
from hale_rail.stages.frame.tray import result_of
from hale_rail.store.database import Store
from hale_rail.web import create_app
from tests.conftest import Bench
from tests.settled.judging import judge, part_of, rail_of, words_of

PARTS = (
    {"ref": "C1", "kind": "capacitor", "family": "aluminium", "value": "100u", "volt": 400,
     "role": "bulk"},
    {"ref": "C20", "kind": "capacitor", "family": "aluminium", "line": "+12 V", "value": "470u",
     "volt": 25},
    {"ref": "F1", "kind": "fuse", "value": "2A"},
)  # fmt: skip


def told(*rows: str) -> Any:
    return judge(*rows, parts=PARTS)


@pytest.mark.parametrize(
    ("rows", "state", "charged"),
    [
        (("|power||off", "C1|store||168"), "waiting", "C1 168 V"),
        (("C1|store||168",), "unknown", "C1 168 V"),
        (("|power||off", "C1|store||55-65"), "waiting", "C1 65 V"),  # by its higher end
        (("|power||off", "C1|store||<5"), "dead", None),
        (("|power||off", "C1|store||0.3"), "dead", None),
        (("|power||off", "C1|store||168", "C1|store||2"), "dead", None),
        (("|power||off", "C1|store||168", "|power||mains"), "live", None),
    ],
)
def test_charged_is_a_state_of_its_own(
    rows: tuple[str, ...], state: str, charged: str | None
) -> None:
    found = told(*rows)["energy"]
    assert found["state"] == state
    assert (found["charged"] or "").replace("\u00a0", " ") == (charged or "")


@pytest.mark.parametrize(
    ("rows", "verdict", "says"),
    [
        (("|power||mains", "C20|esr|lifted|0.3"), "unread", "while power was on"),
        (("|power||off", "C20|esr|lifted|0.3"), "good", ""),
        (("|power||mains", "C20|esr|lifted|0.3", "|power||off"), "unread", "while power was on"),
        (("+5 V|volts|dummy|5.02", "F1|ohms|lifted|OL"), "", "while power was on"),
        (("|power||off", "C1|store||168", "C1|ohms|lifted|0.2"), "", "read charged"),
        (("|power||off", "C1|store||168", "C1|store||2", "C1|ohms|lifted|0.2"), "", "shorted"),
    ],
)
def test_a_cold_reading_taken_live_judges_nothing(
    rows: tuple[str, ...], verdict: str, says: str
) -> None:
    found = told(*rows)
    assert found["problems"] == []
    part = part_of(found, rows[-1].split("|")[0] or "C20")
    assert says in words_of(part) and not (says.startswith("while") and part["verdict"] == "failed")
    assert not verdict or part["verdict"] == verdict


def test_ohms_to_ground_taken_live_judge_nothing() -> None:
    row = "+5 V|ground|attached|0.4"
    assert rail_of(told("|power||mains", row), "+5 V")["ground"]["attached"] is None
    assert rail_of(told("|power||off", row), "+5 V")["ground"]["attached"] == "short"


def test_low_volts_before_the_plug_is_logged_are_not_called_charged(store: Store) -> None:
    bench = Bench(store)
    for text, word in (("0.3", "not logged"), ("168", "charged")):
        bench.read("C1", "store", text)
        reading = max(bench.file.rows.readings)
        meaning = result_of(bench.file, reading).meaning  # type: ignore[union-attr]
        assert meaning.word == word
    assert energy(bench.file).energy is Energy.CHARGED
    assert charge_words(bench.file).replace("\u00a0", " ") == "C1 168 V"
    assert next_step(bench.file).text.startswith("Pull the plug, then bleed C1")


def test_power_waits_for_what_is_unread_or_for_a_reason(store: Store) -> None:
    bench = Bench(store)
    bench.make_safe()
    assert unread_before_power(bench.file) == ("F1, BR1, C1, Q1", "+5 V, +12 V, −12 V to ground")
    with pytest.raises(InputError, match="Unread: F1, BR1"):
        actions.begin(store, bench.number, "limited", reason="no")
    bench.read("F1", "ohms", "0.1")
    assert unread_before_power(bench.file)[0] == "BR1, C1, Q1"
    actions.begin(store, bench.number, "limited", reason="read at the last bench")
    log = " ".join(entry.text for entry in entries(bench.file))
    assert "BR1, C1, Q1; +5 V" in log and "read at the last bench" in log
    assert unread_before_power(bench.file) == ()  # the next steps do not ask for it again
    # a reading that is taken back is unread again, whatever was written of the others
    fuse = bench.point("F1", "ohms")
    readings.strike(store, bench.number, bench.file.rows.standing[fuse.key].id)
    assert unread_before_power(bench.file)[0].startswith("F1")


def test_a_stop_ends_the_reason_for_what_was_unread(store: Store) -> None:
    bench = Bench(store)
    bench.make_safe()
    before = unread_before_power(bench.file)
    actions.begin(store, bench.number, "limited", reason="read at the last bench")
    actions.stop(store, bench.number, "limited", "bang")
    assert unread_before_power(bench.file) == before


def test_a_bang_asks_which_part_and_ohms_again(store: Store) -> None:
    bench = Bench(store)
    bench.make_safe()
    bench.read("F1", "ohms", "0.1")
    bench.read("C12", "esr", "40m", "lifted")
    actions.begin(store, bench.number, "limited", reason="the rest was read elsewhere")
    actions.stop(store, bench.number, "limited", "bang")
    actions.blame(store, bench.number, "limited", bench.id_of("C13"))
    known = parts(bench.file)
    assert "vented" in known[bench.id_of("C13")].seen
    assert bench.state("C13") == "failed"
    actions.clear(store, bench.number, "limited", "C13 was the wrong way round")
    assert unread_before_power(bench.file)[0].startswith("F1")  # its ohms are from before the bang
    assert bench.state("C12") == "good"  # no bang changes an ESR that was read
    here = current(bench.file)
    assert here and here.state == "next"


def test_a_unit_that_is_its_own_load_has_no_supply_alone() -> None:
    sheet = replace(template(Topology.FLYBACK), is_self_loaded=True)
    assert [step.key for step in steps(sheet)] == ["limited", "whole"]
    assert all(step.load.code == "machine" for step in steps(sheet))


def test_a_page_that_can_refuse_by_the_guard_shows_it(store: Store) -> None:
    bench = Bench(store)
    with create_app(store).test_client() as client:
        for stage in ("hand-back", "cold", "shorts", "capacitors"):
            page = client.get(f"/cases/{bench.number}/{stage}").get_data(as_text=True)
            assert "First: is it dead?" in page, stage
        bench.make_safe()
        page = client.get(f"/cases/{bench.number}/hand-back").get_data(as_text=True)
        assert "First: is it dead?" not in page
