"""The diagnosis against an exhaustive Bayes calculation written here; the shipped knowledge."""

from __future__ import annotations

import itertools
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.diagnosis import engine
from hale_rail.core.diagnosis.engine import Evidence, diagnose
from hale_rail.core.diagnosis.knowledge import BenchTest, Hypothesis, Knowledge, Symptom
from hale_rail.core.errors import InputError
from hale_rail.core.supply.sheet import Topology
from hale_rail.formats.knowledge import knowledge_for, read_knowledge

SHARE = st.floats(0.01, 0.99)


def bench_test(
    name: str, given: dict[str, float], minutes: float = 1, danger: str = "cold", **more: object
) -> BenchTest:
    """A test of two results, the first found with the chance given."""
    said = (f"{name} bad", f"{name} good")
    shares = {key: (p, 1 - p) for key, p in given.items()}
    return BenchTest(
        name, name, "", ("bad", "good"), said, minutes, danger, (0.5, 0.5), shares, **more
    )  # type: ignore[arg-type]


RESULTS = ("bad", "odd", "good")


def three_ways(name: str, draw: st.DrawFn, faults: list[str]) -> BenchTest:
    """A test of three results."""
    shares = {}
    for fault in faults:
        parts = [draw(SHARE) for _ in RESULTS]
        shares[fault] = tuple(p / sum(parts) for p in parts)
    return BenchTest(
        name, name, "", RESULTS, RESULTS, draw(st.floats(1, 9)), "cold", (0.3, 0.3, 0.4), shares
    )


@st.composite
def small_worlds(draw: st.DrawFn) -> tuple[Knowledge, Evidence]:
    faults = [f"h{i}" for i in range(draw(st.integers(2, 4)))]
    hypotheses = tuple(Hypothesis(f, f, "", draw(st.floats(0.1, 5))) for f in faults)
    symptoms = tuple(
        Symptom(f"s{i}", f"s{i}", 0.5, {f: draw(SHARE) for f in faults}) for i in range(2)
    )
    tests = tuple(three_ways(f"t{i}", draw, faults) for i in range(4))
    shown = tuple(s.id for s in symptoms if draw(st.booleans()))
    results = tuple((t.id, draw(st.sampled_from(t.results))) for t in tests if draw(st.booleans()))
    return Knowledge(hypotheses, symptoms, tests), Evidence(shown, results)


def joint(knowledge: Knowledge, evidence: Evidence) -> dict[tuple[str, ...], float]:
    """P(fault, every result), given the symptoms: the whole table, cell by cell."""
    table = {}
    for hypothesis in knowledge.hypotheses:
        for results in itertools.product(RESULTS, repeat=len(knowledge.tests)):
            p = hypothesis.weight
            for symptom in knowledge.symptoms:
                if symptom.id in evidence.symptoms:
                    p *= symptom.given[hypothesis.id]
            for test, result in zip(knowledge.tests, results, strict=True):
                p *= test.given[hypothesis.id][RESULTS.index(result)]
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
        for result in RESULTS:
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


GATED = Knowledge(
    (
        Hypothesis("short", "short", "", 1, "Replace it.", ("short:diode",)),
        Hypothesis("dry", "dry bank", "", 3, "Recap."),
        Hypothesis("fuse-tired", "fuse", "", 1, "Fit one."),
        Hypothesis("joint", "joint", "", 1, "Solder it."),
    ),
    (
        Symptom("dead", "Dead", 0.01, {"short": 0.5, "fuse-tired": 0.5, "joint": 0.3},
                {"fuse": "bad"}),
        Symptom("warm", "Warm", 0.2, {"joint": 0.8, "dry": 0.5}),
    ),
    (
        bench_test("fuse", {"fuse-tired": 0.99, "short": 0.9, "dry": 0.02, "joint": 0.02}),
        bench_test("diode", {"short": 0.97, "dry": 0.02, "fuse-tired": 0.02, "joint": 0.02},
                   is_gate=True),
        bench_test("rail", {"short": 0.9, "dry": 0.02, "fuse-tired": 0.02, "joint": 0.02}, 4,
                   is_gate=True),
        bench_test("out", {"short": 0.98, "dry": 0.02, "fuse-tired": 0.02, "joint": 0.02}, 6,
                   "lift", after={"diode": ("bad",)}),
        bench_test("heat", {"joint": 0.97, "dry": 0.02, "short": 0.02, "fuse-tired": 0.02}, 1,
                   "live", not_with=("dead",)),
        bench_test("power", {"joint": 0.9, "dry": 0.1, "short": 0.1, "fuse-tired": 0.9}, 1, "live"),
    ),
)  # fmt: skip


def next_of(symptom: str, *results: tuple[str, str], **more: object) -> str:
    evidence = Evidence((symptom,), results, **more)  # type: ignore[arg-type]
    found = diagnose(GATED, evidence).next
    return found.test.id if found else ""


@pytest.mark.parametrize(
    ("symptom", "results", "wanted"),
    [
        ("dead", (), "diode"),  # the fuse is said already, so it is not asked
        ("dead", (("diode", "bad"),), "out"),  # what reads short in circuit is lifted
        ("dead", (("diode", "good"),), "rail"),  # cold gates before any power
        ("dead", (("diode", "good"), ("rail", "good")), "power"),  # never heat on a dead unit
        ("warm", (("fuse", "good"), ("diode", "good"), ("rail", "good")), "heat"),
        ("warm", (("fuse", "good"), ("diode", "good")), "rail"),
        ("warm", (("diode", "good"), ("rail", "bad")), "fuse"),  # no power beside a bad gate
        ("dead", (("diode", "bad"), ("out", "bad")), ""),  # settled
    ],
)
def test_the_order_of_tests(
    symptom: str, results: tuple[tuple[str, str], ...], wanted: str
) -> None:
    assert next_of(symptom, *results) == wanted


@given(
    st.sampled_from(["dead", "warm"]),
    st.dictionaries(st.sampled_from([t.id for t in GATED.tests]), st.sampled_from(["bad", "good"])),
)
def test_power_is_never_next_before_the_cold_gates_are_read_good(
    symptom: str, results: dict[str, str]
) -> None:
    found = diagnose(GATED, Evidence((symptom,), tuple(results.items()))).next
    if found and found.test.is_live:
        assert results.get("diode") == results.get("rail") == "good"
        assert not (found.test.id == "heat" and symptom == "dead")


def test_what_the_symptom_states_is_no_evidence_twice() -> None:
    alone = diagnose(GATED, Evidence(("dead",)))
    stated = diagnose(GATED, Evidence(("dead",), (("fuse", "bad"),)))
    assert stated.chances == alone.chances
    against = diagnose(GATED, Evidence(("dead",), (("fuse", "good"),)))
    assert against.chances != alone.chances


def test_the_fuse_alone_is_settled_only_when_every_short_is_excluded() -> None:
    sure = (("power", "bad"), ("diode", "good"))
    believed = (("joint", "ruled out"),)
    evidence = Evidence(("dead",), sure, believed)
    assert not diagnose(GATED, evidence).is_settled
    assert diagnose(GATED, Evidence(("dead",), (*sure, ("rail", "good")), believed)).is_settled


def test_a_proven_part_settles_what_it_explains_and_a_repair_closes_it() -> None:
    hint = (("diode", "bad"), ("rail", "bad"))
    assert not diagnose(GATED, Evidence(("dead",), hint)).is_settled  # in circuit, no proof
    proven = diagnose(GATED, Evidence(("dead",), hint, proven=frozenset({"short"})))
    assert proven.is_settled
    assert proven.chances[0][0].id == "short"
    # a dried bank, proven, does not explain a dead unit
    other = diagnose(GATED, Evidence(("dead",), proven=frozenset({"dry"})))
    assert other.chances[0][0].id != "dry"
    repaired = Evidence(("dead",), repaired=frozenset({"short"}))
    after = diagnose(GATED, repaired)
    assert "is replaced and explains the symptom" in after.sentence
    assert not after.is_settled
    # two faults: what is found since is hunted on
    more = diagnose(GATED, Evidence(("dead", "warm"), repaired=frozenset({"short"})))
    assert more.chances[0][0].id in ("joint", "dry")


def test_a_fault_that_no_part_of_the_sheet_can_have_is_unlikely_not_impossible() -> None:
    there = {h.id: p for h, p in diagnose(GATED, Evidence(("dead",))).chances}
    absent = diagnose(GATED, Evidence(("dead",), absent=frozenset({"short"})))
    gone = {h.id: p for h, p in absent.chances}
    assert 0 < gone["short"] < there["short"]


SOUND = "none shorted, none open"
HUNTS = [
    (Topology.FLYBACK, ["fuse-black"], {"bridge": SOUND, "bulk-out": "the short stays"},
     "switch-short", False),
    (Topology.FLYBACK, ["fuse-black"], {"bridge": "a junction reads short",
                                        "bulk-out": "the short stays",
                                        "switch": "reads sound"}, "bridge-short", True),
    (Topology.HALF_BRIDGE, ["dead-whole"], {"fuse": "whole", "path": "conducts",
                                            "inrush": "open"}, "inrush-open", True),
    (Topology.HALF_BRIDGE, ["dead-whole"], {"start": "bad", "inrush": "conducts",
                                            "winding": "conducts", "path": "conducts"},
     "start-path", True),
    (Topology.LINEAR, ["rail-missing"], {"attached": "a rail is low", "isolated": "no short"},
     "board-short", True),
    (Topology.FLYBACK, ["hiccup"], {"isolated": "a rail is low", "rectifier-out": "shorted"},
     "rectifier-short", True),
    (Topology.HALF_BRIDGE, ["low-at-board"], {"drop": "drops on the way"}, "contact", True),
    (Topology.HALF_BRIDGE, ["ripple"], {"bank-esr": "bad", "bulk-esr": "good",
                                        "bridge": SOUND}, "bank-dry", True),
    (Topology.LINEAR, ["ripple"], {"bulk-esr": "bad", "bridge": SOUND}, "bulk-dry", True),
    (Topology.HALF_BRIDGE, ["rails-low"], {"rails-live": "off together", "bulk-esr": "good",
                                           "bridge": SOUND, "dummy": "still wrong"},
     "feedback", True),
    (Topology.FLYBACK, ["smoke"], {"scorch": "crazed or burnt"}, "suppressor", True),
    (Topology.FLYBACK, ["second-try"], {"start": "bad"}, "start-path", True),
    (Topology.DC_FED, ["warm"], {"joints": "cracked", "heat": "changes with heat"}, "joint", True),
    (Topology.FLYBACK, ["no-load-only"], {"dummy": "runs right", "attached": "as expected"},
     "overload", False),
    (Topology.FLYBACK, ["crackle"], {"joints": "cracked"}, "joint", True),
    (Topology.LINEAR, ["fuse-clean"], {"bridge": SOUND, "bulk-ohm": "climbs"},
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
        assert hypothesis.faults
        assert all(":" in fault for fault in hypothesis.faults)
    for symptom in knowledge.symptoms:
        assert set(symptom.given) & faults, symptom.id
        assert set(symptom.given) == set(symptom.why)
    ids = {test.id for test in knowledge.tests}
    for test in knowledge.tests:
        assert set(test.given) == set(test.why)
        assert all(abs(sum(shares) - 1) < 1e-9 for shares in test.given.values())
        for other, wanted in test.after.items():
            before = knowledge.test(other)
            assert other not in ids or (before and set(wanted) & set(before.results)), test.id
    assert knowledge.suggested("It is DEAD, the fuse blackened twice")[0].id == "fuse-black"


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("[[", "no TOML"),
        ('[[symptom]]\nid="s"\nname="s"\nusual=0.1\ngiven={ghost=[0.5,"x"]}', "ghost"),
        ('[[symptom]]\nid="s"\nname="s"\nusual=1.5\ngiven={}', "no chance"),
        (('[[test]]\nid="t"\nname="t"\nhow=""\nresults=["a","a"]\nsaid=["a","b"]\nminutes=1\n'
         'danger="cold"\nusual=[0.5]\ngiven={}'), "two results"),
        (('[[test]]\nid="t"\nname="t"\nhow=""\nresults=["a","b"]\nsaid=["a","b"]\nminutes=0\n'
         'danger="cold"\nusual=[0.5]\ngiven={}'), "minutes above 0"),
        (('[[test]]\nid="t"\nname="t"\nhow=""\nresults=["a","b","c"]\nsaid=["a","b","c"]\nminutes=1\n'
         'danger="cold"\nusual=[0.5]\ngiven={}'), "each result but the last"),
    ],
)  # fmt: skip
def test_knowledge_that_does_not_add_up_is_refused(text: str, says: str) -> None:
    with pytest.raises(InputError, match=says):
        read_knowledge(text, Topology.LINEAR)
