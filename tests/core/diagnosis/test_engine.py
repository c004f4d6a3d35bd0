"""The diagnosis against an exhaustive Bayes calculation written here; the shipped knowledge."""

from __future__ import annotations

import itertools
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.diagnosis import engine
from hale_rail.core.diagnosis.engine import Evidence, Hypothesis, Knowledge, Symptom, diagnose
from hale_rail.core.errors import InputError
from hale_rail.core.supply.sheet import Topology
from hale_rail.formats.knowledge import knowledge_for, read_knowledge

SHARE = st.floats(0.01, 0.99)


def bench_test(
    name: str, given: dict[str, float], minutes: float = 1, danger: str = "cold"
) -> engine.BenchTest:
    said = (f"{name} bad", f"{name} good")
    return engine.BenchTest(
        name, name, "", ("bad", "good"), said, minutes, danger, 0.5, given, {}
    )  # fmt: skip


@st.composite
def small_worlds(draw: st.DrawFn) -> tuple[Knowledge, Evidence]:
    faults = [f"h{i}" for i in range(draw(st.integers(2, 4)))]
    hypotheses = tuple(Hypothesis(f, f, "", draw(st.floats(0.1, 5))) for f in faults)
    symptoms = tuple(
        Symptom(f"s{i}", f"s{i}", 0.5, {f: draw(SHARE) for f in faults}) for i in range(2)
    )
    tests = tuple(
        bench_test(f"t{i}", {f: draw(SHARE) for f in faults}, draw(st.floats(1, 9)))
        for i in range(4)
    )
    shown = tuple(s.id for s in symptoms if draw(st.booleans()))
    results = tuple((t.id, draw(st.sampled_from(t.results))) for t in tests if draw(st.booleans()))
    return Knowledge(hypotheses, symptoms, tests), Evidence(shown, results)


def joint(knowledge: Knowledge, evidence: Evidence) -> dict[tuple[str, ...], float]:
    """P(fault, every result), given the symptoms: the whole table, cell by cell."""
    table = {}
    for hypothesis in knowledge.hypotheses:
        for results in itertools.product(("bad", "good"), repeat=len(knowledge.tests)):
            p = hypothesis.weight
            for symptom in knowledge.symptoms:
                if symptom.id in evidence.symptoms:
                    p *= symptom.given[hypothesis.id]
            for test, result in zip(knowledge.tests, results, strict=True):
                bad = test.given[hypothesis.id]
                p *= bad if result == "bad" else 1 - bad
            table[(hypothesis.id, *results)] = p
    return table


def seen(table: dict[tuple[str, ...], float], knowledge: Knowledge, evidence: Evidence):  # type: ignore[no-untyped-def]
    """The cells that agree with the results, normalised."""
    place = {t.id: i + 1 for i, t in enumerate(knowledge.tests)}
    kept = {
        cell: p
        for cell, p in table.items()
        if all(cell[place[t]] == result for t, result in evidence.results)
    }
    total = math.fsum(kept.values())
    return {cell: p / total for cell, p in kept.items()}


def entropy(shares: list[float]) -> float:
    return -math.fsum(p * math.log2(p) for p in shares if p > 0)


def spread(cells: dict[tuple[str, ...], float], place: int) -> list[float]:
    values: dict[str, float] = {}
    for cell, p in cells.items():
        values[cell[place]] = values.get(cell[place], 0.0) + p
    return list(values.values())


@given(small_worlds())
def test_chances_are_those_of_the_whole_table(world: tuple[Knowledge, Evidence]) -> None:
    knowledge, evidence = world
    cells = seen(joint(knowledge, evidence), knowledge, evidence)
    for hypothesis, chance in diagnose(knowledge, evidence).chances:
        exact = math.fsum(p for cell, p in cells.items() if cell[0] == hypothesis.id)
        assert chance == pytest.approx(exact, rel=1e-9)


@given(small_worlds())
def test_information_is_the_expected_fall_of_entropy(world: tuple[Knowledge, Evidence]) -> None:
    """Over the table: H(fault) − Σ P(result)·H(fault | result), for every test not done."""
    knowledge, evidence = world
    cells = seen(joint(knowledge, evidence), knowledge, evidence)
    place = {t.id: i + 1 for i, t in enumerate(knowledge.tests)}
    before = entropy(spread(cells, 0))
    ranked = diagnose(knowledge, evidence).tests
    assert {r.test.id for r in ranked} == set(place) - {t for t, _ in evidence.results}
    for item in ranked:
        after = 0.0
        for result in ("bad", "good"):
            part = {c: p for c, p in cells.items() if c[place[item.test.id]] == result}
            share = math.fsum(part.values())
            if share > 0:
                after += share * entropy([p / share for p in spread(part, 0)])
        assert item.bits == pytest.approx(before - after, abs=1e-9)
    worth = [r.bits_per_minute for r in ranked if r.bits >= engine.WORTH_BITS]
    assert worth == sorted(worth, reverse=True)


TWO = Knowledge(
    (Hypothesis("a", "part A", "", 1, "Replace A."), Hypothesis("b", "part B", "", 1)),
    (),
    (
        bench_test("live", {"a": 0.99, "b": 0.01}, 1, "live"),
        bench_test("cold", {"a": 0.8, "b": 0.2}, 5),
        bench_test("idle", {"a": 0.5, "b": 0.5}, 1),
    ),
)


def test_cold_stands_before_live_while_it_tells_enough() -> None:
    assert [r.test.id for r in diagnose(TWO, Evidence()).tests] == ["cold", "live", "idle"]
    found = diagnose(TWO, Evidence(results=(("cold", "bad"),)))
    assert found.tests[0].test.id == "live"
    assert "needs power" in found.sentence


def test_what_the_person_says_counts() -> None:
    out = diagnose(TWO, Evidence(beliefs=(("a", "ruled out"),)))
    assert {h.id: p for h, p in out.chances} == {"a": 0.0, "b": 1.0}
    likely = diagnose(TWO, Evidence(beliefs=(("a", "likely"),)))
    assert {h.id: p for h, p in likely.chances}["a"] == pytest.approx(0.8)
    nothing = diagnose(TWO, Evidence(beliefs=(("a", "ruled out"), ("b", "ruled out"))))
    assert nothing.contradiction
    assert "two faults" in nothing.sentence


def test_the_sentence_names_the_results_and_the_remedy() -> None:
    found = diagnose(TWO, Evidence(results=(("live", "bad"), ("cold", "bad"))))
    assert found.sentence == (
        "Live bad and cold bad: it is the part A, over 99 %. Replace A."
    )  # fmt: skip
    assert found.is_settled
    assert not diagnose(TWO, Evidence(results=(("cold", "bad"),))).is_settled


HUNTS = [
    (Topology.FLYBACK, ["fuse-black"], {"bridge": "good", "bulk-out": "short stays"},
     "switch-short", False),
    (Topology.FLYBACK, ["fuse-black"], {"bridge": "bad", "bulk-out": "short stays",
                                        "switch": "not shorted"}, "bridge-short", True),
    (Topology.HALF_BRIDGE, ["dead-whole"], {"fuse": "whole", "path": "conducts",
                                            "inrush": "open"}, "inrush-open", True),
    (Topology.HALF_BRIDGE, ["dead-whole"], {"start": "bad", "inrush": "conducts",
                                            "winding": "conducts", "path": "conducts"},
     "start-path", True),
    (Topology.LINEAR, ["rail-missing"], {"attached": "a rail is low", "isolated": "no short"},
     "board-short", True),
    (Topology.FLYBACK, ["hiccup"], {"isolated": "a rail is short", "rectifiers": "bad"},
     "rectifier-short", True),
    (Topology.HALF_BRIDGE, ["low-at-board"], {"drop": "drops on the way"}, "contact", True),
    (Topology.HALF_BRIDGE, ["ripple"], {"bank-esr": "bad", "bulk-esr": "good",
                                        "bridge": "good"}, "bank-dry", True),
    (Topology.LINEAR, ["ripple"], {"bulk-esr": "bad", "bridge": "good"}, "bulk-dry", True),
    (Topology.HALF_BRIDGE, ["rails-low"], {"rails-live": "off together", "bulk-esr": "good",
                                           "bridge": "good", "dummy": "still wrong"},
     "feedback", True),
    (Topology.FLYBACK, ["smoke"], {"scorch": "crazed or burnt"}, "suppressor", True),
    (Topology.FLYBACK, ["second-try"], {"start": "bad"}, "start-path", True),
    (Topology.DC_FED, ["warm"], {"joints": "cracked", "heat": "changes with heat"}, "joint", True),
    (Topology.FLYBACK, ["no-load-only"], {"dummy": "runs right", "attached": "as expected"},
     "overload", False),
    (Topology.FLYBACK, ["crackle"], {"joints": "cracked"}, "joint", True),
    (Topology.LINEAR, ["fuse-clean"], {"bridge": "good", "bulk-ohm": "climbs"},
     "fuse-tired", True),
]  # fmt: skip


@pytest.mark.parametrize(("topology", "symptoms", "results", "fault", "is_half"), HUNTS)
def test_hunts_a_bench_would_agree_with(
    topology: Topology, symptoms: list[str], results: dict[str, str], fault: str, is_half: bool
) -> None:
    knowledge = knowledge_for(topology)
    found = diagnose(knowledge, Evidence(tuple(symptoms), tuple(results.items())))
    leader, chance = found.chances[0]
    assert leader.id == fault, [(h.id, round(p, 2)) for h, p in found.chances[:4]]
    assert chance >= 0.5 or not is_half
    assert found.sentence


@pytest.mark.parametrize("topology", list(Topology))
def test_shipped_knowledge_is_whole(topology: Topology) -> None:
    knowledge = knowledge_for(topology)
    faults = {h.id for h in knowledge.hypotheses}
    assert len(faults) >= 8
    assert len(knowledge.symptoms) >= 12
    for hypothesis in knowledge.hypotheses:
        assert hypothesis.remedy.endswith(".")
        telling = [t for t in knowledge.tests if hypothesis.id in t.given]
        assert telling, f"no test tells {hypothesis.id}"
    for symptom in knowledge.symptoms:
        assert set(symptom.given) & faults or symptom.id == "fuse-black", symptom.id


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("[[", "no TOML"),
        ('[[symptom]]\nid="s"\nname="s"\nusual=0.1\ngiven={ghost=0.5}', "ghost"),
        ('[[symptom]]\nid="s"\nname="s"\nusual=1.5\ngiven={}', "no chance"),
        (('[[test]]\nid="t"\nname="t"\nhow=""\nresults=["a","a"]\nsaid=["a","b"]\nminutes=1\n'
         'danger="cold"\nusual=0.5\ngiven={}'), "two results"),
        (('[[test]]\nid="t"\nname="t"\nhow=""\nresults=["a","b"]\nsaid=["a","b"]\nminutes=0\n'
         'danger="cold"\nusual=0.5\ngiven={}'), "minutes above 0"),
    ],
)  # fmt: skip
def test_knowledge_that_does_not_add_up_is_refused(text: str, says: str) -> None:
    with pytest.raises(InputError, match=says):
        read_knowledge(text, Topology.LINEAR)
