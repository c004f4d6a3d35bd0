"""The diagnosis of a case: readings are its facts, the person outranks a test, time counts."""

from __future__ import annotations

import pytest

from hale_rail.actions.diagnosis.diagnosis import say
from hale_rail.actions.intake.cases import open_with
from hale_rail.actions.parts import decisions
from hale_rail.actions.power import first_power
from hale_rail.actions.power.machine_behaviour import say_did
from hale_rail.actions.safety import power
from hale_rail.case.diagnosis.diagnosis import diagnosis
from hale_rail.case.diagnosis.fact_source import standing_statements
from hale_rail.case.file import open_case
from hale_rail.core.diagnosis.case_state import BenchTestState
from hale_rail.core.supply.sheet import Topology
from hale_rail.core.supply.templates import template
from hale_rail.errors import InputError
from hale_rail.store.cases import Fields
from hale_rail.store.database import Store
from tests.conftest import Bench, Client


def stand(bench: Bench, test_id: str) -> BenchTestState:
    found = diagnosis(bench.file).state_of(test_id)
    assert found is not None
    return found


def chances(bench: Bench) -> dict[str, float]:
    return {group.id: share for group, share in diagnosis(bench.file).diagnosis.chances}


def test_readings_answer_and_the_person_outranks_them(bench: Bench) -> None:
    bench.make_safe()
    assert not diagnosis(bench.file).facts
    bench.read("F1", "ohms", "OL")
    bench.read("RT1", "ohms", "10")
    assert stand(bench, "fuse").is_done
    assert (stand(bench, "inrush").is_done, stand(bench, "inrush").is_bad) == (True, False)
    before = chances(bench)["inrush-open"]
    say(bench.store, bench.number, "result", "inrush", "open")
    assert stand(bench, "inrush").is_bad
    assert chances(bench)["inrush-open"] > 10 * before
    say(bench.store, bench.number, "result", "inrush", "")
    assert not stand(bench, "inrush").is_bad
    decisions.decide(bench.store, bench.number, bench.id_of("F1"), "fitted")
    assert not stand(bench, "fuse").is_done  # the new one is unread


def test_the_look_over_answers_what_is_asked_of_the_eye(bench: Bench) -> None:
    bench.make_safe()
    wet = [s.ref for s in bench.file.sheet.capacitors if s.family and s.family.is_wet]
    for ref in wet[:-1]:
        bench.look(ref, "none")
    assert [p.ref for p in stand(bench, "vents").parts] == [wet[-1]]  # the rest stays open
    bench.look(wet[-1], "none")
    assert stand(bench, "vents").is_done
    say(bench.store, bench.number, "symptom", "smoke", "yes")
    before = chances(bench)["suppressor"]
    bench.look("CX1", "craze", "burnt")
    assert chances(bench)["suppressor"] > max(0.9, before)
    assert diagnosis(bench.file).diagnosis.is_settled  # the eye proves it


@pytest.mark.parametrize(
    ("kind", "key", "value"),
    [
        ("symptom", "ghost", "yes"),
        ("result", "fuse", "purple"),
        ("belief", "joint", "surely"),
        ("mood", "joint", "likely"),
    ],
)
def test_what_cannot_be_said_is_refused(bench: Bench, kind: str, key: str, value: str) -> None:
    with pytest.raises(InputError):
        say(bench.store, bench.number, kind, key, value)


def test_a_bank_with_one_member_worn_is_an_answer(bench: Bench) -> None:
    """`worn` answers the test: nothing asks for it again."""
    bench.make_safe()
    say(bench.store, bench.number, "symptom", "ripple", "yes")
    for ref in ("C10", "C12", "C13"):
        bench.read(ref, "esr", "0.9")
        bench.read(ref, "c", {"C10": "3600u", "C12": "850u", "C13": "400u"}[ref])
    assert stand(bench, "bank-esr").is_done


def test_a_power_up_says_gone_or_still(bench: Bench) -> None:
    bench.make_safe()
    say(bench.store, bench.number, "symptom", "dead-whole", "yes")
    bench.read("RT1", "ohms", "OL")
    assert diagnosis(bench.file).diagnosis.faults[0][0].code == "open:RT1"
    decisions.decide(bench.store, bench.number, bench.id_of("RT1"), "fitted", "10 Ω, new")
    repaired = diagnosis(bench.file).diagnosis
    assert [f.code for f in repaired.repaired] == ["open:RT1"]
    assert repaired.chances[0][0].id == "sound"
    power.apply_power(bench.store, bench.number, "bench")
    say_did(bench.store, bench.number, "still", 1)
    still = diagnosis(bench.file).diagnosis
    assert still.chances[0][0].id != "sound"
    say_did(bench.store, bench.number, "gone", 1)
    gone = diagnosis(bench.file).diagnosis
    assert gone.chances[0][0].id == "sound"
    assert "which explains it" in gone.sentence


def test_what_was_smelt_at_power_on_counts_once(bench: Bench) -> None:
    bench.make_safe()
    say(bench.store, bench.number, "symptom", "machine-dead", "yes")
    power.apply_power(bench.store, bench.number, "bench")
    before = chances(bench)["suppressor"]
    say_did(bench.store, bench.number, "smell", 1)
    smelt = chances(bench)["suppressor"]
    assert smelt > 5 * before
    say(bench.store, bench.number, "symptom", "smoke", "yes")
    said = [f.words for f in diagnosis(bench.file).facts if "smell" in f.words]
    assert said == ["Smoke, acrid smell"]  # the complaint says it already


def test_a_lamp_that_stays_bright_is_a_short_that_would_take_the_fuse(bench: Bench) -> None:
    bench.make_safe()
    before = chances(bench)
    first_power.begin(bench.store, bench.number, "limited", reason="read at the last bench")
    first_power.stop(bench.store, bench.number, "limited", "lamp-bright")
    after = chances(bench)
    assert after["switch-short"] + after["bridge-short"] + after["bulk-short"] > 0.5
    assert after["fuse-tired"] < before["fuse-tired"], "an open fuse leaves the lamp dark"
    assert after["bank-dry"] < 0.3 * before["bank-dry"]


@pytest.mark.parametrize(
    ("code", "rises"),
    [
        ("current-limit", "switch-short"),
        ("noise", "rectifier-short"),
        ("fuse-blew", "switch-short"),
        ("breaker", "suppressor"),
        ("gives-up", "rectifier-short"),
        ("nothing", "control-dead"),
        ("smoke", "suppressor"),
        ("smell", "suppressor"),
        ("bang", "suppressor"),
    ],
)
def test_what_stopped_first_power_speaks_of_what_does_that(
    bench: Bench, code: str, rises: str
) -> None:
    bench.make_safe()
    before = chances(bench)
    first_power.begin(bench.store, bench.number, "limited", reason="read at the last bench")
    first_power.stop(bench.store, bench.number, "limited", code)
    after = chances(bench)
    assert after[rises] > 1.5 * before[rises]
    assert after["bank-dry"] < before["bank-dry"], "a unit that runs is what it is not"
    told = [f.words for f in diagnosis(bench.file).facts]
    assert len(told) == len(set(told))


def test_a_story_that_the_complaint_tells_already_counts_once(bench: Bench) -> None:
    bench.make_safe()
    say(bench.store, bench.number, "symptom", "breaker", "yes")
    before = chances(bench)
    first_power.begin(bench.store, bench.number, "limited", reason="read at the last bench")
    first_power.stop(bench.store, bench.number, "limited", "breaker")
    assert chances(bench) == before


def test_readings_of_a_rail_go_stale_with_a_part_on_it(bench: Bench) -> None:
    bench.make_safe()
    bench.read("+12 V", "ground", "0.4", "isolated")
    assert diagnosis(bench.file).stale == ()
    decisions.decide(bench.store, bench.number, bench.id_of("D12"), "fitted")
    assert [r.target.rail for r in diagnosis(bench.file).stale] == ["+12 V"]


def test_the_demo_hunt_ends_at_the_switch(demo: Store) -> None:
    found = diagnosis(open_case(demo, "LW-014")).diagnosis
    assert found.chances[0][0].id == "switch-short"
    assert found.is_settled
    assert "Q1 shorted" in found.sentence
    found = diagnosis(open_case(demo, "LW-022")).diagnosis
    assert found.chances[0][0].id == "board-short"


def test_saying_it_from_the_page(client: Client, demo: Store) -> None:
    page = client.text("/cases/LW-009/diagnosis")
    assert "Where to look next" in page
    fields = {"kind": "symptom", "key": "warm", "value": "yes"}
    path = "/cases/LW-009/do/find"
    assert client.post(path, **fields).status_code == 303
    assert "warm" in standing_statements(open_case(demo, "LW-009"))["symptom"]
    assert client.post(path, **(fields | {"value": ""})).status_code == 303
    assert "warm" not in standing_statements(open_case(demo, "LW-009"))["symptom"]
    refused = client.post(path, **(fields | {"key": "ghost"}))
    assert refused.status_code == 422
    assert "not a symptom" in refused.get_data(as_text=True)


def test_where_proof_is_dear_a_try_is_offered(bench: Bench) -> None:
    """A connector under suspicion, every gate read and good: exchange it and try."""
    bench.make_safe()
    say(bench.store, bench.number, "symptom", "low-at-board", "yes")
    assert diagnosis(bench.file).diagnosis.trial is None  # rails to ground are unread
    for test_id in ("isolated", "attached", "bulk-ohm", "bridge", "switch", "rectifiers"):
        sound = stand(bench, test_id).test.sound
        say(bench.store, bench.number, "result", test_id, sound)
    found = diagnosis(bench.file).diagnosis.trial
    assert found is not None
    assert (found.fault.ref, found.is_exchange) == ("P1", True)
    assert found.words == "Exchange P1"


def test_joints_that_nothing_tells_apart_are_reflowed_in_one_go(bench: Bench) -> None:
    bench.make_safe()
    say(bench.store, bench.number, "symptom", "warm", "yes")
    for _ in range(20):
        test = diagnosis(bench.file).diagnosis.next
        assert test is not None
        if test.test.is_live:
            break
        say(bench.store, bench.number, "result", test.test.id, test.test.sound)
    assert test.test.id == "tap"
    say(bench.store, bench.number, "result", "tap", "changes at the outputs")
    trial = diagnosis(bench.file).diagnosis.trial
    assert trial is not None
    refs = {f.ref for f in (trial.fault, *trial.also)}
    assert {"D10", "D12", "D13"} <= refs
    assert "T1" not in refs  # on the mains side, where a tap changed nothing
    assert trial.words.startswith("Reflow the joints of D1")
    assert trial.share > 0.8


def test_a_phrase_that_fits_nothing_says_so(client: Client, demo: Store) -> None:
    fields = Fields("Box", "the label peels", "", "proven", "strict", None)
    open_with(demo, "LW-077", fields, template(Topology.FLYBACK), "2026-11-30T12:00", ())
    assert "fits none of these" in client.text("/cases/LW-077/diagnosis")


def test_one_press_shows_what_speaks_for_and_against_a_part(client: Client, demo: Store) -> None:
    case = open_case(demo, "LW-014")
    switch = next(p for p in case.sheet.parts if p.ref == "Q1")
    page = client.text(f"/cases/LW-014/diagnosis?by={switch.id}")
    assert "Evidence about Q1" in page
    assert "Q1 C to E reads" in page
    assert "strongly" in page
    assert 'class="share ring"' in page
